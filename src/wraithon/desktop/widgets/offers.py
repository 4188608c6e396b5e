"""What choices offer of the project: anchors, events, effects, textures."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from wraithon.project.ending import AtEnd
from wraithon.project.staging.signals import known_signals

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session


Offer = list[tuple[str, object]]
ENDINGS = (
    ("live out", AtEnd.LIVE_OUT), ("release and live out", AtEnd.RELEASE), ("fade out", AtEnd.FADE),
    ("kill", AtEnd.KILL),
)  # fmt: skip
"""What may become of living particles when their firing ends."""


def grounds(session: Session) -> Offer:
    """Return all kinds of ground there are."""
    return [(text, kind) for kind, text in session.project.stage.ground_kinds.items()]


def anchors_or(nothing: str) -> Callable[[Session], Offer]:
    """Return what offers no anchor, in these words, and all anchors by name."""

    def offer(session: Session) -> Offer:
        use = session.project.character
        return [(nothing, None), *((a.name, a.id) for a in (use.anchors if use else ()))]

    return offer


def events_or(nothing: str) -> Callable[[Session], Offer]:
    """Return what offers no event, in these words, and all events by name."""

    def offer(session: Session) -> Offer:
        use = session.project.character
        return [(nothing, None), *((e.name, e.id) for e in (use.events if use else ()))]

    return offer


def effects_or(nothing: str) -> Callable[[Session], Offer]:
    """Return what offers no effect, in these words, and all effects by name."""
    return lambda session: [(nothing, None), *((e.name, e.id) for e in session.project.effects)]


def textures_or(nothing: str) -> Callable[[Session], Offer]:
    """Return what offers no texture, in these words, and all there are."""
    return lambda session: [(nothing, ""), *((name, name) for name in session.library.names())]


def clips_while(always: str) -> Callable[[Session], Offer]:
    """Return what offers always, in these words, and while each clip of the character plays that is not hidden."""

    def offer(session: Session) -> Offer:
        use = session.project.character
        clips = session.character.clips if session.character and use else ()
        shown = [clip.name for clip in clips if use and not use.clip(clip.name).hidden]
        return [(always, ""), *((f"while {name} plays", name) for name in shown)]

    return offer


def joints(session: Session) -> Offer:
    """Return all joints of the character on stage."""
    return [(name, name) for name in (session.character.skeleton.joint_names if session.character else ())]


def parts(session: Session) -> Offer:
    """Return all parts of the character on stage."""
    return [(part.name, part.name) for part in (session.character.parts if session.character else ())]


def materials(session: Session) -> Offer:
    """Return the materials that parts of the character on stage have."""
    character = session.character
    used = {part.material for part in character.parts} if character else set()
    names = [m.name for k, m in enumerate(character.materials) if k in used] if character else []
    return [(name, name) for name in dict.fromkeys(names)]


def parts_or(nothing: str) -> Callable[[Session], Offer]:
    """Return what offers no part in particular, in these words, and all parts of the character."""
    return lambda session: [(nothing, ""), *parts(session)]


def signals_or(nothing: str = "") -> Callable[[Session], Offer]:
    """Return what offers all signals by name, and none in these words."""

    def offer(session: Session) -> Offer:
        known: Offer = [(kind.text, key) for key, kind in known_signals(session.project).items()]
        return [(nothing, ""), *known] if nothing else known

    return offer


def given_signals(session: Session) -> Offer:
    """Return the signals that may be given a value."""
    return [(kind.text, key) for key, kind in known_signals(session.project).items() if kind.given]


def siblings(session: Session) -> Offer:
    """Return no layer, and all others of the selected layer's effect."""
    kind, what = session.selection
    found = session.project.layer(what) if kind == "layer" else None
    others = [(each.name, each.id) for each in found[0].layers if each.id != what] if found else []
    return [("no layer yet", None), *others]


def pieces(session: Session) -> Offer:
    """Return all shapes of pieces there are."""
    return [(name, name) for name in session.library.pieces.names()]


def sounds_or(nothing: str) -> Callable[[Session], Offer]:
    """Return what offers all sounds there are, and none in these words."""
    return lambda session: [(nothing, ""), *((name, name) for name in session.library.sounds.names())]


def clip_names(session: Session) -> Offer:
    """Return what offers each clip of the character that is not hidden."""
    use = session.project.character
    clips = session.character.clips if session.character and use else ()
    return [(clip.name, clip.name) for clip in clips if use and not use.clip(clip.name).hidden]
