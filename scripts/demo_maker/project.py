"""The demo project: Halcyon on the wet roof, her events, and what they fire."""

from __future__ import annotations

from wraithon.project.binding import Masters
from wraithon.project.character import Anchor, CharacterUse, ClipUse, Event, Mark
from wraithon.project.dissolve import Dissolve
from wraithon.project.life import Curve
from wraithon.project.project import ClipRun, Project, Stage, View
from wraithon.project.staging.actions import (
    ColourShift,
    Hide,
    OnGroundKind,
    RampSignal,
    Scaling,
    Shake,
    StartEffect,
    WaitFor,
)
from wraithon.project.staging.trigger_kinds import AtStart, OnEvent, OnHit, OnSignal, OnState
from wraithon.project.trigger import Only, Strength, Trigger

from .dance import marks
from .effects import drizzle, plume_drift, scatter, thunder_stamp, tread
from .figure import FAN_AXIS
from .sculpt import FAN_RADIUS
from .trails import echo_steps, fan_streamers, rain_veil, skipping_spark, squall_ring
from .treads import flecks, roof, splash

CHARACTER_FILE = "characters/halcyon.glb"
MORE_MARKS = {"fall": {"gives way": 0.4}, "strike": {"gathers": 0.02}}
"""Moments of clips besides those that their maker tells, in seconds."""
ONCE = ("leap", "strike", "fall")


def demo_project() -> Project:
    """Return the demo project; its ids are words, so that its file reads well."""
    return Project(
        name="Halcyon",
        seed=20_26,
        exposure=1.1,
        characters=(_halcyon(),),
        effects=(
            plume_drift(),
            fan_streamers(),
            tread(),
            echo_steps(),
            rain_veil(),
            thunder_stamp(),
            skipping_spark(),
            squall_ring(),
            scatter(),
            drizzle(),
            flecks(),
            splash(),
        ),
        triggers=_triggers(),
        stage=Stage(
            order=(
                ClipRun(clip="walk", times=2),
                ClipRun(clip="strike"),
                ClipRun(clip="run", times=2),
                ClipRun(clip="leap"),
                ClipRun(clip="idle"),
            ),
            fade=0.2,
            rest=0.3,
            ground="slate",
            pieces=roof(),
        ),
        view=View(target=(0.0, 0.86, 0.1), azimuth=34.0, elevation=9.0, distance=4.1, fov=36.0),
    )


def _halcyon() -> CharacterUse:
    along = FAN_AXIS * FAN_RADIUS
    left_tip = (round(float(along[0]), 4), round(float(along[1]), 4), 0.0)
    anchors = (
        Anchor(id="left-ball", name="left ball", joint="left ball", offset=(0.0, -0.02, 0.03)),
        Anchor(id="right-ball", name="right ball", joint="right ball", offset=(0.0, -0.02, 0.03)),
        Anchor(
            id="right-fan-tip",
            name="right fan tip",
            joint="right fan",
            offset=(-left_tip[0], left_tip[1], 0.0),
        ),
        Anchor(id="left-fan-tip", name="left fan tip", joint="left fan", offset=left_tip),
        Anchor(id="overhead", name="overhead", joint="root", offset=(0.0, 3.4, 0.4), turn=(90.0, 0.0, 0.0)),
        Anchor(id="where-she-is", name="where she is", joint="hips", on_ground=True),
        Anchor(id="heart", name="heart", joint="chest", offset=(0.0, 0.03, 0.08)),
    )
    events = (
        Event(id="left-step", name="left step", anchor="left-ball"),
        Event(id="right-step", name="right step", anchor="right-ball"),
        Event(id="strike", name="strike", anchor="right-fan-tip"),
        Event(id="landing", name="landing", anchor="left-ball"),
        Event(id="left-stride", name="left stride", anchor="where-she-is"),
        Event(id="right-stride", name="right stride", anchor="where-she-is"),
        Event(id="gathers", name="gathers", anchor="where-she-is"),
        Event(id="gives-way", name="gives way", anchor="where-she-is"),
    )
    clips = tuple(
        ClipUse(name=name, loop=name not in ONCE, marks=_marks(name))
        for name in ("idle", "walk", "run", "leap", "strike", "fall")
    )
    return CharacterUse(
        id="halcyon",
        name="Halcyon",
        file=CHARACTER_FILE,
        clips=clips,
        anchors=anchors,
        events=events,
        dissolve=Dissolve(amount=1.0, clip="fall", begin=0.4, end=1.9, scale=0.14, colour=(1.0, 0.5, 0.14)),
    )


def _marks(clip: str) -> tuple[Mark, ...]:
    table = marks().get(clip, {}) | MORE_MARKS.get(clip, {})
    if clip == "run":
        table |= {name.replace("step", "stride"): time for name, time in table.items()}
    return tuple(
        Mark(id=f"{clip}-{name}".replace(" ", "-"), event=name.replace(" ", "-"), time=time)
        for name, time in sorted(table.items(), key=lambda item: item[1])
    )


def _triggers() -> tuple[Trigger, ...]:
    def on(event: str, effect: str, name: str, anchor: str | None = None, *others: str) -> Trigger:
        steps = tuple(_step(each, anchor) for each in (effect, *others))
        return Trigger(id=f"on-{event}", name=name, when=OnEvent(event=event), response=steps)

    return (
        Trigger(
            id="always",
            name="from the start",
            when=AtStart(),
            response=(
                StartEffect(effect="plume-drift"),
                StartEffect(effect="drizzle", anchor="overhead"),
                StartEffect(effect="fan-streamers", anchor="left-fan-tip"),
                StartEffect(effect="fan-streamers", anchor="right-fan-tip"),
            ),
        ),
        on("left-step", "tread", "left tread"),
        on("right-step", "tread", "right tread"),
        on("left-stride", "echo-steps", "left echo"),
        on("right-stride", "echo-steps", "right echo"),
        Trigger(
            id="on-gathers", name="veil", when=OnEvent(event="gathers"), response=(StartEffect(effect="rain-veil"),)
        ),
        on("strike", "thunder-stamp", "stamp", "right-fan-tip", "skipping-spark"),
        on("landing", "tread", "landing", None, "squall-ring"),
        on("gives-way", "scatter", "scatter"),
        Trigger(id="gone", name="gone", when=OnState(state="fallen"), response=(WaitFor(), Hide(after=0.3))),
        Trigger(
            id="hard-landing",
            name="hard landing",
            when=OnState(state="landing"),
            only=Only(signal="falling speed", least=2.5, most=100.0),
            strength=Strength(low=2.5, high=6.5),
            response=(
                StartEffect(
                    effect="squall-ring",
                    follow=False,
                    scalings=(
                        Scaling(what="size", curve=Curve.through((0, 0.7), (1, 1.7))),
                        Scaling(what="amount", curve=Curve.through((0, 0.6), (1, 1.5))),
                    ),
                ),
                Shake(degrees=0.9, seconds=0.35),
            ),
        ),
        Trigger(
            id="struck",
            name="struck",
            when=OnHit(),
            response=(
                StartEffect(effect="scatter", masters=Masters(amount=0.2, tempo=1.6)),
                Shake(degrees=0.5, seconds=0.25),
                ColourShift(colour=(1.35, 0.95, 0.85), seconds=0.25),
            ),
        ),
        Trigger(
            id="weakens",
            name="weakens",
            when=OnSignal(signal="health", value=0.55, falls=True),
            response=(RampSignal(signal="drizzle/rain", to=2.0, seconds=1.5),),
        ),
    )


def _step(effect: str, anchor: str | None) -> StartEffect:
    """Return a step that starts an effect where it happens; of a tread, another one on moss and in puddles."""
    grounds = (OnGroundKind(ground="moss", effect="flecks"), OnGroundKind(ground="puddle", effect="splash"))
    return StartEffect(effect=effect, anchor=anchor, follow=False, grounds=grounds if effect == "tread" else ())
