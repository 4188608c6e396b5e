"""What the foot brings up from moss and from puddles, and where these lie on the demo's roof."""

from __future__ import annotations

from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, Curve, Tint
from wraithon.project.look import Blend, DecalLook, FrameGrid, SpriteLook
from wraithon.project.motion import Collision, Drag, Gravity, GroundCollision, Motion
from wraithon.project.source import Aim, Heading, PointSource, Riding, RingSource
from wraithon.project.staging.ground import Block

FADE = Curve.through((0, 1), (0.6, 0.9), (1, 0))
QUAD = FrameGrid(columns=2, rows=2)
SOFT = 0.004


def flecks() -> Effect:
    """Return moss that is torn up, and the dent it leaves."""
    torn = Layer(
        id="flecks-torn",
        name="torn moss",
        emission=Emission(bursts=(Burst(count=30),), limit=600),
        source=RingSource(
            radius=0.06, thickness=0.04, aim=Aim(heading=Heading.OUTWARD, spread=60), riding=Riding(keep=0.15)
        ),
        motion=Motion(
            forces=(Gravity(pull=6.0), Drag(rate=1.6)),
            ground=GroundCollision(contact=Collision.STICK, bounce=0.0, grip=1.0),
        ),
        lifetime=Attribute.of(0.9, 1.8),
        speed=Attribute.of(0.6, 1.9),
        size=Attribute.of(0.03, 0.075, Curve.through((0, 1), (0.8, 1), (1, 0.2))),
        colour=Tint(first=(0.16, 0.42, 0.05), second=(0.42, 0.72, 0.10)),
        opacity=Attribute.of(1, 1, FADE),
        spin=Attribute.of(-500, 500),
        look=SpriteLook(texture="chip.png", sheet=QUAD, soft=SOFT),
    )
    dent = Layer(
        id="flecks-dent",
        name="dent",
        emission=Emission(bursts=(Burst(count=1),), limit=60),
        source=PointSource(),
        lifetime=Attribute.of(2.2, 3.0),
        speed=Attribute.of(0),
        size=Attribute.of(0.24, 0.3),
        colour=Tint(first=(0.012, 0.03, 0.006), second=(0.016, 0.04, 0.008)),
        opacity=Attribute.of(0.55, 0.65, FADE),
        look=DecalLook(texture="scorch.png"),
    )
    return Effect(id="flecks", name="moss flecks", length=0.1, layers=(dent, torn))


def splash() -> Effect:
    """Return water that is trodden up: drops, a crown of spray, and a ring that runs out."""
    drops = Layer(
        id="splash-drops",
        name="drops",
        emission=Emission(bursts=(Burst(count=34),), limit=900),
        source=RingSource(
            radius=0.07, thickness=0.04, aim=Aim(heading=Heading.UP, spread=52), riding=Riding(keep=0.2)
        ),
        motion=Motion(forces=(Gravity(pull=9.8), Drag(rate=0.5)), ground=GroundCollision(contact=Collision.DIE)),
        lifetime=Attribute.of(0.5, 0.9),
        speed=Attribute.of(0.9, 2.9),
        size=Attribute.of(0.012, 0.03),
        colour=Tint(first=(0.55, 0.72, 0.80), second=(0.85, 0.95, 1.0)),
        opacity=Attribute.of(0.6, 0.95, FADE),
        look=SpriteLook(texture="glow.png", blend=Blend.ADDITIVE, soft=SOFT),
    )
    crown = Layer(
        id="splash-crown",
        name="spray",
        emission=Emission(bursts=(Burst(count=8),), limit=200),
        source=RingSource(radius=0.08, thickness=0.04, aim=Aim(heading=Heading.UP, spread=30)),
        motion=Motion(forces=(Gravity(pull=3.5), Drag(rate=2.5))),
        lifetime=Attribute.of(0.3, 0.5),
        speed=Attribute.of(0.8, 1.4),
        size=Attribute.of(0.12, 0.24, Curve.through((0, 0.4), (0.4, 1), (1, 1.2))),
        colour=Tint(first=(0.5, 0.62, 0.68), second=(0.65, 0.78, 0.84)),
        opacity=Attribute.of(0.16, 0.3, FADE),
        spin=Attribute.of(-60, 60),
        look=SpriteLook(texture="mist.png", sheet=QUAD, soft=0.08),
    )
    ring = Layer(
        id="splash-ring",
        name="ring",
        emission=Emission(bursts=(Burst(count=2, interval=0.12, repeats=1),), limit=60),
        source=PointSource(),
        lifetime=Attribute.of(0.8, 1.1),
        speed=Attribute.of(0),
        size=Attribute.of(0.7, 0.9, Curve.through((0, 0.1), (1, 1))),
        colour=Tint(first=(0.6, 0.8, 0.88), second=(0.7, 0.88, 0.95)),
        opacity=Attribute.of(0.5, 0.65, FADE),
        look=DecalLook(texture="ring.png"),
    )
    return Effect(id="splash", name="puddle splash", length=0.3, layers=(ring, crown, drops))


def roof() -> tuple[Block, ...]:
    """Return what lies and stands on the roof, beside the way of the running order."""
    return (
        Block(id="moss-bed", name="moss bed", kind="moss", place=(-2.4, 2.0), size=(2.4, 3.0), turn=12.0),
        Block(id="puddle", name="puddle", kind="puddle", round=True, place=(2.3, 1.7), size=(2.4, 2.0)),
        Block(id="kerb", name="kerb", kind="slate", place=(-3.0, 6.0), size=(3.0, 1.6), height=0.28),
        Block(id="parapet", name="parapet", kind="slate", place=(4.4, 6.4), size=(3.2, 2.4), height=1.4),
        Block(id="ramp", name="ramp", kind="slate", place=(4.4, 3.7), size=(1.8, 3.0), rise=1.4),
    )
