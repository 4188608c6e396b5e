"""The demo's effects of films and trails: rain veil, fan streamers, echo steps, squall ring, skipping spark."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, Colour, Curve, Gradient, Tint
from wraithon.project.look import (
    AfterimageLook,
    Blend,
    DecalLook,
    Figure,
    LightLook,
    MeshLook,
    NoiseField,
    RibbonLook,
    ShellLook,
    ShellSide,
    SpriteLook,
    Through,
)
from wraithon.project.motion import Collision, Curl, Drag, Gravity, GroundCollision, Motion
from wraithon.project.source import Aim, Heading, Occasion, OffspringSource, PointSource, Riding, RingSource

TEAL: Colour = (0.06, 0.52, 0.50)
ICE: Colour = (0.55, 0.92, 0.95)
EMBER: Colour = (1.0, 0.55, 0.16)
GONE = Curve.through((0, 1), (0.6, 0.7), (1, 0))
COMES_AND_GOES = Curve.through((0, 0), (0.25, 1), (0.75, 1), (1, 0))


def rain_veil() -> Effect:
    """Return two shells of rain that close around her while she gathers for the strike."""
    outer = Layer(
        id="veil-outer",
        name="outer veil",
        emission=Emission(bursts=(Burst(count=1),), limit=4),
        source=PointSource(riding=Riding(share=1.0, turning=False)),
        lifetime=Attribute.of(0.95),
        speed=Attribute.of(0),
        size=Attribute.of(1.3, 1.3, Curve.through((0, 1.2), (0.6, 0.95), (1, 0.85))),
        colour=Tint(first=(0.16, 0.42, 0.55), second=(0.16, 0.42, 0.55)),
        intensity=Attribute.of(0.9),
        opacity=Attribute.of(0.75, 0.75, COMES_AND_GOES),
        turn=Attribute.of(0),
        spin=Attribute.of(30),
        look=ShellLook(
            figure=Figure.CAPSULE,
            tall=1.62,
            side=ShellSide.FRONT,
            first=NoiseField(scale=0.16, drift=(0.12, -1.5, 0.05), amount=1.0),
            second=NoiseField(scale=0.5, drift=(-0.1, -0.6, 0.1), amount=0.8),
            warp=0.05,
            contrast=3.2,
            fill=0.16,
            rim=2.4,
            low=(0.0, 0.3),
            high=(0.8, 1.0),
            bend=0.035,
            soft=0.12,
        ),
    )
    inner = Layer(
        id="veil-inner",
        name="inner veil",
        emission=Emission(bursts=(Burst(count=1),), limit=4),
        source=PointSource(riding=Riding(share=1.0, turning=False)),
        lifetime=Attribute.of(0.95),
        speed=Attribute.of(0),
        size=Attribute.of(0.035, 0.035, Curve.through((0, 2.2), (1, 0.5))),
        colour=Tint(first=TEAL, second=TEAL),
        intensity=Attribute.of(1.4),
        opacity=Attribute.of(0.6, 0.6, COMES_AND_GOES),
        look=ShellLook(
            figure=Figure.SKIN,
            side=ShellSide.FRONT,
            first=NoiseField(scale=0.1, drift=(0.0, 0.5, 0.0), amount=0.9),
            second=NoiseField(scale=0.35, drift=(0.0, 0.25, 0.1), amount=0.6),
            contrast=2.6,
            fill=0.05,
            rim=1.7,
            low=(0.0, 0.05),
            high=(0.95, 1.0),
            swell=0.02,
            calm=0.2,
            bands=Gradient.through((0, (0.3, 0.9, 1.0)), (0.6, (1, 1, 1)), (1, (1.6, 1.5, 1.2))),
            soft=0.03,
        ),
    )
    return Effect(id="rain-veil", name="rain veil", length=0.95, layers=(outer, inner))


def fan_streamers() -> Effect:
    """Return streamers that a fan's tip draws behind it."""
    streamer = Layer(
        id="fan-streamer",
        name="streamer",
        emission=Emission(rate=60, limit=160),
        source=PointSource(),
        motion=Motion(forces=(Gravity(pull=0.35), Drag(rate=1.0))),
        lifetime=Attribute.of(0.62),
        speed=Attribute.of(0),
        size=Attribute.of(0.055),
        colour=Tint(first=TEAL, second=TEAL, life=Gradient.through((0, (2.4, 1.6, 1.6)), (1, (0.6, 0.9, 1.1)))),
        intensity=Attribute.of(1.5),
        opacity=Attribute.of(0.85, 0.85, GONE),
        look=RibbonLook(blend=Blend.ADDITIVE, head=0.06, tail=0.85, soft=0.02),
    )
    threads = Layer(
        id="fan-threads",
        name="threads",
        emission=Emission(rate=9, limit=60),
        source=PointSource(aim=Aim(heading=Heading.OUTWARD, spread=180), riding=Riding(keep=0.35)),
        motion=Motion(forces=(Gravity(pull=0.5), Drag(rate=1.6), Curl(strength=5, scale=0.35, change=0.8))),
        lifetime=Attribute.of(0.7, 1.1),
        speed=Attribute.of(0.1, 0.4),
        size=Attribute.of(0.012, 0.02),
        colour=Tint(first=EMBER, second=(0.9, 0.35, 0.1)),
        intensity=Attribute.of(1.2, 2.0),
        opacity=Attribute.of(0.7, 0.9, COMES_AND_GOES),
        look=RibbonLook(through=Through.PAST, past=0.28, blend=Blend.ADDITIVE, tail=0.9, soft=0.01),
    )
    return Effect(id="fan-streamers", name="fan streamers", length=None, layers=(streamer, threads))


def echo_steps() -> Effect:
    """Return the pose she leaves behind at a running step."""
    echo = Layer(
        id="echo-pose",
        name="pose",
        emission=Emission(bursts=(Burst(count=1), Burst(time=0.09, count=1)), limit=8),
        source=PointSource(),
        lifetime=Attribute.of(0.55),
        speed=Attribute.of(0),
        colour=Tint(first=(0.10, 0.55, 0.62), second=(0.25, 0.35, 0.75)),
        opacity=Attribute.of(0.5, 0.5, GONE),
        look=AfterimageLook(blend=Blend.ADDITIVE, fill=0.12, rim=1.4, soft=0.02),
    )
    return Effect(id="echo-steps", name="echo steps", length=0.1, layers=(echo,))


def squall_ring() -> Effect:
    """Return the squall a landing throws up: a ring over the stone, spray, and bits of slate that tumble away."""
    ring = Layer(
        id="squall-wave",
        name="wave",
        emission=Emission(bursts=(Burst(count=1), Burst(time=0.07, count=1)), limit=12),
        source=PointSource(),
        lifetime=Attribute.of(0.5, 0.65),
        speed=Attribute.of(0),
        size=Attribute.of(2.4, 3.0, Curve.through((0, 0.1), (0.35, 0.7), (1, 1))),
        colour=Tint(first=ICE, second=TEAL),
        intensity=Attribute.of(0.7, 0.9),
        opacity=Attribute.of(0.6, 0.7, GONE),
        look=DecalLook(texture="ring.png", blend=Blend.ADDITIVE),
    )
    spray = Layer(
        id="squall-spray",
        name="spray",
        emission=Emission(bursts=(Burst(count=46),), limit=300),
        source=RingSource(radius=0.18, thickness=0.06, aim=Aim(heading=Heading.OUTWARD, spread=22)),
        motion=Motion(
            forces=(Gravity(pull=1.0), Drag(rate=2.6), Curl(strength=2.5, scale=0.5)),
            ground=GroundCollision(contact=Collision.SLIDE, grip=0.1),
        ),
        lifetime=Attribute.of(0.5, 1.2),
        speed=Attribute.of(1.2, 3.4),
        size=Attribute.of(0.14, 0.34, Curve.through((0, 0.3), (0.3, 0.85), (1, 1.4))),
        colour=Tint(first=(0.40, 0.43, 0.48), second=(0.5, 0.5, 0.52)),
        opacity=Attribute.of(0.14, 0.3, Curve.through((0, 1), (0.3, 0.45), (1, 0))),
        spin=Attribute.of(-60, 60),
        look=SpriteLook(texture="mist.png", sheet={"columns": 2, "rows": 2}, soft=0.18),
    )
    slate = Layer(
        id="squall-slate",
        name="slate",
        emission=Emission(bursts=(Burst(count=22),), limit=200),
        source=RingSource(radius=0.16, thickness=0.05, aim=Aim(heading=Heading.UP, spread=60)),
        motion=Motion(
            forces=(Gravity(pull=9.81), Drag(rate=0.3)),
            ground=GroundCollision(contact=Collision.BOUNCE, bounce=0.3, grip=0.4),
        ),
        lifetime=Attribute.of(0.9, 1.6),
        speed=Attribute.of(1.2, 2.8),
        size=Attribute.of(0.03, 0.085, Curve.through((0, 1), (0.8, 1), (1, 0))),
        colour=Tint(first=(0.30, 0.28, 0.31), second=(0.13, 0.12, 0.15)),
        spin=Attribute.of(-900, 900),
        look=MeshLook(shapes=("chip", "shard")),
    )
    return Effect(id="squall-ring", name="squall ring", length=0.4, layers=(ring, spray, slate, _wake(slate)))


def _wake(slate: Layer) -> Layer:
    """Return the mist that bits of slate leave along their way."""
    return Layer(
        id="squall-wake",
        name="wake",
        emission=Emission(limit=900),
        source=OffspringSource(
            layer=slate.id, occasion=Occasion.PASSING, every=0.06, count=1, grown=True, riding=Riding(keep=0.12)
        ),
        motion=Motion(forces=(Gravity(pull=-0.25), Drag(rate=2.0), Curl(strength=1.2, scale=0.3))),
        lifetime=Attribute.of(0.35, 0.8),
        speed=Attribute.of(0.0, 0.12),
        size=Attribute.of(0.1, 0.2, Curve.through((0, 0.4), (1, 1.5))),
        colour=Tint(first=(0.62, 0.70, 0.74), second=(0.5, 0.52, 0.55)),
        opacity=Attribute.of(0.2, 0.32, Curve.through((0, 0.2), (0.15, 1), (1, 0))),
        spin=Attribute.of(-80, 80),
        look=SpriteLook(texture="mist.png", sheet={"columns": 2, "rows": 2}, soft=0.08),
    )


def skipping_spark() -> Effect:
    """Return sparks that skip over the stone, each with its trail and its light."""
    leap = Motion(
        forces=(Gravity(pull=6.5), Drag(rate=0.25)),
        ground=GroundCollision(contact=Collision.BOUNCE, bounce=0.72, grip=0.06),
    )
    shared: dict[str, Any] = {
        "source": RingSource(radius=0.1, thickness=0.02, aim=Aim(heading=Heading.UP, spread=62)),
        "motion": leap,
        "lifetime": Attribute.of(1.5, 2.1),
        "speed": Attribute.of(2.2, 3.6),
    }
    trail = Layer(
        id="spark-trail",
        name="trail",
        emission=Emission(bursts=(Burst(count=7),), limit=60),
        size=Attribute.of(0.03, 0.045, GONE),
        colour=Tint(first=ICE, second=EMBER),
        intensity=Attribute.of(3, 5),
        opacity=Attribute.of(0.9, 1, GONE),
        look=RibbonLook(through=Through.PAST, past=0.4, blend=Blend.ADDITIVE, tail=0.95, soft=0.01),
        **shared,
    )
    return Effect(id="skipping-spark", name="skipping spark", length=0.2, layers=(trail, _spark_light(shared)))


def _spark_light(shared: Mapping[str, Any]) -> Layer:
    """Return what the sparks throw on the stone."""
    return Layer(
        id="spark-light",
        name="light",
        emission=Emission(bursts=(Burst(count=3),), limit=30),
        size=Attribute.of(0.7, 1.0, GONE),
        colour=Tint(first=ICE, second=EMBER),
        intensity=Attribute.of(1.2, 2.0),
        opacity=Attribute.of(1, 1, GONE),
        look=LightLook(flicker=0.3, pace=12),
        **shared,
    )
