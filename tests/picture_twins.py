"""Plain NumPy versions of the picture's kernels, in double precision and one whole picture at a time."""

from __future__ import annotations

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view

from tests.twins import value_noise
from wraithon.ground.ground import METRES
from wraithon.picture import light
from wraithon.project.staging.ground import Sky

KEY = np.array([light.KEY_R, light.KEY_G, light.KEY_B], float)
SKY = np.array([light.SKY_R, light.SKY_G, light.SKY_B], float)
LOW = np.array([light.LOW_R, light.LOW_G, light.LOW_B], float)
RIM = np.array([light.RIM_R, light.RIM_G, light.RIM_B], float)
TOP, HAZE = np.array(Sky().top), np.array(Sky().haze)


def unit(vectors):
    return vectors / np.maximum(np.linalg.norm(vectors, axis=-1, keepdims=True), 1e-9)


def bilinear(values, x, y):
    """Return values (H, W, C) between their middles, held at the border."""
    height, width = values.shape[:2]
    x, y = np.clip(x, 0, width - 1), np.clip(y, 0, height - 1)
    x0, y0 = np.floor(x).astype(int), np.floor(y).astype(int)
    x1, y1 = np.minimum(x0 + 1, width - 1), np.minimum(y0 + 1, height - 1)
    sx, sy = (x - x0)[..., None], (y - y0)[..., None]
    top = values[y0, x0] * (1 - sx) + values[y0, x1] * sx
    return top * (1 - sy) + (values[y1, x0] * (1 - sx) + values[y1, x1] * sx) * sy


def middles(many, few):
    """Return where `many` pixels' middles lie among those of `few`."""
    return (np.arange(many) + 0.5) * few / many - 0.5


# ---- what is solid --------------------------------------------------------------------------------


def projected(points, camera, width, height):
    """Return sample x, y and inverse distance (N, 3), at two by two samples a pixel; 0 when behind."""
    local = (points.astype(float) - camera.eye) @ camera.basis.T.astype(float)
    ahead = np.where(local[:, 2] < 0.02, np.inf, local[:, 2])
    focal = 2 * camera.lens * height
    return np.stack([width + local[:, 0] / ahead * focal, height - local[:, 1] / ahead * focal, 1 / ahead], 1)


def shares(corners, x, y):
    """Return what each corner (3, 2) of a triangle counts at points."""
    (ax, ay), (bx, by), (cx, cy) = corners
    twice = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
    b = ((x - ax) * (cy - ay) - (y - ay) * (cx - ax)) / twice
    c = ((y - ay) * (bx - ax) - (x - ax) * (by - ay)) / twice
    return np.stack([1 - b - c, b, c])


def rastered(screen, body, width, height):
    """Return inverse distance and triangle (2 H, 2 W) of each sample, and how far it is from being another's."""
    depth, ids = np.zeros((2 * height, 2 * width)), np.full((2 * height, 2 * width), -1)
    doubt = np.full(depth.shape, np.inf)
    gone = body.border[0]
    for t, rows in enumerate(body.triangles):
        at = screen[rows]
        (ax, ay), (bx, by), (cx, cy) = at[:, :2]
        area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
        if not body.shown[t] or (at[:, 2] == 0).any() or area == 0 or (body.shown[t] == 1 and area > 0):
            continue
        low = np.maximum(np.floor(at[:, :2].min(axis=0) - 1), 0).astype(int)
        high = np.minimum(np.ceil(at[:, :2].max(axis=0) + 1), (2 * width, 2 * height)).astype(int)
        if (low >= high).any():
            continue
        part = np.s_[low[1] : high[1], low[0] : high[0]]
        y, x = np.mgrid[part] + 0.5
        mix = shares(at[:, :2], x, y)
        w = np.tensordot(at[:, 2], mix, 1)
        inside = mix.min(axis=0)
        there = (inside >= 0) & (w > depth[part])
        edge = np.abs(inside) * np.sqrt(abs(area))  # about the distance to the nearest edge, in samples
        if gone > 0 and body.dissolving[t]:
            true = mix * at[:, 2, None, None] / w
            noise = value_noise(np.tensordot(body.rest[rows].T, true, 1).reshape(3, -1).T * body.border[1])
            there &= noise.reshape(w.shape) >= gone
            edge = np.minimum(edge, np.abs(noise.reshape(w.shape) - gone) * 10)
        # A sample is in doubt near this triangle's edge, and where another surface is as near.
        near = inside > -0.5
        tie = np.where(near, np.abs(w / np.maximum(depth[part], 1e-9) - 1) * 1e3, np.inf)
        doubt[part] = np.minimum(doubt[part], np.where(near, np.minimum(edge, tie), np.inf))
        depth[part][there], ids[part][there] = w[there], t
    return depth, ids, doubt


def shadow(points, body, slant, origin, cell, size):
    """Return the softened shadow (S, S) thrown on the ground."""
    thrown = np.stack([points[:, 0] - points[:, 1] * slant[0], points[:, 2] - points[:, 1] * slant[1]], 1)
    thrown, out = (thrown - origin) * cell, np.zeros((size, size))
    for t in np.flatnonzero(body.shown):
        at = thrown[body.triangles[t]]
        if (np.ptp(at, axis=0) < 2).all():
            for x, y in at:
                if min(x, y) >= 1 and max(x, y) < size - 2:
                    out[int(y), int(x)] = 1
            continue
        low = np.maximum(at.min(axis=0).astype(int), 1)
        high = np.minimum(at.max(axis=0).astype(int) + 2, size - 1)
        if (low >= high).any():
            continue
        part = np.s_[low[1] : high[1], low[0] : high[0]]
        y, x = np.mgrid[part] + 0.5
        out[part][shares(at, x, y).min(axis=0) >= 0] = 1
    for _ in range(4):
        soft = np.zeros_like(out)
        soft[2:-2] = sliding_window_view(out.T, 5, axis=0).mean(axis=-1)
        out = soft
    return out


def rays(camera, width, height, skip=1):
    """Return rays (h, w, 3), one metre ahead, through a picture whose pixels are `skip` picture pixels wide."""
    focal = camera.lens * height
    x = ((np.arange(-(-width // skip)) + 0.5) * skip - width / 2) / focal
    y = (height / 2 - (np.arange(-(-height // skip)) + 0.5) * skip) / focal
    right, up, ahead = camera.basis.astype(float)
    return ahead + x[None, :, None] * right + y[:, None, None] * up


def sky(rays_):
    """Return the light of the sky (..., 3)."""
    share = 1 - np.clip(unit(rays_)[..., 1:2] * 1.6, 0, 1)
    return TOP + (HAZE - TOP) * share**3


def ground_level(far, slant, pixel, texels_a_metre, levels):
    """Return which level of detail the ground is seen at."""
    spanned, level = far * pixel * texels_a_metre / np.sqrt(max(slant, 0.02)), 0
    while level < levels - 1 and spanned > 1.3:
        spanned, level = spanned / 2, level + 1
    return level


def tick_context(camera, texture, soft, origin, cell, width, height, skip):
    """Return linear light (h, w, 3) of ground and sky."""
    levels, texels = texture
    out, towards = sky(rays(camera, width, height, skip)), light.TOWARDS_KEY
    size, pixel = len(soft), 1 / (camera.lens * height)
    for y, row in enumerate(rays(camera, width, height, skip)):
        down = row[0, 1]
        if down >= -1e-4:
            continue
        far = -camera.eye[1] / down
        long = np.sqrt(1 + ((height / 2 - (y + 0.5) * skip) * pixel) ** 2)
        slant = -down / long
        position = (camera.eye + far * row)[:, [0, 2]].astype(float)
        first, side = levels[ground_level(far, slant, pixel * skip, levels[0, 1] / METRES, len(levels))][:2]
        wrapped = np.pad(texels[first : first + side * side].reshape(side, side, 4), ((0, 1), (0, 1), (0, 0)), "wrap")
        at = (position * side / METRES - 0.5) % side
        stone = bilinear(wrapped.astype(float), at[:, 0], at[:, 1])
        gloss, stone = stone[:, 3:] / 255, stone[:, :3] ** 2 * 0.3 / 255**2
        compiled = (position - origin) * cell - 0.5
        within = ((compiled >= 1) & (compiled < size - 2)).all(axis=1)
        shade = np.where(within, 1 - 0.88 * bilinear(soft[..., None], compiled[:, 0], compiled[:, 1])[:, 0], 1)[
            :, None
        ]
        pool = 1 / (1 + 0.05 * ((position - origin - size / cell / 2) ** 2).sum(axis=1, keepdims=True))
        mirrored = unit(row) * (1, -1, 1)
        glint = np.maximum(mirrored @ towards, 0)[:, None] ** 12
        fresnel = 0.05 + 0.95 * (1 - slant) ** 5
        mirror = HAZE * (1 - min(1, slant * 1.6)) ** 3 * 2.2 * fresnel + TOP * fresnel
        lit = stone * (KEY * towards[1] * shade * pool + SKY * (0.35 + 0.65 * shade) * (0.5 + 0.5 * pool))
        lit = lit + gloss * mirror + gloss**2 * glint * shade * pool * 0.5 * KEY
        out[y] = lit + (HAZE - lit) * (1 - np.exp(-far * long * 0.07))
    return out


def doubled(values, height, width):
    """Return a picture (h, w, C) twice as fine, its first pixels held at the border."""
    return bilinear(values, *np.meshgrid((np.arange(width) + 0.5) / 2 - 0.5, (np.arange(height) + 0.5) / 2 - 0.5))


def looked_up(body, t, mix, far, pixel, pictures):
    """Return the bytes (4,) of a triangle's material at a place of it in one of its pictures, or None."""
    skin = body.materials
    number = skin.part_material[t]
    if skin.levels[number, 0, 1] == 0:
        return None
    spanned, level = skin.materials[number, 7] * far * pixel, 0
    while level < skin.levels.shape[1] - 1 and spanned > 1.4 and skin.levels[number, level + 1, 1] > 0:
        spanned, level = spanned / 2, level + 1
    first, width, height = skin.levels[number, level, :3]
    texels = pictures[first : first + width * height].reshape(height, width, -1).astype(float)
    wrapped = np.pad(texels, ((0, 1), (0, 1), (0, 0)), "wrap")
    u, v = mix @ body.uvs[body.triangles[t]]
    return bilinear(wrapped, np.array((u % 1 * width - 0.5) % width), np.array((v % 1 * height - 0.5) % height))


def bent(body, rows, normal, along, up):
    """Return a normal bent by so much along u and against v, as those run over a triangle."""
    positions, uv = body.positions[rows].astype(float), body.uvs[rows].astype(float)
    # What a step along u, and one along v, moves on the skin.
    steps = np.linalg.solve(uv[1:] - uv[0], positions[1:] - positions[0])
    right = unit(steps[0] - (steps[0] @ normal) * normal)
    left = np.cross(normal, right)
    against = -left if left @ steps[1] > 0 else left
    out = np.sqrt(max(1 - along**2 - up**2, 0.01))
    return unit(along * right + up * against + out * normal)


def shaded(body, screen, camera, focal, t, x, y, ramp):
    """Return linear light (3,) of triangle `t` at sample (x, y)."""
    rows, number = body.triangles[t], body.materials.part_material[t]
    mix = np.clip(shares(screen[rows, :2], x, y), 0, 1)
    mix = mix * screen[rows, 2]
    mix /= mix.sum()
    view = camera.eye - mix @ body.positions[rows]
    far = np.linalg.norm(view)
    view, normal = view / far, unit(mix @ body.normals[rows])
    eaten = body.border[0] > 0 and body.dissolving[t]
    side = -1 if normal @ view < 0 and (eaten or body.materials.materials[number, 8]) else 1
    squarings, emitted = body.materials.materials[number, 3], body.materials.materials[number, 4:7]
    colour, left, metal, rough = body.materials.materials[number, :3].astype(float), 1.0, 0.0, (7 - squarings) / 5
    figured = len(body.heat) > 1
    bytes_ = looked_up(body, t, mix, far, 1 / focal, body.materials.texels)
    if bytes_ is not None:
        colour = colour * bytes_[:3] ** 2 / 255**2
    if bytes_ is not None and len(body.materials.details) > 1 and not figured:
        left = bytes_[3] / 255
        along, up, rough, metal = looked_up(body, t, mix, far, 1 / focal, body.materials.details)
        normal = bent(body, rows, normal, (along - 128) / 127, (up - 128) / 127)
        rough, metal = rough / 255, metal / 255
        squarings = 7 - 5 * rough
    normal = side * normal
    towards = light.TOWARDS_KEY
    lit, up = normal @ towards, normal[1] / 2 + 0.5
    wrap = 0.35 * max(0, (lit + 0.25) * 0.8) ** 2 + 0.65 * max(lit, 0)
    shine, power = max(0, normal @ unit(towards + view)), 1.0
    for turn in range(7):
        more = min(max(squarings - turn, 0), 1)
        shine, power = shine + more * (shine**2 - shine), power * (1 + more)
    shine = shine * (power + 2) * 0.006 * max(lit, 0)
    edge = (1 - max(normal @ view, 0)) ** 3
    if figured:
        value = mix @ body.heat[rows]
        step = 0 if value < 0 else 1 + int(min(value, 1) * (len(ramp) - 2))
        out = ramp[step] * 0.55 * (KEY * (0.5 * wrap + 0.25) + (SKY + LOW) / 2)
    else:
        above = (2 * (normal @ view) * normal - view)[1] / 2 + 0.5 if normal @ view > 0 else 0.5 - view[1] / 2
        mirrored = metal * left * (2 - rough) * colour * (LOW + (SKY - LOW) * above)
        highlight = KEY * shine * (1 - metal + 4 * metal * colour) + mirrored
        colour = colour * (1 - metal * (1 - rough / 2))
        behind = max(0, 0.35 - normal[0] * towards[0] - normal[2] * towards[2]) * edge
        out = colour * (KEY * wrap + left * (SKY * up + LOW * (1 - up))) + highlight + RIM * behind + emitted
    if eaten:
        noise = value_noise((mix @ body.rest[rows])[None] * body.border[1])[0]
        beyond = max((noise - body.border[0]) / max(body.border[2], 1e-12), 0)
        out = out + body.border[3:] * max(0, 1 - beyond) ** 2
    return out


def picture(body, screen, camera, depth, ids, around, ramp):
    """Return light (H, W, 3) and inverse distance (H, W) of what samples (2 H, 2 W) show."""
    height, width = depth.shape[0] // 2, depth.shape[1] // 2
    out, focal = around.copy(), camera.lens * height
    down = np.array([row[0, 1] for row in rays(camera, width, height)])
    ground = np.where(down < -1e-4, down / -camera.eye[1], 0)
    out_depth = np.repeat(ground[:, None], width, axis=1)
    for y, x in zip(*np.nonzero(depth.reshape(height, 2, width, 2).max(axis=(1, 3)) > 0), strict=True):
        block = depth[2 * y : 2 * y + 2, 2 * x : 2 * x + 2].ravel()
        near, minimum = block.max(), block.min()
        out_depth[y, x] = near
        positions = [(2 * x + k % 2, 2 * y + k // 2) for k in range(4)]
        if minimum > 0 and near - minimum < near * 0.01:
            positions = positions[:1]
        seen = [
            shaded(body, screen, camera, focal, ids[sy, sx], sx + 0.5, sy + 0.5, ramp)
            if ids[sy, sx] >= 0
            else around[y, x]
            for sx, sy in positions
        ]
        out[y, x] = np.mean(seen, axis=0)
    return out, out_depth


# ---- what is transparent --------------------------------------------------------------------------

MINIMUM = 0.75
"""Half width in pixels below which squares are drawn this wide, and fainter for it."""


def placed(seen, look, camera, width, height):
    """Yield what is needed of each square to lay it: a dict, in the order given."""
    focal = camera.lens * height
    for i, position in enumerate(np.asarray(seen.positions, float)):
        right, up, ahead = camera.basis.astype(float) @ (position - camera.eye)
        size, opacity = float(seen.sizes[i]), float(seen.colours[i, 3])
        if not (ahead >= 0.05 and size > 0 and opacity > 0):
            continue
        scale = focal / ahead
        half = np.array([size, size * float(seen.stretches[i])]) / 2 * scale
        turn = float(seen.turns[i])
        if seen.along:
            across, along = (camera.basis[:2].astype(float) @ seen.uprights[i]).tolist()
            long = np.hypot(across, along)
            turn = np.arctan2(across, along)
            half[1] = max(half[1], min(half[1] + long * seen.stretch / 2 * scale, half[0] * seen.longest))
        elif half[0] < 1.1:
            turn = 0.0
        faint = np.prod(np.minimum(half, MINIMUM) / MINIMUM)
        half = np.maximum(half, MINIMUM)
        close = np.clip((ahead - 0.05) / max(size, 0.05), 0, 1)
        opacity = min(opacity, 1) * faint * close
        if opacity <= 0.0005:
            continue
        x, y = width / 2 + right * scale, height / 2 - up * scale
        if max(-x, x - width, -y, y - height) > half.sum():
            continue  # beyond the picture: of a coarser one, too
        yield {
            "x": width / 2 + right * scale, "y": height / 2 - up * scale, "ahead": ahead, "half": half, "turn": turn,
            "tint": seen.colours[i, :3] * (light.SHADE if look.lit else 1), "opacity": opacity,
            "frame": int(seen.frames[i]),
        }  # fmt: skip


def coarsened(square, step):
    """Return a square as a picture `step` times coarser has it."""
    half = np.maximum(square["half"] / step, MINIMUM)
    faint = np.prod(square["half"] / step / half)
    return square | {
        "x": square["x"] / step, "y": square["y"] / step, "half": half, "opacity": square["opacity"] * faint
    }  # fmt: skip


def laid(quads, texture, texels, additive, soft, depth, step=1):
    """Return premultiplied light and what is let through (h, w, 4) of squares of one look, far ones first."""
    tall, broad = depth.shape
    height, width = -(-tall // step), -(-broad // step)
    out = np.zeros((height, width, 4))
    out[..., 3] = 1
    rows = np.minimum(((np.arange(height) + 0.5) * step).astype(int), tall - 1)
    columns = np.minimum(((np.arange(width) + 0.5) * step).astype(int), broad - 1)
    solid = depth[np.ix_(rows, columns)]
    for square in sorted(quads, key=lambda square: -square["ahead"]):
        first, side = level_of(square, texture)
        if step > 1:
            square = coarsened(square, step)  # noqa: PLW2901
        gap = np.clip((1 / np.maximum(solid, 1e-12) - square["ahead"]) / soft, 0, 1)
        strength = square["opacity"] * np.where(solid > 0, gap, 1)
        colour = (tiny if side == 1 else turned)(square, first, side, texels, height, width) * strength[..., None]
        through = 1 - colour[..., 3:] * (not additive)
        out[..., :3] = colour[..., :3] * square["tint"] + out[..., :3] * through
        out[..., 3:] *= through
    return out


def level_of(square, texture):
    """Return where a square's texels begin, and their side: the coarsest level no coarser than its pixels."""
    levels, last = texture.levels, len(texture.levels) - 1
    level = last if square["half"].max() < 1.1 else 0
    while level < last and levels[level + 1, 1] >= 2 * square["half"][1]:
        level += 1
    first, side = levels[level, :2].tolist()
    return first + square["frame"] % texture.frames * side * side, side


def tiny(square, first, _side, texels, height, width):
    """Return the texture's one colour, by the share of each pixel that an upright square covers."""

    def cover(middle, half, count):
        start = np.arange(count)
        return np.clip(np.minimum(middle + half, start + 1) - np.maximum(middle - half, start), 0, 1)

    share = np.outer(cover(square["y"], square["half"][1], height), cover(square["x"], square["half"][0], width))
    return share[..., None] * texels[first]


def turned(square, first, side, texels, height, width):
    """Return a texture's colours (h, w, 4) over a turned square, nothing outside of it."""
    y, x = np.mgrid[:height, :width] + 0.5
    x, y = x - square["x"], y - square["y"]
    cosine, sine = np.cos(square["turn"]), np.sin(square["turn"])
    u = (x * cosine + y * sine) / square["half"][0]
    v = (-x * sine + y * cosine) / square["half"][1]
    picture_ = texels[first : first + side * side].reshape(side, side, 4)
    colour = bilinear(picture_.astype(float), (u + 1) * side / 2 - 0.5, (v + 1) * side / 2 - 0.5)
    return np.where(((np.abs(u) < 1) & (np.abs(v) < 1))[..., None], colour, 0)


def over(layer, picture_, step=1):
    """Return the picture (H, W, 3) under a transparent layer (h, w, 4) that is `step` times coarser."""
    height, width = picture_.shape[:2]
    x, y = np.meshgrid((np.arange(width) + 0.5) / step - 0.5, (np.arange(height) + 0.5) / step - 0.5)
    fine = bilinear(layer, x, y)
    return picture_ * fine[..., 3:] + fine[..., :3]


# ---- finishing ------------------------------------------------------------------------------------


def halved(source, floor):
    """Return the mean of two by two pixels; an odd last one counts twice; light under `floor` fades out."""
    height, width = source.shape[:2]
    even = np.pad(source, ((0, height % 2), (0, width % 2), (0, 0)), "edge")
    out = even.reshape(-(-height // 2), 2, -(-width // 2), 2, 3).mean(axis=(1, 3))
    if floor > 0:
        bright = out.max(axis=-1, keepdims=True)
        out = out * np.maximum(bright - floor, 0) / np.maximum(bright, 1e-6) / (1 + 0.06 * bright)
    return out


def bloom(picture_):
    """Return the light that spills from what is bright, at half the size."""
    levels = [halved(picture_, light.BLOOM_FLOOR)]
    while len(levels) < light.BLOOM_LEVELS:
        levels.append(halved(levels[-1], 0))
    out = levels.pop()
    while levels:
        level = levels.pop()
        out = level + 0.9 * doubled(out, *level.shape[:2])
    return out


def finished(picture_, exposure):
    """Return sRGB (H, W, 3), 0 to 255, not rounded."""
    spilled = doubled(bloom(picture_), *picture_.shape[:2])
    seen = np.maximum((picture_ + spilled * light.BLOOM_STRENGTH) * exposure, 0)
    seen = np.minimum(seen, 6e4)
    mapped = np.minimum(seen * (2.51 * seen + 0.03) / (seen * (2.43 * seen + 0.59) + 0.14), 1)
    return 255 * np.where(mapped <= 0.0031308, mapped * 12.92, 1.055 * mapped ** (1 / 2.4) - 0.055)
