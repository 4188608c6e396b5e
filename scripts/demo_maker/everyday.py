"""Whole effects of everyday kinds, for any character: fire, smoke, snow, a portal and so on, each with its tags."""

from __future__ import annotations

from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, Colour, Curve, Gradient, Tint
from wraithon.project.look import (
    Blend,
    DecalLook,
    Facing,
    Figure,
    LightLook,
    MeshLook,
    NoiseField,
    ShellLook,
    SpriteLook,
)
from wraithon.project.motion import (
    Attraction,
    Collision,
    Curl,
    Drag,
    Gravity,
    GroundCollision,
    Motion,
    Orbit,
    Swirl,
    Vortex,
    Wind,
)  # fmt: skip
from wraithon.project.source import (
    Aim,
    BoxSource,
    ConeSource,
    Heading,
    PictureSource,
    PointSource,
    Riding,
    RingSource,
    SkinSource,
    SphereSource,
)  # fmt: skip

from .effects import FADE, IN_AND_OUT, QUAD, QUICK, SHRINK, SWELL

FLAME: Gradient = Gradient.through((0, (1.0, 0.62, 0.22)), (0.35, (1.0, 0.33, 0.06)), (1, (0.55, 0.06, 0.01)))
WHITE: Colour = (1.0, 1.0, 1.0)
FLICKER = Curve.through((0, 0), (0.15, 1), (0.55, 0.7), (1, 0))
LICK = Curve.through((0, 0.6), (0.25, 1), (1, 0.25))


def _tint(first: Colour, second: Colour | None = None, life: Gradient | None = None) -> Tint:
    return Tint(first=first, second=second or first, life=life) if life else Tint(first=first, second=second or first)


def _mist(blend: Blend = Blend.ALPHA, soft: float = 0.12) -> SpriteLook:
    return SpriteLook(texture="mist.png", sheet=QUAD, blend=blend, soft=soft)


def _glow(soft: float = 0.01) -> SpriteLook:
    return SpriteLook(texture="glow.png", blend=Blend.ADDITIVE, soft=soft)


def _once(count: int = 1) -> Emission:
    return Emission(bursts=(Burst(count=count),))


def _flames(source: RingSource | SkinSource | SphereSource, rate: float, size: float) -> Layer:
    return Layer(
        name="flames",
        emission=Emission(rate=rate, warm_up=0.6),
        source=source,
        motion=Motion(forces=(Gravity(pull=-3.2), Drag(rate=1.6), Curl(strength=3.0, scale=0.35, change=0.9))),
        lifetime=Attribute.of(0.45, 0.85),
        speed=Attribute.of(0.15, 0.5),
        size=Attribute.of(0.6 * size, size, LICK),
        colour=_tint(WHITE, life=FLAME),
        intensity=Attribute.of(0.6, 1.1),
        opacity=Attribute.of(0.3, 0.55, FLICKER),
        spin=Attribute.of(-60, 60),
        look=_mist(Blend.ADDITIVE, 0.05),
    )


def _embers(source: RingSource | SkinSource | SphereSource, rate: float) -> Layer:
    return Layer(
        name="embers",
        emission=Emission(rate=rate),
        source=source,
        motion=Motion(forces=(Gravity(pull=-1.6), Drag(rate=1.2), Curl(strength=4, scale=0.4, change=0.7))),
        lifetime=Attribute.of(0.9, 2.0),
        speed=Attribute.of(0.2, 0.8),
        size=Attribute.of(0.008, 0.02, SHRINK),
        colour=_tint((1.0, 0.6, 0.2), (1.0, 0.3, 0.08)),
        intensity=Attribute.of(3, 7, Curve.through((0, 1), (0.6, 0.7), (1, 0.1))),
        opacity=Attribute.of(0.8, 1, IN_AND_OUT),
        look=_glow(),
    )


def _smoke(source: RingSource | SphereSource | PointSource, rate: float, shade: float, start: float = 0.0) -> Layer:
    return Layer(
        name="smoke",
        emission=Emission(rate=rate, start=start),
        source=source,
        motion=Motion(
            forces=(Gravity(pull=-0.9), Drag(rate=0.9), Curl(strength=1.2, scale=0.6), Wind(push=(0.12, 0, 0)))
        ),
        lifetime=Attribute.of(1.4, 2.4),
        speed=Attribute.of(0.3, 0.7),
        size=Attribute.of(0.25, 0.42, SWELL),
        colour=_tint((shade, shade, shade * 1.05), (shade * 1.4, shade * 1.35, shade * 1.35)),
        opacity=Attribute.of(0.35, 0.6, IN_AND_OUT),
        spin=Attribute.of(-25, 25),
        look=_mist(soft=0.2),
    )


def _shine(colour: Colour, reach: float, strength: float, emission: Emission, life: float) -> Layer:
    return Layer(
        name="light",
        emission=emission,
        source=PointSource(offset=(0, 0.25, 0), riding=Riding(share=1.0)),
        lifetime=Attribute.of(life),
        speed=Attribute.of(0),
        size=Attribute.of(reach),
        colour=_tint(colour),
        intensity=Attribute.of(strength),
        opacity=Attribute.of(1, 1, IN_AND_OUT),
        look=LightLook(flicker=0.35, pace=8),
    )


def _decal(
    texture: str, colour: Colour, size: float, life: float, blend: Blend = Blend.ALPHA, count: int = 1
) -> Layer:
    return Layer(
        name="on the ground",
        emission=_once(count),
        source=PointSource(),
        lifetime=Attribute.of(life),
        speed=Attribute.of(0),
        size=Attribute.of(size, size, Curve.through((0, 0.3), (0.15, 1), (1, 1))),
        colour=_tint(colour),
        intensity=Attribute.of(1.0),
        opacity=Attribute.of(0.8, 0.8, IN_AND_OUT),
        spin=Attribute.of(20),
        look=DecalLook(texture=texture, blend=blend),
    )


def _fire() -> Effect:
    ring = RingSource(radius=0.08, thickness=0.14, aim=Aim(heading=Heading.UP, spread=20))
    layers = (
        _smoke(SphereSource(radius=0.08, offset=(0, 0.55, 0), aim=Aim(heading=Heading.UP, spread=15)), 10, 0.07, 0.2),
        _flames(ring, 60, 0.32), _embers(ring, 26), _shine((1.0, 0.5, 0.2), 1.6, 0.5, Emission(rate=6), 0.5),
    )  # fmt: skip
    return Effect(name="camp fire", length=None, layers=layers)


def _smoke_column() -> Effect:
    source = SphereSource(radius=0.07, aim=Aim(heading=Heading.UP, spread=12))
    return Effect(name="smoke column", length=None, layers=(_smoke(source, 40, 0.1),))


def _burning() -> Effect:
    skin = SkinSource(lift=0.01, aim=Aim(heading=Heading.OUTWARD, spread=35), riding=Riding(share=0.45, keep=0.35))
    return Effect(name="burning", length=None, layers=(_flames(skin, 520, 0.2), _embers(skin, 90)))


def _explosion() -> Effect:
    ball = Layer(
        name="fireball",
        emission=Emission(bursts=(Burst(count=46), Burst(time=0.05, count=22))),
        source=SphereSource(radius=0.12, aim=Aim(heading=Heading.OUTWARD, spread=20)),
        motion=Motion(forces=(Gravity(pull=-1.2), Drag(rate=4.5), Curl(strength=4, scale=0.5))),
        lifetime=Attribute.of(0.4, 0.9),
        speed=Attribute.of(0.6, 3.6),
        size=Attribute.of(0.3, 0.6, Curve.through((0, 0.4), (0.2, 1), (1, 1.15))),
        colour=_tint(WHITE, life=FLAME),
        intensity=Attribute.of(0.7, 1.2, Curve.through((0, 1), (0.5, 0.6), (1, 0.2))),
        opacity=Attribute.of(0.4, 0.7, QUICK),
        spin=Attribute.of(-80, 80),
        look=_mist(Blend.ADDITIVE, 0.15),
    )
    smoke = Layer(
        name="smoke",
        emission=Emission(bursts=(Burst(time=0.1, count=40),)),
        source=SphereSource(radius=0.25, aim=Aim(heading=Heading.OUTWARD, spread=30)),
        motion=Motion(forces=(Gravity(pull=-0.7), Drag(rate=2.6), Curl(strength=1.5, scale=0.7))),
        lifetime=Attribute.of(1.2, 2.2),
        speed=Attribute.of(0.4, 1.8),
        size=Attribute.of(0.35, 0.65, SWELL),
        colour=_tint((0.08, 0.075, 0.075), (0.14, 0.13, 0.13)),
        opacity=Attribute.of(0.3, 0.55, IN_AND_OUT),
        spin=Attribute.of(-30, 30),
        look=_mist(soft=0.25),
    )
    sparks = Layer(
        name="sparks",
        emission=_once(150),
        source=SphereSource(radius=0.05, aim=Aim(heading=Heading.OUTWARD, spread=15)),
        motion=Motion(
            forces=(Gravity(pull=8), Drag(rate=1.2)),
            ground=GroundCollision(contact=Collision.BOUNCE, bounce=0.4, grip=0.3),
        ),
        lifetime=Attribute.of(0.4, 1.2),
        speed=Attribute.of(2, 7),
        size=Attribute.of(0.01, 0.022, SHRINK),
        colour=_tint((1.0, 0.75, 0.4), (1.0, 0.45, 0.12)),
        intensity=Attribute.of(6, 12, SHRINK),
        turn=Attribute.of(0),
        look=SpriteLook(texture="spark.png", blend=Blend.ADDITIVE, facing=Facing.VELOCITY, stretch=0.035),
    )
    flash = Layer(
        name="flash", emission=_once(), source=PointSource(), lifetime=Attribute.of(0.18), speed=Attribute.of(0),
        size=Attribute.of(1.5), colour=_tint((1.0, 0.7, 0.4)), intensity=Attribute.of(1.2),
        opacity=Attribute.of(1, 1, QUICK), look=_glow(0.3),
    )  # fmt: skip
    layers = (
        _decal("scorch.png", (0.04, 0.035, 0.03), 1.3, 3.0), smoke, ball, sparks, flash,
        _shine((1.0, 0.6, 0.3), 2.6, 2.0, _once(), 0.6),
    )  # fmt: skip
    return Effect(name="explosion", length=0.4, layers=layers)


def _snow() -> Effect:
    flakes = Layer(
        name="flakes",
        emission=Emission(rate=120, warm_up=3.0),
        source=BoxSource(size=(3.0, 0.3, 3.0), offset=(0, 2.4, 0), aim=Aim(heading=Heading.AXES, spread=0)),
        motion=Motion(
            forces=(Gravity(pull=1.4), Drag(rate=2.4), Curl(strength=1.4, scale=0.8, change=0.3)),
            ground=GroundCollision(contact=Collision.STICK),
        ),
        lifetime=Attribute.of(4.5, 6.0),
        speed=Attribute.of(0),
        size=Attribute.of(0.014, 0.036),
        colour=_tint((0.92, 0.95, 1.0), WHITE),
        intensity=Attribute.of(1.2),
        opacity=Attribute.of(0.7, 1, Curve.through((0, 0), (0.05, 1), (0.9, 1), (1, 0))),
        look=SpriteLook(texture="glow.png", blend=Blend.ALPHA, soft=0.01),
    )
    return Effect(name="snow fall", length=None, layers=(flakes,))


def _frost() -> Effect:
    mist = Layer(
        name="cold mist",
        emission=Emission(rate=80, warm_up=1.2),
        source=SkinSource(lift=0.01, aim=Aim(heading=Heading.OUTWARD, spread=30), riding=Riding(share=0.3, keep=0.2)),
        motion=Motion(
            forces=(Gravity(pull=0.9), Drag(rate=1.8), Curl(strength=0.8, scale=0.5)),
            ground=GroundCollision(contact=Collision.SLIDE, grip=0.05),
        ),
        lifetime=Attribute.of(1.2, 2.2),
        speed=Attribute.of(0.05, 0.2),
        size=Attribute.of(0.16, 0.3, SWELL),
        colour=_tint((0.55, 0.75, 0.95), (0.8, 0.92, 1.0)),
        opacity=Attribute.of(0.22, 0.42, IN_AND_OUT),
        spin=Attribute.of(-20, 20),
        look=_mist(soft=0.1),
    )
    crystals = Layer(
        name="ice crystals",
        emission=Emission(rate=260, warm_up=0.6),
        source=SkinSource(lift=0.004, riding=Riding(share=1.0)),
        lifetime=Attribute.of(0.5, 1.1),
        speed=Attribute.of(0),
        size=Attribute.of(0.012, 0.03, Curve.through((0, 0), (0.3, 1), (1, 0))),
        colour=_tint((0.6, 0.85, 1.0), WHITE),
        intensity=Attribute.of(4, 9),
        opacity=Attribute.of(0.8, 1),
        look=SpriteLook(texture="spark.png", blend=Blend.ADDITIVE, soft=0.01),
    )
    return Effect(name="frost", length=None, layers=(mist, crystals))


def _poison() -> Effect:
    cloud = Layer(
        name="gas",
        emission=Emission(rate=22, warm_up=1.2),
        source=SphereSource(radius=0.22, aim=Aim(heading=Heading.OUTWARD, spread=60)),
        motion=Motion(
            forces=(Gravity(pull=0.12), Drag(rate=1.6), Curl(strength=1.0, scale=0.5)),
            ground=GroundCollision(contact=Collision.SLIDE, grip=0.05),
        ),
        lifetime=Attribute.of(1.6, 2.8),
        speed=Attribute.of(0.15, 0.5),
        size=Attribute.of(0.3, 0.5, SWELL),
        colour=_tint((0.05, 0.16, 0.03), (0.13, 0.2, 0.03)),
        intensity=Attribute.of(1.2),
        opacity=Attribute.of(0.3, 0.5, IN_AND_OUT),
        spin=Attribute.of(-30, 30),
        look=_mist(soft=0.2),
    )
    bubbles = Layer(
        name="bubbles",
        emission=Emission(rate=16),
        source=RingSource(radius=0.12, thickness=0.24),
        motion=Motion(forces=(Gravity(pull=-0.8), Drag(rate=1.5), Curl(strength=1.5, scale=0.3))),
        lifetime=Attribute.of(0.7, 1.5),
        speed=Attribute.of(0.05, 0.2),
        size=Attribute.of(0.02, 0.06, Curve.through((0, 0.3), (0.85, 1), (0.95, 1.4), (1, 0))),
        colour=_tint((0.35, 0.9, 0.15), (0.7, 1.0, 0.3)),
        intensity=Attribute.of(1.2),
        opacity=Attribute.of(0.7, 0.9),
        look=SpriteLook(texture="ring.png", blend=Blend.ADDITIVE, soft=0.01),
    )
    return Effect(name="poison cloud", length=None, layers=(cloud, bubbles))


def _healing() -> Effect:
    rising = Layer(
        name="rising lights",
        emission=Emission(rate=60),
        source=RingSource(radius=0.42, thickness=0.1, aim=Aim(heading=Heading.UP, spread=4)),
        motion=Motion(forces=(Gravity(pull=-0.9), Drag(rate=0.8), Vortex(strength=1.2, reach=0.4))),
        lifetime=Attribute.of(0.9, 1.7),
        speed=Attribute.of(0.2, 0.7),
        size=Attribute.of(0.015, 0.04, SHRINK),
        colour=_tint((0.45, 1.0, 0.5), (1.0, 0.95, 0.55)),
        intensity=Attribute.of(2, 5),
        opacity=Attribute.of(0.8, 1, IN_AND_OUT),
        look=_glow(),
    )
    column = Layer(
        name="column",
        emission=_once(),
        source=PointSource(riding=Riding(share=1.0, turning=False)),
        lifetime=Attribute.of(2.0),
        speed=Attribute.of(0),
        size=Attribute.of(0.95),
        colour=_tint((0.3, 0.9, 0.45)),
        intensity=Attribute.of(0.7),
        opacity=Attribute.of(0.5, 0.5, IN_AND_OUT),
        look=ShellLook(
            figure=Figure.CAPSULE, tall=2.2, fill=0.12, rim=2.5, high=(0.4, 1.0),
            first=NoiseField(scale=0.35, drift=(0, 0.9, 0)),
        ),
    )  # fmt: skip
    ring = _decal("ring.png", (0.35, 1.0, 0.5), 1.1, 2.0, Blend.ADDITIVE)
    shine = _shine((0.5, 1.0, 0.6), 1.8, 1.2, _once(), 2.0)
    return Effect(name="healing light", length=2.0, layers=(ring, column, rising, shine))


def _electric() -> Effect:
    arcs = Layer(
        name="arcs",
        emission=Emission(rate=170),
        source=SkinSource(lift=0.01, aim=Aim(heading=Heading.OUTWARD, spread=80), riding=Riding(share=0.5, keep=0.5)),
        motion=Motion(forces=(Drag(rate=6), Curl(strength=70, scale=0.12, change=6.0))),
        lifetime=Attribute.of(0.08, 0.28),
        speed=Attribute.of(0.6, 2.2),
        size=Attribute.of(0.012, 0.03, SHRINK),
        colour=_tint((0.45, 0.65, 1.0), (0.8, 0.9, 1.0)),
        intensity=Attribute.of(6, 14),
        turn=Attribute.of(0),
        look=SpriteLook(texture="spark.png", blend=Blend.ADDITIVE, facing=Facing.VELOCITY, stretch=0.06, soft=0.01),
    )
    crackle = _shine((0.5, 0.7, 1.0), 1.5, 2.0, Emission(rate=9), 0.12)
    film = Layer(
        name="film",
        emission=_once(),
        source=PointSource(riding=Riding(share=1.0)),
        lifetime=Attribute.of(2.0),
        speed=Attribute.of(0),
        size=Attribute.of(0.012),
        colour=_tint((0.35, 0.55, 1.0)),
        intensity=Attribute.of(1.6),
        opacity=Attribute.of(0.8, 0.8, IN_AND_OUT),
        look=ShellLook(
            figure=Figure.SKIN, fill=0.0, rim=1.2, contrast=9, low=(0, 0), high=(1, 1),
            first=NoiseField(scale=0.14, drift=(0.3, 1.4, 0.2)), second=NoiseField(scale=0.05, drift=(1, -1, 0)),
        ),
    )  # fmt: skip
    return Effect(name="lightning crackle", length=2.0, layers=(film, arcs, crackle))


def _portal() -> Effect:
    def ring(name: str, rate: float, size: float, strength: float, speed: float) -> Layer:
        return Layer(
            name=name,
            emission=Emission(rate=rate, warm_up=1.0),
            source=PictureSource(
                texture="ring.png", size=(1.5, 1.5), offset=(0, 0.9, 0), riding=Riding(share=0.4, keep=1.0)
            ),
            motion=Motion(forces=(Curl(swirl=Swirl.CARRY, speed=0.25, scale=0.3, change=0.6), Drag(rate=0.4))),
            lifetime=Attribute.of(0.5, 1.2),
            speed=Attribute.of(speed),
            size=Attribute.of(0.5 * size, size, SHRINK),
            colour=_tint((0.45, 0.2, 1.0), (0.95, 0.35, 0.9)),
            intensity=Attribute.of(strength),
            opacity=Attribute.of(0.5, 0.9, IN_AND_OUT),
            spin=Attribute.of(-90, 90),
            look=_mist(Blend.ADDITIVE, 0.02) if size > 0.1 else _glow(),
        )

    surface = Layer(
        name="surface",
        emission=Emission(rate=26, warm_up=1.0),
        source=SphereSource(radius=0.1, offset=(0, 0.9, 0), riding=Riding(share=1.0)),
        lifetime=Attribute.of(0.8, 1.4),
        speed=Attribute.of(0),
        size=Attribute.of(0.7, 1.1, Curve.through((0, 1), (1, 0.3))),
        colour=_tint((0.10, 0.03, 0.35), (0.28, 0.06, 0.4)),
        intensity=Attribute.of(0.8),
        opacity=Attribute.of(0.25, 0.4, IN_AND_OUT),
        spin=Attribute.of(120, 160),
        look=_mist(Blend.ADDITIVE, 0.02),
    )
    layers = (surface, ring("rim", 90, 0.24, 1.3, 0.05), ring("sparks", 150, 0.03, 5.0, 0.25),
              _shine((0.6, 0.3, 1.0), 2.0, 0.4, Emission(rate=3), 1.0))  # fmt: skip
    return Effect(name="portal", length=None, layers=layers)


def _shield() -> Effect:
    ball = Layer(
        name="shield",
        emission=_once(),
        source=PointSource(riding=Riding(share=1.0, turning=False)),
        lifetime=Attribute.of(3.0),
        speed=Attribute.of(0),
        size=Attribute.of(1.5, 1.5, Curve.through((0, 0.4), (0.06, 1.06), (0.1, 1), (1, 1))),
        colour=_tint((0.25, 0.6, 1.0)),
        intensity=Attribute.of(1.0),
        opacity=Attribute.of(0.8, 0.8, Curve.through((0, 0), (0.05, 1), (0.9, 1), (1, 0))),
        look=ShellLook(
            tall=1.3, fill=0.08, rim=3.0, contrast=4, low=(0, 0.05), high=(0.95, 1), bend=0.02,
            first=NoiseField(scale=0.3, drift=(0.1, 0.35, 0)),
        ),
    )  # fmt: skip
    return Effect(name="energy shield", length=3.0, layers=(ball,))


def _charge() -> Effect:
    gathering = Layer(
        name="gathering lights",
        emission=Emission(rate=150),
        source=SphereSource(radius=0.8, shell=0.7),  # noqa: S604  # a hollow one
        motion=Motion(forces=(Attraction(strength=9, reach=0.5), Drag(rate=2.2), Curl(strength=2.5, scale=0.5))),
        lifetime=Attribute.of(0.5, 0.9),
        speed=Attribute.of(0),
        size=Attribute.of(0.01, 0.024, Curve.through((0, 0.2), (0.5, 1), (1, 0.6))),
        colour=_tint((0.4, 0.9, 1.0), (1.0, 0.85, 0.4)),
        intensity=Attribute.of(3, 8),
        opacity=Attribute.of(0.9, 1, Curve.through((0, 0), (0.2, 1), (1, 0.8))),
        look=SpriteLook(texture="spark.png", blend=Blend.ADDITIVE, facing=Facing.VELOCITY, stretch=0.06, soft=0.01),
    )
    core = Layer(
        name="core",
        emission=Emission(rate=20),
        source=PointSource(riding=Riding(share=1.0)),
        lifetime=Attribute.of(0.25),
        speed=Attribute.of(0),
        size=Attribute.of(0.25, 0.42),
        colour=_tint((0.5, 0.85, 1.0)),
        intensity=Attribute.of(0.8, 1.4),
        opacity=Attribute.of(0.5, 0.5, IN_AND_OUT),
        look=_glow(0.05),
    )
    shine = _shine((0.5, 0.85, 1.0), 1.6, 1.5, Emission(rate=5), 0.5)
    return Effect(name="gathering charge", length=1.5, layers=(gathering, core, shine))


def _leaves() -> Effect:
    leaves = Layer(
        name="leaves",
        emission=Emission(rate=26, warm_up=1.5),
        source=RingSource(radius=0.7, thickness=0.4, aim=Aim(heading=Heading.UP, spread=30)),
        motion=Motion(
            forces=(Orbit(speed=1.4, radius=0.7, follow=2.0), Gravity(pull=-0.25), Drag(rate=0.6),
                    Curl(strength=1.5, scale=0.6)),
        ),
        lifetime=Attribute.of(1.8, 3.2),
        speed=Attribute.of(0.1, 0.5),
        size=Attribute.of(0.05, 0.1, Curve.through((0, 0.1), (0.1, 1), (0.85, 1), (1, 0.2))),
        colour=_tint((0.12, 0.42, 0.06), (0.75, 0.42, 0.06)),
        opacity=Attribute.of(1, 1, IN_AND_OUT),
        spin=Attribute.of(-220, 220),
        look=SpriteLook(texture="feather.png", sheet=QUAD, soft=0.02),
    )  # fmt: skip
    return Effect(name="swirling leaves", length=None, layers=(leaves,))


def _blood() -> Effect:
    drops = Layer(
        name="drops",
        emission=_once(70),
        source=ConeSource(length=0.0, angle=32, aim=Aim(heading=Heading.OUTWARD, spread=24)),
        motion=Motion(forces=(Gravity(pull=9.0), Drag(rate=1.0)), ground=GroundCollision(contact=Collision.STICK)),
        lifetime=Attribute.of(0.6, 1.6),
        speed=Attribute.of(0.8, 3.4),
        size=Attribute.of(0.012, 0.032, FADE),
        colour=_tint((0.30, 0.01, 0.01), (0.48, 0.02, 0.02)),
        opacity=Attribute.of(0.9, 1, Curve.through((0, 1), (0.85, 1), (1, 0))),
        turn=Attribute.of(0),
        look=SpriteLook(texture="glow.png", blend=Blend.ALPHA, facing=Facing.VELOCITY, stretch=0.03, soft=0.005),
    )
    mist = Layer(
        name="fine spray",
        emission=_once(14),
        source=SphereSource(radius=0.04, aim=Aim(heading=Heading.OUTWARD, spread=30)),
        motion=Motion(forces=(Gravity(pull=1.5), Drag(rate=5))),
        lifetime=Attribute.of(0.25, 0.5),
        speed=Attribute.of(0.8, 2.0),
        size=Attribute.of(0.1, 0.22, SWELL),
        colour=_tint((0.32, 0.015, 0.015)),
        opacity=Attribute.of(0.3, 0.5, QUICK),
        look=_mist(soft=0.05),
    )
    return Effect(name="blood spray", length=0.2, layers=(mist, drops))


def _rubble() -> Effect:
    rocks = Layer(
        name="rocks",
        emission=_once(26),
        source=RingSource(radius=0.1, thickness=0.1, aim=Aim(heading=Heading.UP, spread=45)),
        motion=Motion(
            forces=(Gravity(pull=9.81),), ground=GroundCollision(contact=Collision.BOUNCE, bounce=0.3, grip=0.45)
        ),
        lifetime=Attribute.of(1.4, 2.2),
        speed=Attribute.of(1.2, 3.6),
        size=Attribute.of(0.05, 0.14, Curve.through((0, 1), (0.85, 1), (1, 0))),
        colour=_tint((0.24, 0.20, 0.16), (0.34, 0.30, 0.26)),
        spin=Attribute.of(-500, 500),
        look=MeshLook(shapes=("shard", "chip")),
    )
    dust = Layer(
        name="dust",
        emission=_once(22),
        source=RingSource(radius=0.15, thickness=0.1, aim=Aim(heading=Heading.OUTWARD, spread=25)),
        motion=Motion(forces=(Gravity(pull=-0.3), Drag(rate=3.2), Curl(strength=1.2, scale=0.4))),
        lifetime=Attribute.of(0.8, 1.6),
        speed=Attribute.of(0.6, 1.8),
        size=Attribute.of(0.25, 0.45, SWELL),
        colour=_tint((0.34, 0.29, 0.23), (0.46, 0.40, 0.33)),
        opacity=Attribute.of(0.25, 0.5, QUICK),
        spin=Attribute.of(-40, 40),
        look=_mist(soft=0.15),
    )
    return Effect(name="rock burst", length=0.2, layers=(dust, rocks))


MADE = (
    (_fire, "fire, flame, burn, torch, hot, warm"), (_burning, "fire, flame, burn, aura, hot, power, rage"),
    (_smoke_column, "smoke, steam, chimney, fog, cloud"),
    (_explosion, "explosion, explode, blast, bomb, impact, hit, fire, smoke, boom"),
    (_snow, "snow, winter, ice, cold, weather, flake"),
    (_frost, "frost, ice, cold, freeze, frozen, winter, aura, spell"),
    (_poison, "poison, toxic, gas, acid, slime, cloud, spell"),
    (_healing, "heal, cure, holy, magic, spell, buff, bless, light, beam"),
    (_electric, "electric, lightning, electricity, shock, thunder, spark, aura, spell, magic"),
    (_portal, "portal, gate, teleport, magic, spell, vortex, summon"),
    (_shield, "shield, barrier, force field, protect, aura, magic, spell, bubble"),
    (_charge, "charge, power up, gather, energy, magic, spell, cast, focus"),
    (_leaves, "leaf, leaves, nature, wind, autumn, forest, swirl"),
    (_blood, "blood, hit, wound, gore, impact, bleed"),
    (_rubble, "rock, stone, rubble, debris, earth, impact, dust, smash"),
)  # fmt: skip
"""What makes each, and the words it is found by."""


def everyday() -> tuple[tuple[Effect, tuple[str, ...]], ...]:
    """Return the effects, with ids of their own, and the tags of each."""
    found = []
    for make, tags in MADE:
        effect = make()
        key = effect.name.replace(" ", "-")
        layers = tuple(layer.evolve(id=f"{key}-{k}") for k, layer in enumerate(effect.layers))
        found.append((effect.evolve(id=key, layers=layers), tuple(tag.strip() for tag in tags.split(","))))
    return tuple(found)
