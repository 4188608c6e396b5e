"""Pictures, small meshes and sounds brought in for what is selected: a layer's texture, a trigger's sound."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog

from wraithon.project.edit import textures_of
from wraithon.project.look import MeshLook, SpriteLook
from wraithon.project.staging.actions import PlaySound

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from wraithon.desktop.session.reading import Reading
    from wraithon.desktop.session.session import Session
    from wraithon.project.effect import Layer


TEXTURED = dict.fromkeys(("sprite", "ribbon", "mark"), "look.texture") | {"shell": "look.first.texture"}
"""Look to where its texture is in a layer."""


def _given(session: Session, layer: Layer, position: str, name: str) -> bool:
    """Give a texture to a layer, cut as it seems to be; return whether anything changed."""
    look = layer.look
    if not isinstance(look, SpriteLook) or position != "look.texture":
        return session.set_value("layer", layer.id, position, name, f"Texture {name}")
    columns, rows = session.library.frames(name)
    sheet = look.sheet.evolve(columns=columns, rows=rows)
    return session.set_value("layer", layer.id, "look", look.evolve(texture=name, sheet=sheet), f"Texture {name}")


class Pictures:
    """Gives pictures to layers.

    Parameters
    ----------
    window
        What dialogs belong to.
    session
        Whose layers they are given to.
    reading
        What reads them.
    """

    def __init__(self, window: QWidget, session: Session, reading: Reading) -> None:
        self._window, self._session, self._reading = window, session, reading

    def choose(self) -> None:
        """Ask for a picture file, and give it to the selected layer."""
        name, _ = QFileDialog.getOpenFileName(
            self._window, "Import a texture", "", "Pictures (*.png *.jpg *.jpeg *.webp)"
        )
        if name:
            self.give(Path(name))

    def give(self, path: Path) -> None:
        """Keep a picture among the user's textures, and draw the selected layer with it.

        One that layers name, and that was lost, is drawn by them again.
        """
        session = self._session
        kind, layer = session.selection
        found = session.project.layer(layer) if kind == "layer" else None
        position = TEXTURED.get(found[1].look.kind, "") if found else ""
        lost = textures_of(session.project) - set(session.library.names())

        def apply(name: str) -> None:
            if name in lost:
                session.look_again()
                session.said.emit(f"{name} was missing; what names it is drawn with it again", "fine")
            elif found is not None and not position:
                text = f"{name} is among the textures now; {found[1].look.kind}s have none: pick another look for it"
                session.said.emit(text, "warning")
            elif found is None:
                text = f"{name} is among the textures now; select a layer, and drop it again or pick it in its look"
                session.said.emit(text, "warning")
            elif _given(session, found[1], position, name):
                session.said.emit(f"{name} is the layer's texture; saving puts it into the project", "fine")

        self._reading.read(path, lambda _report: session.library.keep(path), apply)

    def choose_piece(self) -> None:
        """Ask for a file with a small mesh, and give it to the selected layer."""
        name, _ = QFileDialog.getOpenFileName(self._window, "Import a mesh", "", "Meshes (*.glb)")
        if name:
            self.give_piece(Path(name))

    def give_piece(self, path: Path) -> None:
        """Keep a small mesh among the user's pieces, and have the selected layer show it among its own."""
        session = self._session
        kind, layer = session.selection
        found = session.project.layer(layer) if kind == "layer" else None

        def apply(name: str) -> None:
            look = found[1].look if found else None
            if not isinstance(look, MeshLook):
                text = f"{name} is among the meshes now; select a layer that shows meshes, and tick it in its look"
                session.said.emit(text, "warning")
                return
            shapes = tuple(dict.fromkeys((*look.shapes, name)))
            if session.set_value("layer", layer, "look.shapes", shapes, f"Piece {name}"):
                session.said.emit(f"{name} is one of the layer's meshes; saving puts it into the project", "fine")

        self._reading.read(path, lambda _report: session.library.pieces.keep(path), apply)

    def give_sound(self, path: Path) -> None:
        """Keep a sound among the user's, and have the selected trigger play it."""
        session = self._session
        kind, what = session.selection
        trigger = session.project.trigger(what) if kind == "trigger" else None

        def apply(name: str) -> None:
            if trigger is None:
                text = f"{name} is among the sounds now; a trigger plays it with the action “Play a sound”"
                session.said.emit(text, "warning")
                return
            made, steps = PlaySound(sound=name), trigger.response
            empty = next((k for k, step in enumerate(steps) if step == PlaySound()), len(steps))
            steps = (*steps[:empty], made, *steps[empty + 1 :])
            if session.set_value("trigger", what, "response", steps, f"Sound {name}"):
                session.said.emit(f"{trigger.name} plays {name}; saving puts it into the project", "fine")

        self._reading.read(path, lambda _report: session.library.sounds.keep(path), apply)
