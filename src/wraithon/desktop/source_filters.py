"""The filters of a source on the character: which of it gives birth, one row a filter."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QMenu, QVBoxLayout, QWidget

from wraithon.character.model import Character
from wraithon.desktop.fields import Button, Check, ChoiceField, NumberField, TextField, labelled, soft, tool
from wraithon.desktop.theme import icon
from wraithon.project.character import CharacterUse
from wraithon.project.source import FacingMask, HeightMask, JointSet, Side, SkinSource, TextureMask

__all__ = ["Filters"]

SIDES = tuple((side.value, side) for side in Side)


@dataclass(frozen=True)
class _Kind:
    """A filter that can be added: its field of the source, its name, and what it starts with."""

    field: str
    name: str
    start: Callable[[Character | None, CharacterUse | None], object]


def _first_mask(_character: Character | None, use: CharacterUse | None) -> object:
    return use.masks[0].id if use and use.masks else None


def _first_joint(character: Character | None, _use: CharacterUse | None) -> object:
    return JointSet(names=(character.skeleton.joint_names[0],)) if character else JointSet()


KINDS = (
    _Kind("joints", "what joints hold", _first_joint),
    _Kind("height", "between two heights", lambda _c, _u: HeightMask(low=0.5, high=1.0)),
    _Kind("facing", "facing a side", lambda _c, _u: FacingMask()),
    _Kind("texture", "where a picture is bright", lambda _c, _u: TextureMask()),
    _Kind("painted", "where a mask is painted", _first_mask),
    _Kind("dissolving", "on the border of the dissolve", lambda _c, _u: True),
)


class Filters(QWidget):
    """Edits the filters of a source.

    Signals
    -------
    edited
        What changed in words, the fields of the source that change, and whether the gesture is over.
    masks_wanted
        The user asked for a painted mask, and there is none yet.
    """

    edited = Signal(str, object, bool)
    masks_wanted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self._source = SkinSource()
        self._character: Character | None = None
        self._use: CharacterUse | None = None
        self._part_checks: dict[str, QCheckBox] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self._parts_hint = soft("parts: none ticked means all of them")
        column.addWidget(self._parts_hint)
        self._parts = QWidget()
        self._parts.setObjectName("panel")
        self._grid = QGridLayout(self._parts)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(0)
        column.addWidget(self._parts)
        self._rows = {
            "joints": self._joints_row(),
            "height": self._height_row(),
            "facing": self._facing_row(),
            "texture": self._texture_row(),
            "painted": self._painted_row(),
            "dissolving": self._row("dissolving", "only on the border of the dissolve, while it moves"),
        }
        for row in self._rows.values():
            column.addWidget(row)
        self.add = Button(icon("plus"), "Only where ...")
        self.add.setToolTip("Add a filter: births keep to where all filters let them")
        self._menu = QMenu(self)
        self._menu.aboutToShow.connect(self._fill_menu)
        self.add.setMenu(self._menu)
        foot = QHBoxLayout()
        foot.addWidget(self.add)
        foot.addStretch(1)
        column.addLayout(foot)

    # ---- rows -----------------------------------------------------------------------------------

    def _row(self, field: str, name: str, *lines: QWidget) -> QWidget:
        box = QWidget()
        box.setObjectName("panel")
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 2, 0, 2)
        column.setSpacing(2)
        head = QHBoxLayout()
        head.addWidget(soft(name), 1)
        head.addWidget(tool("x", f"Remove the filter: {name}", lambda: self._remove(field)))
        column.addLayout(head)
        for line in lines:
            column.addWidget(line)
        return box

    def _joints_row(self) -> QWidget:
        self._joint_names = TextField("Names of joints, with commas between them")
        self._joint_names.edited.connect(self._joints_typed)
        self._falloff = NumberField("%", low=0, high=100, step=5, decimals=0, name="How softly births thin out")
        self._falloff.edited.connect(
            lambda v, f: self._change("Falloff", f, joints=self._source.joints.but(falloff=v / 100))
        )
        return self._row(
            "joints", "only what these joints hold", labelled("joints", self._joint_names, width=60),
            labelled("falloff", self._falloff, width=60),
        )  # fmt: skip

    def _height_row(self) -> QWidget:
        self._low = NumberField("%", low=-100, high=200, step=1, decimals=0, name="From this height, feet are 0")
        self._high = NumberField("%", low=-100, high=200, step=1, decimals=0, name="To this height, the top is 100")
        self._height_soft = NumberField("% soft", low=0, high=100, step=1, decimals=0, name="Soft edge")
        for field, key in ((self._low, "low"), (self._high, "high"), (self._height_soft, "soft")):
            field.edited.connect(lambda v, f, key=key: self._part("height", "Height", f, **{key: v / 100}))
        numbers = labelled("height", self._low, self._high, self._height_soft, width=60)
        return self._row("height", "only between two heights of the rest pose", numbers)

    def _facing_row(self) -> QWidget:
        self._side = ChoiceField(SIDES, name="Side")
        self._side.chosen.connect(lambda v: self._part("facing", "Facing", True, side=v))
        self._within = NumberField("°", low=0, high=180, step=5, decimals=0, name="Within this angle of it")
        self._within.edited.connect(lambda v, f: self._part("facing", "Facing", f, within=v))
        self._facing_soft = NumberField("° soft", low=0, high=180, step=5, decimals=0, name="Soft edge")
        self._facing_soft.edited.connect(lambda v, f: self._part("facing", "Facing", f, soft=v))
        return self._row(
            "facing", "only what faces a side in the rest pose",
            labelled("facing", self._side, self._within, self._facing_soft, width=60),
        )  # fmt: skip

    def _texture_row(self) -> QWidget:
        self._texture = ChoiceField(name="Picture in the mesh's UV")
        self._texture.chosen.connect(lambda v: self._part("texture", "Mask picture", True, texture=v))
        self._invert = Check("dark instead")
        self._invert.clicked.connect(lambda on: self._part("texture", "Mask picture", True, invert=on))
        return self._row(
            "texture", "only where a picture is bright", labelled("picture", self._texture, self._invert, width=60)
        )

    def _painted_row(self) -> QWidget:
        self._painted = ChoiceField(name="Painted mask")
        self._painted.chosen.connect(lambda v: self._change("Painted mask", True, painted=v))
        return self._row(
            "painted", "only where a mask is painted (Character station)", labelled("mask", self._painted, width=60)
        )

    # ---- showing --------------------------------------------------------------------------------

    def show_source(
        self, source: SkinSource, character: Character | None, use: CharacterUse | None, textures: list[str]
    ) -> None:
        """Show a source's filters; nothing is signalled."""
        self._source, self._character, self._use = source, character, use
        bones = source.mode == "bones"
        self._show_parts(source, character)
        for widget in (self._parts, self._parts_hint):
            widget.setVisible(not bones)
        on = self._on()
        for field, row in self._rows.items():
            row.setVisible(field in on and (not bones or field == "joints"))
        self._joint_names.set_value(", ".join(source.joints.names))
        self._falloff.set_value(round(source.joints.falloff * 100, 3))
        if source.height is not None:
            self._low.set_value(round(source.height.low * 100, 3))
            self._high.set_value(round(source.height.high * 100, 3))
            self._height_soft.set_value(round(source.height.soft * 100, 3))
        if source.facing is not None:
            self._side.set_value(source.facing.side)
            self._within.set_value(source.facing.within)
            self._facing_soft.set_value(source.facing.soft)
        if source.texture is not None:
            self._texture.set_choices([("choose one", ""), *((name, name) for name in textures)])
            self._texture.set_value(source.texture.texture)
            self._invert.setChecked(source.texture.invert)
        masks = use.masks if use else ()
        self._painted.set_choices([(mask.name, mask.id) for mask in masks])
        self._painted.set_value(source.painted)

    def _on(self) -> set[str]:
        source = self._source
        given = {field for field in ("height", "facing", "texture", "painted") if getattr(source, field) is not None}
        given |= {"dissolving"} if source.dissolving else set()
        return given | ({"joints"} if source.joints.names else set())

    def _show_parts(self, source: SkinSource, character: Character | None) -> None:
        names = tuple(part.name for part in character.parts) if character else ()
        names = (*names, *(part for part in source.parts if part not in names))
        if names != tuple(self._part_checks):
            for check in self._part_checks.values():
                self._grid.removeWidget(check)
                check.hide()
                check.deleteLater()
            self._part_checks = {}
            for k, name in enumerate(names):
                check = Check(name)
                check.setMinimumHeight(22)
                check.clicked.connect(self._parts_clicked)
                self._part_checks[name] = check
                self._grid.addWidget(check, k // 2, k % 2)
        for name, check in self._part_checks.items():
            check.setChecked(name in source.parts)

    # ---- doing ----------------------------------------------------------------------------------

    def _fill_menu(self) -> None:
        self._menu.clear()
        on, bones = self._on(), self._source.mode == "bones"
        for kind in KINDS:
            if kind.field not in on and (not bones or kind.field == "joints"):
                self._menu.addAction(kind.name, lambda kind=kind: self.add_filter(kind.field))
        if self._menu.isEmpty():
            self._menu.addAction("all filters are on already").setEnabled(False)

    def add_filter(self, field: str) -> None:
        """Add a filter by its field of the source."""
        kind = next(k for k in KINDS if k.field == field)
        start = kind.start(self._character, self._use)
        if start is None:
            self.masks_wanted.emit()
            return
        self._change(f"Only {kind.name}", True, **{field: start})

    def _remove(self, field: str) -> None:
        empty = {"joints": JointSet(), "dissolving": False}
        self._change("Remove filter", True, **{field: empty.get(field)})

    def _parts_clicked(self) -> None:
        parts = tuple(name for name, check in self._part_checks.items() if check.isChecked())
        self._change("Source parts", True, parts=parts)

    def _joints_typed(self, text: str) -> None:
        names = tuple(dict.fromkeys(name.strip() for name in text.split(",") if name.strip()))
        self._change("Joints", True, joints=self._source.joints.but(names=names))

    def _part(self, field: str, words: str, final: bool, **changes: object) -> None:
        held = getattr(self._source, field)
        if held is not None:
            self._change(words, final, **{field: held.but(**changes)})

    def _change(self, words: str, final: bool, **changes: object) -> None:
        self._source = self._source.but(**changes)
        self.edited.emit(words, changes, final)
