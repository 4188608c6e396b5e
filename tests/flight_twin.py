"""A step of one particle, the plain way: ride, let go, fly, meet the ground."""

from __future__ import annotations

import numpy as np

from tests import twins
from wraithon.numeric import chance
from wraithon.particles import columns as k
from wraithon.particles import force_kernels


def parabola(before, midpoint, now, f, curved):
    """Return place and change a step (3,) at a share of the way through three places, or through two."""
    if not curved:
        return before + f * (now - before), now - before
    way = np.polynomial.polynomial.polyfit([0, 0.5, 1], np.stack([before, midpoint, now]), 2)
    return way[0] + way[1] * f + way[2] * f * f, way[1] + 2 * way[2] * f


def on_bone(frame, along, angle):
    """Return a place on a bone (3,) and the direction away from it, from the bone's frame (3, 3)."""
    frame = frame.astype(float)
    axis = frame[1] - frame[0]
    other = np.cross(axis / np.linalg.norm(axis), frame[2])
    return frame[0] + along * axis, np.cos(angle) * frame[2] + np.sin(angle) * other


def carried(state, row, rules, around):
    """Return where a rider's place was, amid and is (3, 3), and the way out from it now (3,)."""
    b, c = state[k.SHARE_B], state[k.SHARE_C]
    if rules.kind == k.BONE:
        frames = around.bones_before, around.bones_midpoint, around.bones_now
        positions = [on_bone(frame[row], b, c) for frame in frames]
        return np.array([position for position, _ in positions]), positions[-1][1]
    mix, corners = np.array([1 - b - c, b, c]), around.triangles[row]
    positions = np.array(
        [mix @ skin[corners] for skin in (around.skin_before, around.skin_midpoint, around.skin_now)]
    )
    out = mix @ around.normal_now[corners]
    return positions, out / np.linalg.norm(out)


def ride(state, row, dt, rules, around):
    """Take a rider along, or let it go at its moment; return its seconds of free flight."""
    (before, midpoint, now), out = carried(state, row, rules, around)
    lift = rules.lift + (rules.radius * state[k.SHARE_D] if rules.kind == k.BONE else 0)
    if rules.upright:
        state[k.NX : k.NZ + 1] = out
    left = 0.0
    if (late := state[k.AGE] - state[k.RIDE_END]) > 0:
        f = min(max(1 - late / dt, state[k.LEAD] / dt), 1)
        now, change = parabola(before, midpoint, now, f, around.curved)
        state[k.VX : k.VZ + 1] += rules.keep * change / dt
        state[k.RIDE_END], left = -1, (1 - f) * dt
    state[k.PX : k.PZ + 1] = now + out * lift
    return left


def _curl(_state, _own, numbers, seed, _way, position, time, _dt):
    drift = np.array([1, -1, 1]) * numbers[2] * time
    return numbers[0] * twins.curl_exact((position * numbers[1] + drift)[None], seed)[0]


def _vortex(_state, _own, numbers, _seed, way, *_rest):
    flat = -way * (1, 0, 1)
    reaches = np.linalg.norm(flat) * numbers[2]
    share = numbers[2] * np.exp((1 - reaches**2) / 2)
    return share * (numbers[0] * np.cross((0, 1, 0), flat) - numbers[1] * flat)


def _attraction(_state, _own, numbers, _seed, way, *_rest):
    away = np.linalg.norm(way)
    r = away * numbers[1]
    return numbers[0] * 1.5**1.5 * r / (1 + r * r / 2) ** 1.5 * way / away


def _hold(_state, _own, numbers, _seed, way, *_rest):
    away = np.linalg.norm(way)
    return numbers[0] * np.clip((away / numbers[1] - 1) * 4, 0, 1) * way / away


def _orbit(state, _own, numbers, _seed, way, _position, _time, dt):
    flat = -way * (1, 0, 1)
    off = np.linalg.norm(flat)
    turning = numbers[0] ** 2 / max(off, numbers[1] / 4)
    outward = (numbers[2] * (numbers[1] - off) + turning * dt) / 2
    circling = numbers[0] * np.cross((0, 1, 0), flat) / off + outward * flat / off
    quick = (1 - np.exp(-numbers[2] * dt)) / dt
    slip = (circling - state[k.VX : k.VZ + 1]) * (1, 0, 1)
    return quick * slip - turning * flat / off


def _wind(_state, own, numbers, seed, _way, position, time, _dt):
    shift = np.array([1, 0, 1]) * (seed % 1024 + numbers[4] * time)
    gale = 1 + numbers[3] * (2 * twins.value_noise((position * 0.3 + shift)[None])[0] - 1)
    up = 2 * float(twins.uniform(own, chance.WAFT_A)) - 1
    angle = 2 * np.pi * float(twins.uniform(own, chance.WAFT_B))
    side = np.array([np.cos(angle), 0, np.sin(angle)]) * np.sqrt(1 - up * up)
    return gale * numbers[:3] + numbers[5] * (side + (0, up, 0))


ACCELERATIONS = {
    force_kernels.PUSH: lambda _state, _own, numbers, *_rest: numbers[:3],
    force_kernels.LIFT: lambda state, _own, numbers, *_rest: numbers[0] * state[k.NX : k.NZ + 1],
    force_kernels.CURL: _curl, force_kernels.VORTEX: _vortex, force_kernels.ATTRACT: _attraction,
    force_kernels.HOLD: _hold, force_kernels.ORBIT: _orbit, force_kernels.WIND: _wind,
}  # fmt: skip
"""Code to what it adds to the acceleration; streams that carry and the nearest skin have tests of their own."""


def pushed(state, who, rows, points, time, f, dt):
    """Return acceleration (3,) and drag of all forces on a particle that starts to fly at a share of the step."""
    position, total, drag = state[k.PX : k.PZ + 1], np.zeros(3), 0.0
    for code, numbers, seed, spread, curve, (before, now) in zip(*rows, points, strict=True):
        own = np.uint64((int(who) + int(seed)) % 2**64)
        much = 1.0
        if spread >= 0:
            much = twins.curve(curve, state[k.AGE] / state[k.LIFETIME])
            much *= 1 + spread * (2 * float(twins.uniform(own, chance.FELT)) - 1)
        if code == force_kernels.DRAG:
            drag += much * numbers[0]
            continue
        much = min(much, 1.0) if code == force_kernels.ORBIT else much
        way = before + f * (now - before) - position
        total += much * ACCELERATIONS[code](state, own, numbers, seed, way, position, time, dt)
    return total, drag


def landed(state, h, rules):
    """Let the ground act on a particle that came through it."""
    x, y, z = k.VX, k.VY, k.VZ
    if rules.contact == k.BOUNCE:
        state[[k.PY, y]] *= -rules.bounce
        state[[x, z]] *= 1 - rules.grip
        return
    state[k.PY] = 0
    if rules.contact == k.SLIDE:
        state[[x, z]] *= np.exp(-rules.grip * 10 * h)
        state[y] = 0
    elif rules.contact == k.STICK:
        state[[x, y, z]], state[k.RESTING] = 0, 1
    else:
        state[k.AGE] = max(state[k.AGE], state[k.LIFETIME])


def stepped(state, who, row, dt, time, program, points, around):
    """Advance one particle's column (COLUMNS,) of doubles by a step."""
    rules = program.flight
    state[k.AGE] += dt - state[k.LEAD]
    left = dt - state[k.LEAD]
    if state[k.RIDE_END] >= 0:
        left = ride(state, row, dt, rules, around)
    elif state[k.RESTING]:
        left = 0
    state[k.LEAD] = 0
    if left <= 0:
        return
    push, drag = pushed(state, who, program.forces.rows, points, time, 1 - left / dt, dt)
    velocity = (state[k.VX : k.VZ + 1] + push * left) * np.exp(-drag * left)
    way = velocity * left
    if rules.speed_mode >= 0:
        curve = twins.curve(rules.speed_table, state[k.AGE] / state[k.LIFETIME])
        speed = np.linalg.norm(velocity)
        way *= twins.meeting(speed, curve, ("scale", "add", "replace")[rules.speed_mode]) / max(speed, 1e-12)
    state[k.PX : k.PZ + 1] += way
    state[k.VX : k.VZ + 1] = velocity
    if rules.contact != k.PASS and state[k.PY] <= 0 and velocity[1] < 0:
        landed(state, dt, rules)
