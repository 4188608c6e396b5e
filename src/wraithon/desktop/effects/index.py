"""The effects' index: a tree of effects and their layers."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTreeWidgetItem

from wraithon.desktop.theme.colours import OCHRE, SOFT
from wraithon.desktop.theme.theme import icon, put_icon
from wraithon.desktop.widgets.basics import Button, soft, tool
from wraithon.desktop.widgets.panels import Command, Index
from wraithon.desktop.widgets.trees import KEY, KIND, items_of, tree_of
from wraithon.project.base import new_id
from wraithon.project.edit import (
    copy_layer,
    fresh_name,
    new_layer,
    put_effect,
    put_layer,
    remove_effect,
    remove_layer,
)
from wraithon.project.effect import Effect

if TYPE_CHECKING:
    from wraithon.desktop.session.session import Session

__all__ = ["EffectsIndex"]


class EffectsIndex(Index):
    """The tree of effects and layers.

    Parameters
    ----------
    session
        What is shown.
    fire
        Starts an effect now, given its id.
    """

    def __init__(self, session: Session, fire: Callable[[str], None]) -> None:
        super().__init__("Effects")
        self._session, self._start = session, fire
        self._filling = False
        bar = self.column.itemAt(0).layout()
        for button in (
            tool("plus", "New effect", self.add_effect),
            tool("list-plus", "New layer in this effect", self.add_layer),
            tool("copy", "Duplicate (Ctrl+D)", self.duplicate),
            tool("trash", "Delete (Del)", self.remove),
        ):
            bar.addWidget(button)
        self.tree = tree_of("Effects and layers", indentation=14)
        self.tree.header().setSectionResizeMode(1, QHeaderView.ResizeMode.Fixed)
        self.tree.header().resizeSection(1, 28)
        self.tree.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed)
        self.tree.currentItemChanged.connect(self._picked)
        self.tree.itemClicked.connect(self._clicked)
        self.tree.itemChanged.connect(self._renamed)
        self.column.addWidget(self.tree, 1)
        self._empty = soft("No effects yet. Press + to make the first one; then fire it, or let a trigger do so.")
        self.column.addWidget(self._empty)
        self._fire = Button(icon("lightning"), "Fire now")
        self._fire.setToolTip("Start this effect now, at its trigger's anchor (Ctrl+Return)")
        self._fire.clicked.connect(self.fire)
        self.column.addWidget(self._fire)
        session.changed.connect(self.refresh)
        session.selected.connect(self._follow)
        self.refresh()

    def commands(self) -> list[Command]:
        """Return what the menu offers of this station."""
        return [
            ("Fire the selected effect", "Ctrl+Return", self.fire),
            ("Mute layer", "M", self.toggle_mute),
            ("Solo layer", "S", self.solo),
        ]

    # ---- showing --------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the project's effects; the selection stays."""
        self._filling = True
        project = self._session.project
        wanted = [(e.id, [x.id for x in e.layers]) for e in project.effects]
        if wanted != self._held():
            closed = {self._id(i) for i in self._tops() if not i.isExpanded()}
            self.tree.clear()
            for effect in project.effects:
                top = self._item(None, "effect", effect.id)
                for layer in effect.layers:
                    self._item(top, "layer", layer.id)
                top.setExpanded(effect.id not in closed)
        for top, effect in zip(self._tops(), project.effects, strict=True):
            self._dress(top, effect.name, "sparkle", all(x.muted for x in effect.layers) and bool(effect.layers))
            for k, layer in enumerate(effect.layers):
                self._dress(top.child(k), layer.name, "stack-simple", layer.muted)
                eye = "eye-slash" if layer.muted else "eye"
                put_icon(top.child(k), icon(eye, OCHRE if layer.muted else SOFT), 1)
                top.child(k).setToolTip(1, "Muted: not born, not drawn (M)" if layer.muted else "Mute this layer (M)")
        self._empty.setVisible(not project.effects)
        self._filling = False
        self._follow(*self._session.selection)

    def _held(self) -> list[tuple[str, list[str]]]:
        return [(self._id(t), [self._id(t.child(k)) for k in range(t.childCount())]) for t in self._tops()]

    def _tops(self) -> list[QTreeWidgetItem]:
        return [self.tree.topLevelItem(k) for k in range(self.tree.topLevelItemCount())]

    @staticmethod
    def _id(item: QTreeWidgetItem) -> str:
        return str(item.data(0, KEY))

    def _item(self, parent: QTreeWidgetItem | None, kind: str, key: str) -> QTreeWidgetItem:
        item = QTreeWidgetItem()
        item.setData(0, KIND, kind)
        item.setData(0, KEY, key)
        item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
        if parent is None:
            self.tree.addTopLevelItem(item)
        else:
            parent.addChild(item)
        return item

    @staticmethod
    def _dress(item: QTreeWidgetItem, name: str, picture: str, muted: bool) -> None:
        item.setText(0, name)
        put_icon(item, icon(picture))
        item.setToolTip(0, f"{name}: F2 renames")
        item.setForeground(0, Qt.GlobalColor.gray if muted else Qt.GlobalColor.white)

    def _follow(self, kind: str, what: str) -> None:
        self._fire.setEnabled(self._effect() is not None)
        if kind not in {"effect", "layer"}:
            return
        for item in items_of(self.tree):
            if self._id(item) == what and self.tree.currentItem() is not item:
                self._filling = True
                self.tree.setCurrentItem(item)
                self._filling = False

    # ---- doing ----------------------------------------------------------------------------------

    def _picked(self, item: QTreeWidgetItem | None, _before: QTreeWidgetItem | None) -> None:
        if item is not None and not self._filling:
            self._session.select(str(item.data(0, KIND)), self._id(item))

    def _clicked(self, item: QTreeWidgetItem, column: int) -> None:
        if column == 1 and item.data(0, KIND) == "layer":
            self.toggle_mute(self._id(item))

    def _renamed(self, item: QTreeWidgetItem, _column: int) -> None:
        name = item.text(0).strip()
        if self._filling or not name:
            return
        if not self._session.put(str(item.data(0, KIND)), self._id(item), "name", name, f"Rename to {name}"):
            self.refresh()

    def _effect(self) -> Effect | None:
        kind, what = self._session.selection
        project = self._session.project
        if kind == "layer":
            found = project.layer(what)
            return found[0] if found else None
        return project.effect(what) if kind == "effect" else None

    def add_effect(self) -> None:
        """Add an effect with one visible layer and select it."""
        names = (e.name for e in self._session.project.effects)
        effect = Effect(name=fresh_name("effect", names), length=1.0, layers=(new_layer("glow"),))
        self._session.edit("New effect", lambda p: put_effect(p, effect))
        self._session.select("effect", effect.id)

    def add_layer(self) -> None:
        """Add a layer to the selected effect and select it."""
        effect = self._effect()
        if effect is None:
            self._session.said.emit("Select an effect first; the layer is added to it", "warning")
            return
        layer = new_layer(fresh_name("layer", (x.name for x in effect.layers)))
        self._session.edit("New layer", lambda p: put_layer(p, effect.id, layer))
        self._session.select("layer", layer.id)

    def duplicate(self) -> None:
        """Duplicate the selected layer or effect and select the copy."""
        kind, what = self._session.selection
        if kind == "layer":
            project, copy = copy_layer(self._session.project, what)
            self._session.edit("Duplicate layer", lambda _p: project)
            self._session.select("layer", copy)
        elif (effect := self._effect()) is not None:
            names = (e.name for e in self._session.project.effects)
            layers = tuple(x.but(id=new_id()) for x in effect.layers)
            twin = effect.but(id=new_id(), name=fresh_name(effect.name, names), layers=layers)
            self._session.edit("Duplicate effect", lambda p: put_effect(p, twin))
            self._session.select("effect", twin.id)

    def remove(self) -> None:
        """Delete the selected layer or effect."""
        kind, what = self._session.selection
        if kind == "layer":
            effect = self._effect()
            self._session.edit("Delete layer", lambda p: remove_layer(p, what))
            self._session.select("effect", effect.id if effect else "")
        elif kind == "effect":
            self._session.edit("Delete effect", lambda p: remove_effect(p, what))
            self._session.select("", "")

    def toggle_mute(self, layer_id: str | None = None) -> None:
        """Mute or unmute a layer; without an id, the selected one."""
        kind, what = self._session.selection
        found = self._session.project.layer(layer_id or (what if kind == "layer" else None))
        if found is not None:
            effect, layer = found
            word = "Unmute" if layer.muted else "Mute"
            muted = layer.but(muted=not layer.muted)
            self._session.edit(f"{word} {layer.name}", lambda p: put_layer(p, effect.id, muted))

    def solo(self) -> None:
        """Mute all other layers of the selected one's effect, or bring them back."""
        kind, what = self._session.selection
        found = self._session.project.layer(what) if kind == "layer" else None
        if found is None:
            return
        effect, layer = found
        others = [x for x in effect.layers if x.id != layer.id]
        alone = bool(others) and all(x.muted for x in others) and not layer.muted
        layers = tuple(x.but(muted=not (alone or x.id == layer.id)) for x in effect.layers)
        words = "End solo" if alone else f"Solo {layer.name}"
        self._session.edit(words, lambda p: put_effect(p, effect.but(layers=layers)))

    def fire(self) -> None:
        """Start the selected effect now."""
        effect = self._effect()
        if effect is not None:
            self._start(effect.id)
