"""The filters of a source on the character: which of it gives birth, one entry a filter."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QMenu, QWidget

from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, column_of
from wraithon.desktop.widgets.form import Choice, NameList, Number, Row, Tick
from wraithon.desktop.widgets.list_form import Entry, ListForm
from wraithon.desktop.widgets.offers import textures_or
from wraithon.project.source import FacingMask, FacingSide, HeightMask, JointSet, Mode, SkinSource, TextureMask

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session
    from wraithon.project.effect import Layer


SIDES = tuple((side.value, side) for side in FacingSide)


def _off(name: str) -> Tick:
    return Tick(f"{name}.disabled", text="disabled", stretch=0)


def _masks(session: Session) -> list[tuple[str, object]]:
    use = session.project.character
    return [(mask.name, mask.id) for mask in (use.masks if use else ())]


def _first_joint(session: Session) -> JointSet:
    return JointSet(names=session.character.skeleton.joint_names[:1]) if session.character else JointSet()


def _first_mask(session: Session) -> object:
    masks = _masks(session)
    return masks[0][1] if masks else None


@dataclass(frozen=True)
class _Kind:
    """A filter that can be added."""

    field: str
    """Its field of the source."""
    name: str
    title: str
    start: Callable[[Session], object]
    """What it starts with; None when it cannot yet."""
    empty: object
    """What stands for no such filter."""
    rows: tuple[Row, ...]
    on_bones: bool = False


KINDS = (
    _Kind(
        "joints", "what joints hold", "only what these joints hold", _first_joint, JointSet(),
        (
            Row("joints", NameList("joints.names")),
            Row("falloff", Number("joints.falloff"), _off("joints")),
        ),
        on_bones=True,
    ),
    _Kind(
        "height", "between two heights", "only between two heights of the rest pose",
        lambda _session: HeightMask(low=0.5, high=1.0), None,
        (
            Row(
                "height",
                Number("height.low"),
                Number("height.high"),
                Number("height.soft"),
            ),
            Row("", _off("height"), undo="Filter on or off"),
        ),
    ),
    _Kind(
        "facing", "facing a side", "only what faces a side in the rest pose", lambda _session: FacingMask(), None,
        (
            Row(
                "facing",
                Choice("facing.side", choices=SIDES),
                Number("facing.within"),
                Number("facing.soft"),
            ),
            Row("", _off("facing"), undo="Filter on or off"),
        ),
    ),
    _Kind(
        "texture", "where a picture is bright", "only where a picture is bright",
        lambda _session: TextureMask(), None,
        (
            Row(
                "picture",
                Choice("texture.texture", choices=textures_or("choose one")),
                Tick("texture.invert", text="dark instead", stretch=0),
                undo="Mask picture",
            ),
            Row("", _off("texture"), undo="Filter on or off"),
        ),
    ),
    _Kind(
        "painted", "where a mask is painted", "only where a mask is painted (Character station)", _first_mask, None,
        (Row("mask", Choice("painted", choices=_masks), undo="Painted mask"),),
    ),
    _Kind(
        "dissolving", "on the border of the dissolve", "only on the border of the dissolve, while it moves",
        lambda _session: True, False, (),
    ),
)  # fmt: skip


class Filters(QWidget):
    """Edits the filters of a layer's source.

    Signals
    -------
    masks_wanted
        The user asked for a painted mask, and there is none yet.
    """

    masks_wanted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._layer: Layer | None = None
        column = column_of(self)
        self.list = ListForm(session, "layer", self._entries, self._without)
        column.addWidget(self.list)
        self.add = Button(icon("plus"), "Only where ...")
        self.add.setToolTip("Add a filter: particles are born where all filters allow")
        self._menu = QMenu(self)
        self._menu.aboutToShow.connect(self._fill_menu)
        self.add.setMenu(self._menu)
        foot = QHBoxLayout()
        foot.addWidget(self.add)
        foot.addStretch(1)
        column.addLayout(foot)

    def show_layer(self, layer: Layer) -> None:
        """Show the filters of a layer on the character; nothing is edited."""
        self._layer = layer
        self.list.show_model(layer, layer.id)

    @staticmethod
    def _on(layer: Layer) -> list[_Kind]:
        """Return the filters that are on and count."""
        source = layer.source
        assert isinstance(source, SkinSource)  # only those are shown
        bones = source.mode is Mode.BONES
        on = [kind for kind in KINDS if not bones or kind.on_bones]
        return [kind for kind in on if _is_on(kind, source)]

    def _entries(self, layer: Layer) -> list[Entry]:
        return [
            Entry(kind.field, "source", layer.source, kind.rows, kind.title, f"filter: {kind.name}")
            for kind in self._on(layer)
        ]

    def _without(self, layer: Layer, number: int) -> tuple[str, Any, str]:
        kind = self._on(layer)[number]
        return f"source.{kind.field}", kind.empty, "Remove filter"

    def _fill_menu(self) -> None:
        self._menu.clear()
        if self._layer is None:
            return
        on, source = self._on(self._layer), self._layer.source
        bones = isinstance(source, SkinSource) and source.mode is Mode.BONES
        for kind in KINDS:
            if kind not in on and (not bones or kind.on_bones):
                self._menu.addAction(kind.name, lambda field=kind.field: self.add_filter(field))
        if self._menu.isEmpty():
            self._menu.addAction("all filters are on already").setEnabled(False)

    def add_filter(self, field: str) -> None:
        """Add a filter by its field of the source."""
        kind = next(k for k in KINDS if k.field == field)
        start = kind.start(self._session)
        if start is None:
            self.masks_wanted.emit()
        elif self._layer is not None:
            self._session.set_value("layer", self._layer.id, f"source.{field}", start, f"Only {kind.name}")


def _is_on(kind: _Kind, source: SkinSource) -> bool:
    """Return whether a filter of a source lets through less than everything."""
    value = getattr(source, kind.field)
    return bool(value.names) if isinstance(value, JointSet) else value not in (None, False)
