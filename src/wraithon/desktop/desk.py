"""What stations may ask of the window they stand in."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    from pathlib import Path

    from wraithon.desktop.auditioning import Auditioning
    from wraithon.desktop.engine.engine import Engine
    from wraithon.desktop.picture.picture_view import PictureView
    from wraithon.desktop.session.keeping import Keeper
    from wraithon.desktop.session.session import Session
    from wraithon.desktop.timeline.timeline import Timeline
    from wraithon.desktop.widgets.panels import Index
    from wraithon.stage.performance import Performance


class Desk(Protocol):
    """The window, as stations know it."""

    session: Session
    keeper: Keeper
    timeline: Timeline
    picture: PictureView
    auditioning: Auditioning
    engine: Engine

    @property
    def performance(self) -> Performance | None:
        """What the character on stage plays; None without one."""

    @property
    def picked(self) -> tuple[str, str]:
        """Kind and name of what is picked on the character."""

    def selected_at(self, station: str) -> tuple[str, str]:
        """Kind and id of what is selected in a station, or was when another was shown."""

    def index(self, key: str) -> Index:
        """Return a station's index."""

    def duplicate(self) -> None:
        """Duplicate what is selected."""

    def delete(self) -> None:
        """Delete what is selected."""

    def toggle_panels(self) -> None:
        """Show only the picture, or everything again."""

    def frame(self) -> None:
        """Look at what is selected, or at the whole character."""

    def fold_index(self) -> None:
        """Fold the list to its head, or show it again."""

    def fold_timeline(self) -> None:
        """Fold the timeline to the line above it, or show it again."""

    def next_area(self) -> None:
        """Move the focus to the next of index, picture, sheet and timeline."""

    def keep_view(self) -> None:
        """Keep where the camera stands, and its lens, under a name."""

    def see_view(self, number: int) -> None:
        """Look as a kept view does, by its number in the list."""

    def keep_picture(self) -> None:
        """Keep the picture with its settings, to compare later ones with."""

    def compare(self) -> None:
        """Wipe between the snapshot and now."""

    def find_anything(self) -> None:
        """Find a field of the sheet, a thing of the project, or a command, by typing."""

    def run_command(self) -> None:
        """Find a command by typing, and run it."""

    def export(self) -> None:
        """Save a picture of this moment, or a sequence."""

    def list_edits(self) -> None:
        """Show all edits; a click goes to one."""

    def help(self) -> None:
        """Show the guide at what has the focus."""

    def prefer(self) -> None:
        """Show the preferences."""

    def about(self) -> None:
        """Show what this program is."""

    def close(self) -> bool:
        """Close the window."""

    def station(self, key: str, _on: bool = False) -> None:
        """Show a station."""

    def enter(self, key: str) -> None:
        """Show a station, with the focus on its list."""

    def open_recent(self, folder: Path) -> None:
        """Open a project that was open lately."""

    def go_to(self, about: str) -> None:
        """Select the thing with this id, in the station where it is at home."""

    def set_tempo(self, tempo: float) -> None:
        """Play at a share of the show's own speed."""

    def slower(self) -> None:
        """Play at half the speed of now."""

    def faster(self) -> None:
        """Play at twice the speed of now, up to the show's own."""

    def toggle_play(self) -> None:
        """Play or pause."""

    def play_on(self) -> None:
        """Play, where it rests."""

    def restart(self) -> None:
        """Begin again, and forget all that was done by hand."""

    def rewind(self) -> None:
        """Rewind to the beginning."""

    def step_back(self) -> None:
        """Pause, and go a step back."""

    def step_on(self) -> None:
        """Pause, and go a step on."""

    def measure_cost(self) -> None:
        """Measure what the show costs, from its start to the end of its running order."""

    def fire(self, effect_id: str, anchor: str | None = None) -> None:
        """Start an effect now, at an anchor or where its first trigger would, and play."""

    def respond(self, trigger_id: str, strength: float = 1.0, ground: str = "") -> None:
        """Fire a trigger now, with a share of all strength and as on a kind of ground, and play."""

    def refresh_tools(self) -> None:
        """Ask the sheet that is shown anew what colours the skin."""
