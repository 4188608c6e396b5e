"""Comparing: what the window's commands ask of kept pictures."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wraithon.desktop.picture.comparing import Way
from wraithon.project.edit import fresh_name
from wraithon.project.project import StoredView

if TYPE_CHECKING:
    from wraithon.desktop.picture.picture_view import PictureView
    from wraithon.desktop.session.session import Session
    from wraithon.desktop.transport import Transport


FIRST_KEY, LAST_KEY = 5, 9
"""Keys, with Alt, that the first kept views are under; those before are for the sides."""


class Compares:
    """A window that keeps pictures and compares with them."""

    session: Session
    picture: PictureView
    transport: Transport

    def set_playing(self, playing: bool) -> None:
        """Play, or pause."""
        raise NotImplementedError

    def seek(self, time: float) -> None:
        """Seek to a moment of the show, in seconds."""
        raise NotImplementedError

    def keep_picture(self) -> None:
        """Keep the picture with its settings, to compare later ones with."""
        image, rendered = self.picture.image, self.picture.rendered
        if image is not None and rendered is not None:
            self.picture.comparing.keep(image, self.session.project, self.picture.view, rendered.time)
            snapshot = self.picture.comparing.snapshots[-1]
            self.session.said.emit(f'Stored as "{snapshot.name}"; Shift + K wipes between it and now', "fine")

    def keep_view(self) -> None:
        """Store where the camera stands, with its lens, under a name."""
        names = (view.name for view in self.session.project.views)
        stored = StoredView(name=fresh_name("view", names), view=self.picture.view)
        if self.session.edit("Store this view", lambda p: p.evolve(views=(*p.views, stored)), final=True):
            number = FIRST_KEY + len(self.session.project.views) - 1
            keys = f"Alt + {number} looks from there again" if number <= LAST_KEY else "the list of views leads there"
            self.session.said.emit(f'Stored as "{stored.name}": {keys}', "fine")

    def see_view(self, number: int) -> None:
        """Look as a stored view does, by its number in the list."""
        views = self.session.project.views
        if number < len(views):
            self.picture.set_view(views[number].view)
        else:
            self.session.said.emit("No such view is stored yet: Alt + K stores one", "warning")

    def compare(self) -> None:
        """Wipe between the snapshot and now."""
        comparing = self.picture.comparing
        if comparing.chosen is None:
            self.session.said.emit("Store a snapshot first (K), then compare", "warning")
        else:
            comparing.compare(Way.NONE if comparing.way is Way.WIPE else Way.WIPE)

    def show_snapshot(self, number: int) -> None:
        """See the moment of a kept picture from where it was seen, under the settings of now."""
        snapshot = self.picture.comparing.snapshots[number]
        self.set_playing(False)
        self.seek(snapshot.moment)
        self.picture.set_view(snapshot.view)
