"""What the artist adds to a character file: anchors, events, and how its clips are played."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, field_validator

from wraithon.project.base import Finite, Id, Model, Name, Positive, Unsigned, Vec3, new_id
from wraithon.project.dissolve import Dissolve
from wraithon.project.quantities import CENTIMETRES, DEGREES, METRES, SECONDS, TIMES, Label, Quantity
from wraithon.project.staging.driving import Driving


class Anchor(Model):
    """A named place on a joint: `offset` in metres and `turn` in degrees (about X, then Y, then Z).

    Both are along the joint's own axes; for an anchor on the ground under the joint, along the world's.
    """

    id: Id = Field(default_factory=new_id)
    name: Annotated[Name, Label("Name of the anchor")] = "anchor"
    joint: Annotated[str, Label("Joint it is on")] = ""
    offset: Annotated[Vec3, Quantity("Offset from the joint", CENTIMETRES, decimals=2)] = (0.0, 0.0, 0.0)
    turn: Annotated[Vec3, Quantity("Rotation about the joint's axes", DEGREES)] = (0.0, 0.0, 0.0)
    on_ground: Annotated[bool, Label("Stays on the ground below its joint")] = False


class Event(Model):
    """A named kind of moment, belonging to an anchor; clips carry marks of it."""

    id: Id = Field(default_factory=new_id)
    name: Annotated[Name, Label("Name of the event")] = "event"
    anchor: Annotated[Id | None, Label("Anchor the event belongs to")] = None


class Mark(Model):
    """An event's place on a clip, in seconds from the clip's start."""

    id: Id = Field(default_factory=new_id)
    event: Annotated[Id, Label("The event that comes then")]
    time: Annotated[Unsigned, Quantity("When it comes, in the clip's own time", SECONDS, step=1 / 60)]


class ClipUse(Model):
    """How a clip is played, and the marks on it.

    `in_place` names the axes along which the root's travel is taken out; `height` raises the character by so many
    metres meanwhile. One that was made in place `goes` at so many metres a second along x and z, before the
    character's scale, so that feet that stand do. A `hidden` clip is not offered. `file_name` is what the file
    calls the clip, where that is not its name.
    """

    name: str
    file_name: str = ""
    hidden: Annotated[bool, Label("Hides the clip from lists")] = False
    height: Annotated[Finite, Quantity("Raised while this clip plays", METRES, step=0.01)] = 0.0
    loop: Annotated[bool, Label("Starts again at its end")] = True
    goes: tuple[Finite, Finite] = (0.0, 0.0)
    in_place: Annotated[tuple[Literal["x", "y", "z"], ...], Label("Removes the clip's travel along this axis")] = ()
    marks: Annotated[tuple[Mark, ...], Field(max_length=4096)] = ()

    @field_validator("in_place", mode="before")
    @classmethod
    def _axes(cls, value: Any) -> Any:
        """Take the plain yes or no of older projects: over the ground, or not at all."""
        return (("x", "z") if value else ()) if isinstance(value, bool) else value


class CaptureUse(Model):
    """A motion file, or the clip of that name in another glTF file, put on the character as a clip called `name`.

    `unit` is how many metres one of the file's units stands for; `matches` pairs the file's joints with the
    character's, of which `by_hand` names those of the file that were not left to their names.
    """

    id: Id = Field(default_factory=new_id)
    file: str
    clip: str = ""
    name: Name = "motion"
    unit: Annotated[Positive, Quantity("What one unit of it stands for", METRES, step=0.001, decimals=5)] = 1.0
    matches: Annotated[tuple[tuple[str, str], ...], Field(max_length=4096)] = ()
    by_hand: Annotated[tuple[str, ...], Field(max_length=4096)] = ()


class PaintedMask(Model):
    """Strengths brushed onto the skin, one a vertex of the file's mesh.

    `values` is base64 of deflated bytes, 0 for none and 255 for full; its empty text is all none.
    """

    id: Id = Field(default_factory=new_id)
    name: Annotated[Name, Label("Name of the mask")] = "mask"
    vertices: Annotated[int, Field(ge=0, le=20_000_000)] = 0
    values: str = ""


class CharacterUse(Model):
    """A character file in the project, with all that was added to it."""

    id: Id = Field(default_factory=new_id)
    name: Annotated[Name, Label("Name of the character")] = "character"
    file: str
    scale: Annotated[Positive, Quantity("Scale", TIMES, step=0.01)] = 1.0
    height: Annotated[Finite, Quantity("Raised above the ground by", METRES, step=0.01)] = 0.0
    hidden_parts: tuple[str, ...] = ()
    clips: tuple[ClipUse, ...] = ()
    anchors: Annotated[tuple[Anchor, ...], Field(max_length=1024)] = ()
    events: Annotated[tuple[Event, ...], Field(max_length=1024)] = ()
    dissolve: Dissolve = Dissolve()
    driving: Driving = Driving()
    captures: Annotated[tuple[CaptureUse, ...], Field(max_length=256, alias="motions")] = ()
    masks: Annotated[tuple[PaintedMask, ...], Field(max_length=64)] = ()

    def clip(self, name: str) -> ClipUse:
        """Return how the clip called `name` is played; a clip nothing was said of gets the defaults."""
        return next((clip for clip in self.clips if clip.name == name), ClipUse(name=name))
