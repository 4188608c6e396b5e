"""The shelf of presets: found by typing, each with a picture of itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint, QSize, Qt, Signal
from PySide6.QtGui import QIcon, QKeyEvent, QPixmap
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QListView,
    QListWidget,
    QListWidgetItem,
    QWidget,
)

from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, counted, image_of, soft
from wraithon.desktop.widgets.popup import Popup
from wraithon.interchange.presets import drop_preset, found_presets, stored_presets
from wraithon.project.edit import with_effect
from wraithon.project.effect import Effect
from wraithon.project.resolving.following import used_effect, used_layer
from wraithon.project.things import effect_of
from wraithon.studio.beginning import put_on
from wraithon.support.preferences import preset_folder

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from wraithon.desktop.desk import Desk
    from wraithon.project.preset import Preset
    from wraithon.project.project import Project


PICTURE = QSize(108, 72)
ID = Qt.ItemDataRole.UserRole


def _title(preset: Preset) -> str:
    """Return a preset's name, and of a whole effect how many layers it has."""
    return preset.name if preset.effect is None else f"{preset.name} ({counted(len(preset.layers), 'layer')})"


def alone(preset: Preset) -> Effect:
    """Return a preset as an effect to be pictured."""
    if preset.effect is not None:
        return preset.effect
    return Effect(id=preset.id, name=preset.name, length=1.0, layers=preset.layers)


class _Search(QLineEdit):
    """A line to type in, from which the arrows lead into the list."""

    def __init__(self, listed: QListWidget) -> None:
        super().__init__()
        self._listed = listed

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in {Qt.Key.Key_Down, Qt.Key.Key_Up, Qt.Key.Key_PageDown, Qt.Key.Key_PageUp}:
            self._listed.setFocus()
            self._listed.keyPressEvent(event)
        else:
            super().keyPressEvent(event)


class PresetLibrary(Popup):
    """A shelf that opens over the window, and closes by Escape or a click elsewhere.

    Signals
    -------
    pictures_wanted
        Preset id to the effect that a small picture is wanted of.
    """

    pictures_wanted = Signal(object)

    def __init__(self, desk: Desk, over: QWidget) -> None:
        super().__init__(over, 516, 470)
        self._desk, self._session = desk, desk.session
        self._presets: dict[str, Preset] = {}
        self._own: set[str] = set()
        """Ids of those that are the user's for all projects."""
        self._pictures: dict[str, QIcon] = {}
        self._asked: dict[str, Effect] = {}
        self.listed = QListWidget()
        self.listed.setViewMode(QListView.ViewMode.IconMode)
        self.listed.setResizeMode(QListView.ResizeMode.Adjust)
        self.listed.setMovement(QListView.Movement.Static)
        self.listed.setIconSize(PICTURE)
        self.listed.setGridSize(QSize(PICTURE.width() + 8, PICTURE.height() + 42))
        self.listed.setWordWrap(True)
        height, width = PICTURE.height() + 36, PICTURE.width() + 4
        self.listed.setStyleSheet(f"QListWidget::item {{ height: {height}px; width: {width}px; padding: 2px; }}")
        self.listed.setUniformItemSizes(True)
        self.listed.setAccessibleName("Presets")
        self.listed.itemActivated.connect(lambda _item: self.use())
        self.listed.currentItemChanged.connect(lambda _now, _before: self._chosen())
        self.search = _Search(self.listed)
        self.search.setPlaceholderText("Find a preset: fire, dust, trail ...")
        self.search.setAccessibleName("Find a preset: fire, dust, trail ...")
        self.search.textChanged.connect(self.refresh)
        self.search.returnPressed.connect(self.use)
        self.column.addWidget(self.search)
        self.column.addWidget(self.listed, 1)
        self._text = soft("")
        self.column.addWidget(self._text)
        self.add = Button(icon("list-plus"), "Add to this effect")
        self.make = Button(icon("plus"), "As a new effect")
        self.drop = Button(icon("trash"), "Not for all projects")
        self.add.clicked.connect(self.use)
        self.make.clicked.connect(self.use_as_effect)
        self.drop.clicked.connect(self.remove_stored)
        row = QHBoxLayout()
        for button in (self.add, self.make, self.drop):
            row.addWidget(button)
        row.addStretch(1)
        self.column.addLayout(row)

    def open_at(self, position: QPoint) -> None:
        """Open at a place of the screen, ready to be typed in."""
        self._look_again()
        self.search.clear()
        self.refresh()
        self.move(position)
        self.show()
        self.search.setFocus()

    def _look_again(self) -> None:
        """See what presets there are, on the disk as well."""
        self._own = {preset.id for preset in stored_presets(preset_folder())}
        self._presets = {p.id: p for p in found_presets(self._session.project.presets, preset_folder())}

    def refresh(self) -> None:
        """Show the presets that are found by what is typed."""
        text = self.search.text()
        self.listed.clear()
        wanted = {}
        for preset in self._presets.values():
            if not preset.found_by(text):
                continue
            item = QListWidgetItem(self._pictures.get(preset.id, icon("sparkle")), _title(preset))
            item.setData(ID, preset.id)
            item.setSizeHint(self.listed.gridSize())
            item.setTextAlignment(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
            looks = ", ".join(dict.fromkeys(layer.look.kind for layer in preset.layers))
            tags = f"\nFound by: {', '.join(preset.tags)}" if preset.tags else ""
            item.setToolTip(f"{preset.name}: {looks}{tags}")
            self.listed.addItem(item)
            effect = alone(preset)
            if self._asked.get(preset.id) != effect:
                wanted[preset.id] = self._asked[preset.id] = effect
        if self.listed.count():
            self.listed.setCurrentRow(0)
        self._chosen()
        if wanted:
            self.pictures_wanted.emit(wanted)

    def take_picture(self, key: str, pixels: NDArray[np.uint8]) -> None:
        """Show a small picture that was made."""
        if key not in self._presets:
            return
        self._pictures[key] = QIcon(QPixmap.fromImage(image_of(pixels)))
        for number in range(self.listed.count()):
            item = self.listed.item(number)
            if item.data(ID) == key:
                item.setIcon(self._pictures[key])

    @property
    def pictured(self) -> int:
        """How many presets have a picture."""
        return len(self._pictures)

    @property
    def chosen(self) -> Preset | None:
        """The preset that is picked."""
        item = self.listed.currentItem()
        return self._presets.get(item.data(ID)) if item is not None else None

    def _effect(self) -> str:
        """Return the id of the effect that a layer would be added to; empty without one."""
        effect = effect_of(self._session.project, *self._session.selection)
        return effect.id if effect else ""

    def _chosen(self) -> None:
        preset = self.chosen
        self.add.setEnabled(preset is not None and preset.layer is not None and bool(self._effect()))
        self.make.setEnabled(preset is not None)
        self.drop.setVisible(preset is not None and preset.id in self._own)
        self._text.setText("" if preset is not None else "No preset is found by that. Fewer words find more.")

    def use(self) -> None:
        """Add the preset's layer to the selected effect; without one, or of a whole effect, make an effect."""
        preset, effect = self.chosen, self._effect()
        if preset is None:
            return
        if preset.layer is None or not effect:
            self.use_as_effect()
            return
        project, layer = used_layer(self._session.project, preset, effect)
        self._take("layer", layer, f"Add {preset.name}", project)

    def use_as_effect(self) -> None:
        """Make an effect of the preset."""
        preset = self.chosen
        if preset is not None:
            project, effect = used_effect(self._session.project, preset)
            self._take("effect", effect, f"New effect from {preset.name}", project)

    def _take(self, kind: str, what: str, text: str, project: Project) -> None:
        """Make a project with a new layer or effect the current one; it is emitted from what is picked."""
        effect = effect_of(project, kind, what)
        if effect is not None:
            new = {what} if kind == "layer" else {layer.id for layer in effect.layers}
            project = with_effect(project, put_on(project, effect, new, self._desk.picked))
        self.hide()
        self._session.edit(text, lambda _project: project)
        self._session.select(kind, what)

    def remove_stored(self) -> None:
        """Keep the preset for all projects no longer; projects that use it have it still."""
        preset = self.chosen
        if preset is not None:
            drop_preset(preset_folder(), preset)
            self._look_again()
            self.refresh()
