"""A small burst to try an anchor with: bright sparks that show where it is and which way it looks."""

from __future__ import annotations

from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.life import Attribute, Curve, Tint
from wraithon.project.look import Blend, Facing, SpriteLook
from wraithon.project.motion import Drag, Gravity, Motion
from wraithon.project.source import Aim, Heading, PointSource

_FADE = Curve.through((0, 1), (0.6, 0.8), (1, 0))

TEST_BURST = Effect(
    id="(test burst)",
    name="test burst",
    length=0.1,
    layers=(
        Layer(
            id="(test burst sparks)",
            name="sparks",
            emission=Emission(bursts=(Burst(count=60),), limit=600),
            source=PointSource(aim=Aim(heading=Heading.FORWARD, spread=35)),
            motion=Motion(forces=(Gravity(pull=3.0), Drag(rate=2.0))),
            lifetime=Attribute.of(0.3, 0.7),
            speed=Attribute.of(0.8, 2.2),
            size=Attribute.of(0.01, 0.025),
            colour=Tint(first=(1.0, 0.62, 0.25), second=(1.0, 0.85, 0.55)),
            intensity=Attribute.of(3.0, 6.0),
            opacity=Attribute.of(1.0, 1.0, _FADE),
            look=SpriteLook(texture="spark.png", blend=Blend.ADDITIVE, facing=Facing.VELOCITY, stretch=0.03),
        ),
    ),
)
"""It can be fired in any project, and is no part of it."""
