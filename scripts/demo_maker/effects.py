"""The demo's effects: plume drift, tread, thunder stamp, scatter, drizzle."""

from __future__ import annotations

from wraithon.project.binding import Binding, Dial
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, Colour, Curve, Gradient, LifeMode, Tint
from wraithon.project.look import Blend, DecalLook, Facing, FrameGrid, LightLook, MeshLook, SpriteLook
from wraithon.project.motion import Collision, Curl, Drag, Gravity, GroundCollision, Motion, Wind
from wraithon.project.source import Aim, Heading, PointSource, Riding, RingSource, SkinSource, SphereSource

QUAD = FrameGrid(columns=2, rows=2)
IN_AND_OUT = Curve.through((0, 0), (0.12, 1), (0.7, 0.9), (1, 0))
FADE = Curve.through((0, 1), (0.5, 0.75), (1, 0))
QUICK = Curve.through((0, 1), (0.25, 0.45), (1, 0))
SWELL = Curve.through((0, 0.35), (0.3, 0.8), (1, 1.25))
SHRINK = Curve.through((0, 1), (0.7, 0.8), (1, 0.1))

TEAL: Colour = (0.06, 0.52, 0.50)
ICE: Colour = (0.55, 0.92, 0.95)
RUST: Colour = (0.85, 0.26, 0.06)
SLATE: Colour = (0.30, 0.28, 0.31)


def plume_drift() -> Effect:
    """Return feathers that ride on her skin, come loose and drift; glints among them."""
    feathers = Layer(
        id="plume-feathers",
        name="feathers",
        emission=Emission(rate=34, limit=400),
        source=SkinSource(
            parts=("body", "rain skirt", "left fan", "right fan"),
            lift=0.012,
            aim=Aim(heading=Heading.OUTWARD, spread=35),
            riding=Riding(share=0.22, keep=0.3),
        ),
        motion=Motion(
            forces=(Gravity(pull=0.75), Drag(rate=1.7), Curl(strength=2.6, scale=0.7, change=0.35)),
            ground=GroundCollision(contact=Collision.SLIDE, grip=0.4),
        ),
        lifetime=Attribute.of(2.2, 3.8),
        speed=Attribute.of(0.15, 0.5),
        size=Attribute.of(0.06, 0.13, Curve.through((0, 0.1), (0.12, 1), (0.85, 1), (1, 0.5))),
        colour=Tint(
            first=(0.10, 0.62, 0.66),
            second=(0.9, 0.42, 0.14),
            life=Gradient.through((0, (1.3, 1.3, 1.3)), (0.5, (1, 1, 1)), (1, (0.55, 0.6, 0.75))),
        ),
        intensity=Attribute.of(0.9, 1.3),
        opacity=Attribute.of(0.85, 1, IN_AND_OUT),
        spin=Attribute.of(-130, 130),
        look=SpriteLook(texture="feather.png", sheet=QUAD, blend=Blend.ALPHA, soft=0.02),
    )
    glints = Layer(
        id="plume-glints",
        name="glints",
        emission=Emission(rate=260, limit=1500),
        source=SkinSource(
            aim=Aim(heading=Heading.OUTWARD, spread=60), riding=Riding(share=0.35, keep=0.2), lift=0.01
        ),
        motion=Motion(forces=(Gravity(pull=-0.35), Drag(rate=1.4), Curl(strength=2.2, scale=0.45, change=0.5))),
        lifetime=Attribute.of(0.9, 2.0),
        speed=Attribute.of(0.05, 0.3),
        size=Attribute.of(0.012, 0.03, SHRINK),
        colour=Tint(first=TEAL, second=ICE),
        intensity=Attribute.of(1.2, 3.0),
        opacity=Attribute.of(0.5, 0.9, IN_AND_OUT),
        look=SpriteLook(texture="glow.png", blend=Blend.ADDITIVE, soft=0.01),
    )
    return Effect(id="plume-drift", name="plume drift", length=None, layers=(feathers, glints))


def tread() -> Effect:
    """Return slate grit and a breath of wet dust under the ball of the foot, and the print it leaves."""
    grit = Layer(
        id="tread-grit",
        name="grit",
        emission=Emission(bursts=(Burst(count=16),), limit=600),
        source=RingSource(
            radius=0.05, thickness=0.03, aim=Aim(heading=Heading.OUTWARD, spread=55), riding=Riding(keep=0.15)
        ),
        motion=Motion(
            forces=(Gravity(pull=7.5), Drag(rate=0.8)),
            ground=GroundCollision(contact=Collision.BOUNCE, bounce=0.3, grip=0.35),
        ),
        lifetime=Attribute.of(0.5, 1.1),
        speed=Attribute.of(0.5, 1.7),
        size=Attribute.of(0.012, 0.034, Curve.through((0, 1), (0.75, 1), (1, 0.2))),
        colour=Tint(first=SLATE, second=(0.16, 0.15, 0.18)),
        opacity=Attribute.of(1, 1, Curve.through((0, 1), (0.8, 1), (1, 0))),
        spin=Attribute.of(-700, 700),
        look=SpriteLook(texture="chip.png", sheet=QUAD, soft=0.004),
    )
    dust = Layer(
        id="tread-dust",
        name="wet dust",
        emission=Emission(bursts=(Burst(count=9),), limit=300),
        source=RingSource(radius=0.07, thickness=0.04, aim=Aim(heading=Heading.OUTWARD, spread=25)),
        motion=Motion(
            forces=(Gravity(pull=-0.25), Drag(rate=3.2), Curl(strength=1.2, scale=0.3)),
            ground=GroundCollision(contact=Collision.SLIDE, grip=0.2),
        ),
        lifetime=Attribute.of(0.55, 1.2),
        speed=Attribute.of(0.4, 1.0),
        size=Attribute.of(0.12, 0.24, SWELL),
        colour=Tint(first=(0.30, 0.30, 0.34), second=(0.42, 0.41, 0.44)),
        opacity=Attribute.of(0.14, 0.30, QUICK),
        spin=Attribute.of(-40, 40),
        look=SpriteLook(texture="mist.png", sheet=QUAD, soft=0.12),
    )
    print_ = Layer(
        id="tread-print",
        name="damp print",
        emission=Emission(bursts=(Burst(count=1),), limit=60),
        source=PointSource(),
        lifetime=Attribute.of(1.8, 2.4),
        speed=Attribute.of(0),
        size=Attribute.of(0.2, 0.26),
        colour=Tint(first=(0.03, 0.03, 0.035), second=(0.04, 0.04, 0.045)),
        opacity=Attribute.of(0.5, 0.6, FADE),
        look=DecalLook(texture="scorch.png"),
    )
    return Effect(id="tread", name="tread", length=0.1, layers=(print_, dust, grit))


def thunder_stamp() -> Effect:
    """Return the strike's impact: a flash and what it lights, rings, spray, sparks, shards, embers, a scorch."""
    return Effect(
        id="thunder-stamp",
        name="thunder stamp",
        length=0.5,
        layers=(_scorch(), _ring(), _spray(), _shards(), _flash(), _shine(), _shock(), _sparks(), _embers()),
    )


def _scorch() -> Layer:
    return Layer(
        id="stamp-scorch",
        name="scorch",
        emission=Emission(bursts=(Burst(count=1),), limit=12),
        source=PointSource(),
        lifetime=Attribute.of(3.2, 3.6),
        speed=Attribute.of(0),
        size=Attribute.of(1.1, 1.3, Curve.through((0, 0.5), (0.05, 1), (1, 1))),
        colour=Tint(first=(0.05, 0.045, 0.05), second=(0.06, 0.05, 0.05)),
        opacity=Attribute.of(0.85, 0.9, Curve.through((0, 0.6), (0.04, 1), (0.55, 0.8), (1, 0))),
        look=DecalLook(texture="scorch.png"),
    )


def _ring() -> Layer:
    """Return a ring that runs over the ground."""
    return Layer(
        id="stamp-ring",
        name="ring",
        emission=Emission(bursts=(Burst(count=1), Burst(time=0.08, count=1)), limit=12),
        source=PointSource(),
        lifetime=Attribute.of(0.45, 0.55),
        speed=Attribute.of(0),
        size=Attribute.of(3.4, 4.0, Curve.through((0, 0.08), (0.35, 0.65), (1, 1))),
        colour=Tint(first=ICE, second=TEAL),
        intensity=Attribute.of(0.9, 1.3),
        opacity=Attribute.of(0.7, 0.8, Curve.through((0, 1), (0.5, 0.45), (1, 0))),
        look=DecalLook(texture="ring.png", blend=Blend.ADDITIVE),
    )


def _shine() -> Layer:
    """Return what the flash and the embers throw on her and on the stones."""
    return Layer(
        id="stamp-shine",
        name="shine",
        emission=Emission(bursts=(Burst(count=1), Burst(time=0.12, count=1)), limit=40),
        source=PointSource(aim=Aim(heading=Heading.UP, spread=40)),
        motion=Motion(forces=(Drag(rate=2),)),
        lifetime=Attribute.of(0.5, 1.1),
        speed=Attribute.of(0.4, 1.4),
        size=Attribute.of(1.8, 2.6),
        colour=Tint(first=(0.5, 0.9, 1.0), second=(1.0, 0.55, 0.2)),
        intensity=Attribute.of(1.2, 2.2),
        opacity=Attribute.of(1, 1, QUICK),
        look=LightLook(flicker=0.5, pace=9),
    )


def _flash() -> Layer:
    return Layer(
        id="stamp-flash",
        name="flash",
        emission=Emission(bursts=(Burst(count=2),), limit=20),
        source=PointSource(),
        lifetime=Attribute.of(0.16, 0.26),
        speed=Attribute.of(0),
        size=Attribute.of(1.3, 1.9, Curve.through((0, 0.5), (0.2, 1), (1, 0.8))),
        colour=Tint(first=(0.5, 0.95, 1.0), second=(1.0, 0.9, 0.75)),
        intensity=Attribute.of(3, 4),
        opacity=Attribute.of(0.8, 1, QUICK),
        look=SpriteLook(texture="glow.png", blend=Blend.ADDITIVE, soft=0.3),
    )


def _shock() -> Layer:
    return Layer(
        id="stamp-shock",
        name="shock",
        emission=Emission(bursts=(Burst(count=1), Burst(time=0.05, count=1)), limit=12),
        source=PointSource(),
        lifetime=Attribute.of(0.34, 0.42),
        speed=Attribute.of(0),
        size=Attribute.of(2.4, 2.8, Curve.through((0, 0.05), (0.3, 0.62), (1, 1))),
        colour=Tint(first=ICE, second=TEAL),
        intensity=Attribute.of(0.9, 1.2),
        opacity=Attribute.of(0.5, 0.6, Curve.through((0, 1), (0.5, 0.4), (1, 0))),
        look=SpriteLook(texture="ring.png", blend=Blend.ADDITIVE, soft=0.25),
    )


def _sparks() -> Layer:
    return Layer(
        id="stamp-sparks",
        name="sparks",
        emission=Emission(rate=180, length=0.25, bursts=(Burst(count=260), Burst(time=0.06, count=60))),
        source=SphereSource(radius=0.06, aim=Aim(heading=Heading.OUTWARD, spread=18)),
        motion=Motion(
            forces=(Gravity(pull=9.81), Drag(rate=1.3), Curl(strength=9, scale=0.5, change=0.8)),
            ground=GroundCollision(contact=Collision.BOUNCE, bounce=0.42, grip=0.25),
        ),
        lifetime=Attribute.of(0.35, 1.15),
        speed=Attribute.of(1.5, 7.5),
        size=Attribute.of(0.010, 0.026, SHRINK),
        colour=Tint(
            first=(1.0, 0.75, 0.42),
            second=(0.55, 0.95, 1.0),
            life=Gradient.through((0, (1, 1, 1)), (0.35, (1, 0.72, 0.45)), (1, (0.9, 0.22, 0.05))),
        ),
        intensity=Attribute.of(6, 14, Curve.through((0, 1), (0.4, 0.6), (1, 0.15))),
        opacity=Attribute.of(1, 1, FADE),
        turn=Attribute.of(0),
        look=SpriteLook(texture="spark.png", blend=Blend.ADDITIVE, facing=Facing.VELOCITY, stretch=0.035, soft=0.005),
    )


def _embers() -> Layer:
    return Layer(
        id="stamp-embers",
        name="embers",
        emission=Emission(rate=300, length=0.3, bursts=(Burst(count=90),), limit=1500),
        source=SphereSource(radius=0.25),
        motion=Motion(forces=(Gravity(pull=-0.5), Drag(rate=2.6), Curl(strength=5, scale=0.55, change=0.6))),
        lifetime=Attribute.of(0.9, 2.4),
        speed=Attribute.of(0.3, 2.4),
        size=Attribute.of(0.010, 0.022, SHRINK),
        colour=Tint(first=(1.0, 0.5, 0.15), second=(0.35, 0.95, 0.95)),
        intensity=Attribute.of(2.5, 6, Curve.through((0, 1), (0.6, 0.7), (1, 0.1))),
        opacity=Attribute.of(0.8, 1, IN_AND_OUT),
        look=SpriteLook(texture="glow.png", blend=Blend.ADDITIVE, soft=0.01),
    )


def _spray() -> Layer:
    return Layer(
        id="stamp-spray",
        name="spray",
        emission=Emission(bursts=(Burst(count=64), Burst(time=0.07, count=30)), limit=600),
        source=RingSource(radius=0.22, thickness=0.1, aim=Aim(heading=Heading.OUTWARD, spread=16)),
        motion=Motion(
            forces=(
                Gravity(pull=0.9),
                Drag(rate=3.0),
                Curl(strength=3.5, scale=0.6),
                Wind(push=(0, 0, -0.2)),
            ),
            ground=GroundCollision(contact=Collision.SLIDE, grip=0.05),
        ),
        lifetime=Attribute.of(0.7, 1.7),
        speed=Attribute.of(1.2, 4.6),
        size=Attribute.of(0.22, 0.5, Curve.through((0, 0.3), (0.3, 0.85), (1, 1.4))),
        colour=Tint(
            first=(0.36, 0.38, 0.43),
            second=(0.50, 0.48, 0.48),
            life=Gradient.through((0, (2.2, 2.0, 1.6)), (0.12, (1, 1, 1)), (1, (0.7, 0.75, 0.85))),
        ),
        opacity=Attribute.of(0.16, 0.36, QUICK),
        spin=Attribute.of(-60, 60),
        look=SpriteLook(texture="mist.png", sheet=QUAD, soft=0.2),
    )


def _shards() -> Layer:
    return Layer(
        id="stamp-shards",
        name="shards",
        emission=Emission(bursts=(Burst(count=46),), limit=400),
        source=RingSource(radius=0.12, thickness=0.08, aim=Aim(heading=Heading.UP, spread=58)),
        motion=Motion(
            forces=(Gravity(pull=9.81), Drag(rate=0.4)),
            ground=GroundCollision(contact=Collision.BOUNCE, bounce=0.34, grip=0.4),
        ),
        lifetime=Attribute.of(0.9, 1.9),
        speed=Attribute.of(1.4, 4.6),
        size=Attribute.of(0.02, 0.07, Curve.through((0, 1), (0.8, 1), (1, 0))),
        colour=Tint(first=SLATE, second=(0.13, 0.12, 0.15)),
        spin=Attribute.of(-900, 900),
        look=MeshLook(shapes=("shard", "chip")),
    )


def scatter() -> Effect:
    """Return what becomes of her when she falls: petals and sparks, born on the border that eats her away."""
    border = SkinSource(
        dissolving=True, lift=0.006, aim=Aim(heading=Heading.OUTWARD, spread=50), riding=Riding(share=0.0, keep=0.35)
    )
    petals = Layer(
        id="scatter-petals",
        name="petals",
        emission=Emission(rate=420, limit=1500),
        source=border,
        motion=Motion(
            forces=(
                Gravity(pull=0.25),
                Drag(rate=1.5),
                Wind(push=(0.5, 0.35, -0.2)),
                Curl(strength=3.2, scale=0.5, change=0.5),
            ),
            ground=GroundCollision(contact=Collision.SLIDE, grip=0.3),
        ),
        lifetime=Attribute.of(1.4, 2.8),
        speed=Attribute.of(0.15, 0.6),
        size=Attribute.of(0.03, 0.075, Curve.through((0, 0.2), (0.1, 1), (0.8, 1), (1, 0.3))),
        colour=Tint(
            first=(0.95, 0.36, 0.10),
            second=(0.10, 0.60, 0.62),
            life=Gradient.through((0, (2.2, 1.7, 1.2)), (0.15, (1, 1, 1)), (1, (0.6, 0.6, 0.7))),
        ),
        opacity=Attribute.of(0.9, 1, IN_AND_OUT),
        spin=Attribute.of(-260, 260),
        look=SpriteLook(texture="feather.png", sheet=QUAD, blend=Blend.ALPHA, soft=0.01),
    )
    sparks = Layer(
        id="scatter-sparks",
        name="sparks",
        emission=Emission(rate=900, limit=2500),
        source=border,
        motion=Motion(forces=(Gravity(pull=-0.5), Drag(rate=2.2), Curl(strength=4.0, scale=0.3, change=0.8))),
        lifetime=Attribute.of(0.35, 0.9),
        speed=Attribute.of(0.1, 0.5),
        size=Attribute.of(0.006, 0.016, SHRINK),
        colour=Tint(first=(1.0, 0.5, 0.15), second=(1.0, 0.8, 0.4)),
        intensity=Attribute.of(2.5, 5.0),
        opacity=Attribute.of(0.6, 1.0, IN_AND_OUT),
        look=SpriteLook(texture="glow.png", blend=Blend.ADDITIVE, soft=0.01),
    )
    return Effect(id="scatter", name="scatter", length=1.6, layers=(petals, sparks))


def drizzle() -> Effect:
    """Return fine rain around the stage, that ends where it meets the stone, and ripples there."""
    rain = Layer(
        id="drizzle-rain",
        name="rain",
        emission=Emission(rate=1300, limit=2500),
        source=SphereSource(radius=3.2, aim=Aim(heading=Heading.FORWARD, spread=2.0)),
        motion=Motion(forces=(Gravity(pull=2.0),), ground=GroundCollision(contact=Collision.DIE)),
        lifetime=Attribute.of(0.75, 0.95),
        speed=Attribute.of(5.2, 6.6),
        size=Attribute.of(0.005, 0.009),
        colour=Tint(first=(0.5, 0.58, 0.7), second=(0.75, 0.8, 0.85), mode=LifeMode.SCALE),
        intensity=Attribute.of(0.5, 0.9),
        opacity=Attribute.of(0.10, 0.28),
        turn=Attribute.of(0),
        look=SpriteLook(texture="spark.png", blend=Blend.ADDITIVE, facing=Facing.VELOCITY, stretch=0.03, soft=0.01),
    )
    ripples = Layer(
        id="drizzle-ripples",
        name="ripples",
        emission=Emission(rate=70, limit=200),
        source=SphereSource(radius=2.4),
        lifetime=Attribute.of(0.35, 0.6),
        speed=Attribute.of(0),
        size=Attribute.of(0.10, 0.2, Curve.through((0, 0.1), (0.4, 0.7), (1, 1))),
        colour=Tint(first=(0.5, 0.58, 0.7), second=(0.75, 0.8, 0.85)),
        intensity=Attribute.of(0.5, 0.8),
        opacity=Attribute.of(0.25, 0.45, FADE),
        look=DecalLook(texture="ring.png", blend=Blend.ADDITIVE),
    )
    # Twice as much at the dial's highest, and at 1 what the layers say themselves.
    dial = Dial(id="rain", name="rain", low=0.0, high=2.0, value=1.0)
    bound = tuple(
        Binding(dial="rain", layer=layer.id, path="emission.rate", high=2 * layer.emission.rate)
        for layer in (ripples, rain)
    )
    layers = ripples, rain
    return Effect(id="drizzle", name="drizzle", length=None, layers=layers, dials=(dial,), bindings=bound)
