"""Findings about single layers, each with what mends it."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import TYPE_CHECKING, Any, NamedTuple

from wraithon.numeric.meeting import met
from wraithon.project.checks.finding import Level, Remedy, layer_remedy
from wraithon.project.effect import Layer
from wraithon.project.emission import Burst, Emission, Full
from wraithon.project.life import Attribute, Curve, LifeMode, Over
from wraithon.project.look import Figure, FrameGrid, ShellLook, SpriteLook
from wraithon.project.source import JointSet, Mode, OffspringSource, SkinSource

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from wraithon.project.effect import Effect
    from wraithon.project.motion import Force
    from wraithon.project.project import View


LINES = 600
"""Height in pixels of the picture that sizes are judged by."""
MIN_PIXELS, ENOUGH_PIXELS = 0.4, 2.0
SPARE_LIMIT, USUAL_LIMIT = 6, 2000
"""How many times what may live a limit is too much, and the limit below which nobody minds."""
FLUNG, LIMB = 0.6, 3.0
"""Metres that what lets go may be thrown, and metres a second that a limb is taken to move at."""

APART = 8
"""Afterimages that are still told apart."""
SLIGHT, AROUND = 0.3, 1.4
"""Metres of a shell that goes around no character, and of one that does."""
FAINT, LONG_UNSEEN, APPEARING = 0.05, 0.5, 0.2
"""The share of its highest below which a layer is as good as unseen, the seconds of that which are told, and those in
which it appears instead."""
MAX_KNOWN = 4096
"""Layers of which it is remembered what was found: after an edit all but one are the same."""


class Notice(NamedTuple):
    """What is wrong with a layer, and what mends it."""

    message: str
    remedy: Remedy | None = None
    level: Level = Level.WARNING


_known: dict[int, tuple[Layer, tuple[object, ...], tuple[Notice, ...]]] = {}
"""By the layer's address, with the layer itself, so that no other can be there."""


def top_of(attribute: Attribute) -> float:
    """Return the highest that is ever drawn of an attribute."""
    highest = max(y for _, y in attribute.life.points) if attribute.life else 1.0
    return float(met(attribute.ends[1], highest, attribute.code))


def max_at_once(emission: Emission, rate: int) -> int:
    """Return how many births of one firing may fall into one of `rate` steps a second."""
    bursts = sum(min(b.repeats, math.ceil(1 / (rate * b.interval))) * b.highest for b in emission.bursts)
    return bursts + math.ceil(emission.peak / rate)


def layer_messages(effect: Effect, layer: Layer, rate: int, view: View) -> tuple[Notice, ...]:
    """Return what of a layer will not do what it seems to say; what was found of the same layer is found again.

    Parameters
    ----------
    effect, layer
        The layer and its effect.
    rate
        Steps a second.
    view
        Where the show is seen from.
    """
    key = effect.length, rate, view.distance, view.fov
    known = _known.get(id(layer))
    if known is None or known[0] is not layer or known[1] != key:
        if len(_known) >= MAX_KNOWN:
            _known.clear()
        known = _known[id(layer)] = layer, key, tuple(_messages(effect, layer, rate, view))
    return known[2]


def _messages(effect: Effect, layer: Layer, rate: int, view: View) -> Iterator[Notice]:
    if not isinstance(layer.source, OffspringSource):
        yield from _emission(effect, layer, rate)
        yield from _too_many(effect, layer)
    yield from _idle(effect, layer)
    yield from _replaced(layer)
    yield from _faint(layer)
    yield from _forces(layer)
    if not layer.disabled:
        yield from _unseen(layer, view)
        yield from _thrown(layer)


def _emission(effect: Effect, layer: Layer, rate: int) -> Iterator[Notice]:
    emission, mine = layer.emission, layer.id
    if emission.rate == emission.per_metre == 0 and not any(b.highest for b in emission.bursts):
        remedy = layer_remedy("Bear 40 a second", mine, emission__rate=40.0)
        yield Notice("nothing is emitted: set a rate or add a burst", remedy)
    if emission.rate and effect.length is not None and emission.start >= effect.length:
        text = "its rate starts after the effect's own end: shorten the start or lengthen the effect"
        yield Notice(text, layer_remedy("Start at once", mine, emission__start=0.0))
    if emission.curve is not None and effect.length is None and emission.length is None:
        text = "its rate has a curve but no end: let it last only for so long, or the effect"
        yield Notice(text, layer_remedy("Remove the curve", mine, emission__curve=None))
    if emission.loop is not None and effect.length is not None and emission.loop >= effect.length > 0:
        text = f"its loop of {emission.loop:g} s never repeats: the effect lasts {effect.length:g} s"
        yield Notice(text, layer_remedy("Remove the loop", mine, emission__loop=None))
    yield from _limit(effect, layer, rate)


def _limit(effect: Effect, layer: Layer, rate: int) -> Iterator[Notice]:
    emission, limit = layer.emission, layer.emission.limit
    if limit is None:
        return
    remedy = layer_remedy("Set the limit to automatic", layer.id, emission__limit=None)
    burst, steady = max_at_once(emission, rate), emission.peak * sum(layer.lifetime.ends) / 2
    refuses = emission.full is Full.REFUSE
    if refuses and burst > limit and emission.bursts:
        yield Notice(f"{burst:,} may be emitted at once but the limit is {limit:,}: births will be refused", remedy)
    if layer.hold is not None and effect.length is emission.length is None and emission.peak:
        yield from _piling(layer)
    elif refuses and steady > limit * 1.05:
        text = f"about {steady:.0f} would live at once but the limit is {limit}: births will be refused"
        yield Notice(text, remedy)
    maximum = emission.max_alive(layer.longest_life(effect.length), effect.length)
    if limit > USUAL_LIMIT and 0 < maximum * SPARE_LIMIT < limit:
        yield Notice(f"its limit of {limit:,} is far above the {maximum:,} of a firing that may live at once", remedy)


def _piling(layer: Layer) -> Iterator[Notice]:
    """Yield that particles stay while new ones are emitted without an end."""
    emission = layer.emission
    if emission.limit is not None and emission.full is Full.REFUSE:
        text = (
            f"its particles live until the effect ends, and {emission.peak:g} more are emitted a second: the limit of"
            f" {emission.limit:,} is reached after {emission.limit / emission.peak:.1f} s"
        )
        yield Notice(text, layer_remedy("Emit for 1 s", layer.id, emission__length=1.0))


def _too_many(effect: Effect, layer: Layer) -> Iterator[Notice]:
    """Yield that more of a layer live at once than its look draws."""
    emission, maximum = layer.emission, layer.look.maximum
    alive = emission.max_alive(layer.longest_life(effect.length), effect.length)
    alive = alive if emission.limit is None else min(alive, emission.limit)
    if alive <= maximum:
        return
    changes: dict[str, Any]
    if isinstance(layer.look, ShellLook):
        text = f"up to {alive:,} shells live at once, of which {maximum} are drawn: one goes around a whole character"
        changes = {
            "emission__rate": 0.0, "emission__per_metre": 0.0, "emission__curve": None,
            "emission__bursts": (Burst(count=1),),
        }  # fmt: skip
        if layer.look.figure is not Figure.SKIN and top_of(layer.size) < SLIGHT:
            changes["size"] = Attribute.of(AROUND)
        width = f", {_length(AROUND)} wide" if "size" in changes else ""
        yield Notice(text, layer_remedy(f"Bear one{width}", layer.id, **changes))
        return
    text = f"up to {alive:,} afterimages live at once, of which the youngest {maximum} are drawn"
    rate = math.floor(10 * emission.rate * APART / alive) / 10
    if rate > 0 and not emission.bursts and not emission.per_metre:
        yield Notice(text, layer_remedy(f"Bear {rate:g} a second", layer.id, emission__rate=rate))
    else:
        changes = {"emission__limit": APART, "emission__full": Full.END_OLDEST}
        yield Notice(text, layer_remedy(f"End the oldest beyond {APART}", layer.id, **changes))


def _idle(effect: Effect, layer: Layer) -> Iterator[Notice]:
    """Yield settings that do nothing beside others."""
    fields, mine = type(layer).model_fields, layer.id
    usual = (fields["turn"].default, Attribute.of(0))
    idle = layer.look.rotation_override
    if idle and not (layer.turn in usual and layer.spin in usual):
        remedy = layer_remedy("Forget turn and spin", mine, turn=fields["turn"].default, spin=fields["spin"].default)
        yield Notice(f"turn and spin do nothing: {idle}", remedy)
    for name, why in layer.look.idle.items():
        default = fields[name].default
        if name not in {"turn", "spin"} and getattr(layer, name) not in (default, Attribute.of(0)):
            yield Notice(f"{name} does nothing: {why}", layer_remedy(f"Forget {name}", mine, **{name: default}))
    if layer.look.frames > 1 and not layer.look.texture:
        text = "its sheet does nothing: the built-in disc has a single frame; pick a texture"
        yield Notice(text, layer_remedy("Forget the sheet", mine, look__sheet=FrameGrid()))
    source = layer.source
    bones = isinstance(source, SkinSource) and source.mode is Mode.BONES
    if isinstance(source, SkinSource) and bones and source.joints.names:
        usual_falloff = JointSet().falloff
        if source.joints.falloff != usual_falloff:
            text = "falloff does nothing on bones: they belong to their joints whole"
            yield Notice(text, layer_remedy("Forget the falloff", mine, source__joints__falloff=usual_falloff))
    if (
        isinstance(source, SkinSource)
        and bones
        and (source.parts or source.height or source.facing or source.texture or source.painted)
    ):
        values: dict[str, Any] = {f"source__{name}": None for name in ("height", "facing", "texture", "painted")}
        remedy = layer_remedy("Remove those filters", mine, source__parts=(), **values)
        yield Notice("bones keep to joints only: its other filters do nothing", remedy)
    for number, burst in enumerate(layer.emission.bursts):
        if effect.length is not None and burst.highest and burst.time > effect.length:
            when = f"a burst at {burst.time:g} s comes after the effect's end ({effect.length:g} s)"
            remedy = layer_remedy("Have it at the end", mine, **{f"emission__bursts__{number}__time": effect.length})
            yield Notice(f"{when}: it never happens", remedy)


def _replaced(layer: Layer) -> Iterator[Notice]:
    """Yield what varies at birth and is replaced by a curve, so that nobody sees it."""
    for name, field in type(layer).model_fields.items():
        value = getattr(layer, name)
        if field.annotation is not Attribute or name in layer.look.idle:
            continue
        if value.mode is LifeMode.REPLACE and value.life is not None:
            low, high = value.ends
            if low != high:
                text = f"{name} at birth ({low:g} to {high:g}) does nothing: its curve replaces it"
                changes = {f"{name}__birth": value.birth.evolve(high=value.birth.low), f"{name}__choices": ()}
                yield Notice(text, layer_remedy(f"Forget {name} at birth", layer.id, **changes))
    tint = layer.colour
    if tint.mode is LifeMode.REPLACE and tint.life and tint.first != tint.second:
        text = "colour at birth does nothing: its gradient replaces it"
        yield Notice(text, layer_remedy("Forget colour at birth", layer.id, colour__second=tint.first))


def _faint(layer: Layer) -> Iterator[Notice]:
    """Yield where in its life a layer is as good as unseen, and that its fades leave nothing of it."""
    low, high = layer.lifetime.ends
    shortest = low if layer.hold is None else math.inf
    if 0 < shortest < layer.fade_in + layer.fade_out:
        text = (
            f"it is never fully seen: it appears for {layer.fade_in:g} s and fades for {layer.fade_out:g} s,"
            f" but lives for {shortest:g} s"
        )
        share = shortest / (layer.fade_in + layer.fade_out) / 2
        changes = {name: float(f"{getattr(layer, name) * share:.2g}") for name in ("fade_in", "fade_out")}
        yield Notice(text, layer_remedy("Shorten its fades", layer.id, **changes))
    for name in ("opacity", "size", "intensity"):
        attribute = getattr(layer, name)
        if attribute.life is None or attribute.mode is LifeMode.ADD or name in layer.look.idle:
            continue
        if attribute.over is Over.SPEED:
            continue
        yield from _faint_attribute(layer, name, high)


def _faint_attribute(layer: Layer, name: str, lifetime: float) -> Iterator[Notice]:
    curve = getattr(layer, name).life
    points = [(age, abs(y)) for age, y in curve.points]
    level = FAINT * max(y for _, y in points)
    if level == 0:
        return  # it is never seen at all, which is told elsewhere
    word = {"intensity": "brightness"}.get(name, name)
    first, last = _reaches(points, level), 1 - _reaches([(1 - age, y) for age, y in reversed(points)], level)
    if layer.hold is not None and not first <= layer.hold <= last:
        text = f"it is unseen while it waits: its {word} at {layer.hold:.0%} of life is below {FAINT:.0%}"
        best = max(points, key=lambda point: point[1])[0]
        yield Notice(text, layer_remedy(f"Wait at {best:.0%} of life", layer.id, hold=best))
        return
    if first * lifetime > LONG_UNSEEN:
        text = f"its {word} is below {FAINT:.0%} for the first {first * lifetime:.2g} s of {lifetime:g} s of life"
        yield Notice(text, layer_remedy(f"Appear within {APPEARING:g} s", layer.id, **_appearing(layer, name)))
    if (1 - last) * lifetime > LONG_UNSEEN:
        text = f"its {word} is below {FAINT:.0%} for the last {(1 - last) * lifetime:.2g} s of {lifetime:g} s of life"
        yield Notice(f"{text}: it lives on unseen; shorten its lifetime, or let the curve end later")


def _reaches(points: Sequence[tuple[float, float]], level: float) -> float:
    """Return the first age at which straight lines through points come to a level."""
    if points[0][1] >= level:
        return 0.0
    (a, low), (b, high) = next((one, two) for one, two in pairwise(points) if two[1] >= level)
    return a + (b - a) * (level - low) / (high - low)


def _appearing(layer: Layer, name: str) -> dict[str, Any]:
    """Return a curve that is at its first peak from birth on, and a fade in seconds instead."""
    points = getattr(layer, name).life.points
    top = max(abs(y) for _, y in points)
    from_peak = next(k for k, (_, y) in enumerate(points) if abs(y) >= 0.9 * top)
    rest = tuple(point for point in points[from_peak:] if point[0] > 0)
    fade = {"fade_in": layer.fade_in or APPEARING} if name == "opacity" else {}
    return {f"{name}__life": Curve(points=((0.0, points[from_peak][1]), *rest)), **fade}


def _forces(layer: Layer) -> Iterator[Notice]:
    """Yield forces that nothing feels."""
    forces = layer.motion.forces
    fixed = ""
    if layer.source.riding.share >= 1:
        fixed = "its particles stay attached all their life"
    elif "speed" in layer.look.idle:
        fixed = layer.look.idle["speed"]
    if fixed and not all(force.disabled for force in forces):
        text = f"its forces have no effect: {fixed}"
        yield Notice(text, layer_remedy("Remove its forces", layer.id, motion__forces=()))
        return
    for number, force in enumerate(forces):
        if not force.disabled and _idles(force):
            others = (*forces[:number], *forces[number + 1 :])
            text = f"its {force.kind} has no effect: its strength is 0"
            yield Notice(text, layer_remedy(f"Remove the {force.kind}", layer.id, motion__forces=others))
            return  # the others are told once this one is gone


def _idles(force: Force) -> bool:
    """Return whether a force is none at all."""
    if force.curve is not None and all(y == 0 for _, y in force.curve.points):
        return True
    return not any(force.strengths)


def _unseen(layer: Layer, view: View) -> Iterator[Notice]:
    for name in ("size", "opacity", "intensity"):
        if name not in layer.look.idle and top_of(getattr(layer, name)) <= 0:
            whole = Attribute.of(0.05) if name == "size" else Attribute.of(1.0)
            remedy = layer_remedy("Make it 5 cm" if name == "size" else "Make it 1", layer.id, **{name: whole})
            yield Notice(f"it cannot be seen: {name} is never above zero", remedy)
    if layer.lifetime.ends[1] <= 0:
        remedy = layer_remedy("Let it live for 1 s", layer.id, lifetime=Attribute.of(1.0))
        yield Notice("it cannot be seen: lifetime is zero", remedy)
    if isinstance(layer.look, SpriteLook):
        yield from _too_small(layer, layer.look, view)


def _too_small(layer: Layer, look: SpriteLook, view: View) -> Iterator[Notice]:
    top = top_of(layer.size) * max(1.0, top_of(layer.stretch))
    pixel = view.metres_high / LINES
    if 0 < top < pixel * MIN_PIXELS:
        text = f"its sprites are under a pixel: {_length(top)} at most, where a pixel is {_length(pixel)}"
        times = ENOUGH_PIXELS * pixel / top
        birth = layer.size.birth
        low, high = (float(f"{end * times:.3g}") for end in (birth.low, birth.high))
        choices = tuple(c.evolve(value=float(f"{c.value * times:.3g}")) for c in layer.size.choices)
        changes = {"size__birth": birth.evolve(low=low, high=high), "size__choices": choices}
        if layer.size.mode is LifeMode.REPLACE and layer.size.life is not None:
            points = tuple((age, float(f"{y * times:.3g}")) for age, y in layer.size.life.points)
            changes["size__life"] = layer.size.life.evolve(points=points)
        yield Notice(text, layer_remedy(f"Make them {times:.0f} times as large", layer.id, **changes))
    elif top > 0 and look.soft > 4 * top:
        text = f"its soft edge ({_length(look.soft)}) is far wider than its sprites ({_length(top)} at most)"
        soft = float(f"{top:.2g}")
        yield Notice(text, layer_remedy(f"Make it {_length(soft)}", layer.id, look__soft=soft))


def _length(metres: float) -> str:
    return f"{metres * 100:.3g} cm" if metres < 1 else f"{metres:.3g} m"


def _thrown(layer: Layer) -> Iterator[Notice]:
    """Yield what is flung off when the character moves: let go with its speed, and nothing slows it."""
    riding, source = layer.source.riding, layer.source
    if not isinstance(source, SkinSource) or "speed" in layer.look.idle or riding.share >= 1:
        return
    free = layer.lifetime.ends[1] * (1 - riding.share)
    slowing = sum(force.slowing for force in layer.motion.forces if not force.disabled)
    lasts = free if slowing <= 0 else (1 - math.exp(-slowing * free)) / slowing
    thrown = abs(riding.keep) * LIMB * lasts
    if abs(riding.keep) > 0.5 and thrown > FLUNG:
        text = (
            f"it may be thrown off by {thrown:.1f} m: what lets go keeps {riding.keep:.0%} of the skin's speed, here"
            f" of a limb's {LIMB:g} m/s, and lives on for {free:g} s"
        )
        keep = math.copysign(max(0.0, math.floor(FLUNG / (LIMB * lasts) * 20) / 20), riding.keep)
        keep = keep if abs(keep) <= 0.5 else math.copysign(0.5, riding.keep)
        yield Notice(text, layer_remedy(f"Keep {keep:.0%} of it", layer.id, source__riding__keep=keep))
