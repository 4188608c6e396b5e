"""The character's index: a tree of its clips, parts, masks, anchors and joints."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QBrush, QColor
from PySide6.QtWidgets import QTreeWidgetItem

from wraithon.desktop.character.mask_editor import new_mask
from wraithon.desktop.theme.colours import INK, OCHRE, SOFT, TEAL
from wraithon.desktop.theme.theme import icon, put_icon
from wraithon.desktop.widgets.basics import Button, grouped, soft, tool
from wraithon.desktop.widgets.fields import ChoiceField
from wraithon.desktop.widgets.panels import Index
from wraithon.desktop.widgets.trees import KEY, KIND, items_of, tree_of
from wraithon.project.character import Anchor
from wraithon.project.edit import fresh_name, play_only, put_anchor, put_on_stage, remove_anchor, with_character

if TYPE_CHECKING:
    from wraithon.character.model import Character
    from wraithon.desktop.session.session import Session
    from wraithon.project.character import CharacterUse

__all__ = ["CharacterIndex"]


class CharacterIndex(Index):
    """A tree of the character: clips, parts, anchors, joints.

    Parameters
    ----------
    session
        What is shown.
    choose
        Asks for a character file.
    """

    def __init__(self, session: Session, choose: Callable[[], object]) -> None:
        super().__init__("Character")
        self._session = session
        self._filling = False
        bar = self.column.itemAt(0).layout()
        for button in (
            tool("folder-open", "Bring in a character (.glb, .gltf) or a motion (.bvh)", choose),
            tool("paint-brush", "New mask to paint on the skin", self.add_mask),
            tool("anchor-simple", "New anchor on the selected joint", self.add_anchor),
            tool("trash", "Delete the selected anchor or mask (Del)", self.remove),
        ):
            bar.addWidget(button)
        self.tree = tree_of("Character", indentation=9)
        self.tree.currentItemChanged.connect(self._picked)
        self.tree.itemClicked.connect(self._clicked)
        self.tree.itemDoubleClicked.connect(self._double_clicked)
        self.who = ChoiceField(name="Who is on stage")
        self.who.edited.connect(self._who_chosen)
        self.column.addWidget(self.who)
        self.column.addWidget(self.tree, 1)
        self._empty = soft("No character yet. Drop a .glb or .gltf file on the window, or choose one:")
        self.column.addWidget(self._empty)
        self._choose = Button(icon("folder-open"), "Choose a file")
        self._choose.clicked.connect(choose)
        self.column.addWidget(self._choose)
        self._open: dict[str, bool] = {"clips": True, "parts": True, "masks": True, "anchors": True, "joints": False}
        self._built: object = None
        session.changed.connect(self.refresh)
        session.loaded.connect(self.refresh)
        session.selected.connect(self._follow)
        self.refresh()

    # ---- showing --------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the character on stage."""
        character, use = self._session.character, self._session.project.character
        self._filling = True
        anchors, masks = (use.anchors, use.masks) if use else ((), ())
        key = (id(character), tuple(a.id for a in anchors), tuple(m.id for m in masks))
        if key != self._built:
            self._built = key
            self._build(character, use)
        everybody = self._session.project.characters
        self.who.set_choices([(other.name, other.id) for other in everybody])
        self.who.set_value(use.id if use else None)
        self.who.setVisible(len(everybody) > 1)
        if character is not None and use is not None:
            self._dress(character, use)
        there = character is not None
        self.tree.setVisible(there)
        self._empty.setVisible(not there)
        self._choose.setVisible(not there)
        self._filling = False
        self._follow(*self._session.selection)

    def _build(self, character: Character | None, use: CharacterUse | None) -> None:
        for k in range(self.tree.topLevelItemCount()):
            item = self.tree.topLevelItem(k)
            self._open[str(item.data(0, KEY))] = item.isExpanded()
        self.tree.clear()
        if character is None or use is None:
            return
        root = QTreeWidgetItem([use.name, ""])
        root.setData(0, KIND, "")
        root.setData(0, KEY, "")
        put_icon(root, icon("person-simple"))
        root.setToolTip(0, "The character itself: scale, stage, dissolve, file")
        self.tree.addTopLevelItem(root)
        groups = {name: self._group(name) for name in ("clips", "parts", "masks", "anchors", "joints")}
        for clip in character.clips:
            self._item(groups["clips"], "clip", clip.name, clip.name, f"{clip.seconds:.2f} s")
        for part in character.parts:
            self._item(groups["parts"], "part", part.name, part.name, grouped(part.triangle_count))
        for anchor in use.anchors:
            self._item(groups["anchors"], "anchor", anchor.id, anchor.name, "")
        for mask in use.masks:
            self._item(groups["masks"], "mask", mask.id, mask.name, "")
        groups["masks"].setHidden(not use.masks)
        self._joints(character, groups["joints"])
        for name, group in groups.items():
            group.setExpanded(self._open[name])
            group.setText(1, str(group.childCount()))
        groups["joints"].setText(1, str(len(character.skeleton.joint_names)))

    def _group(self, name: str) -> QTreeWidgetItem:
        item = QTreeWidgetItem([name, ""])
        item.setData(0, KIND, "group")
        item.setData(0, KEY, name)
        font = item.font(0)
        font.setWeight(font.Weight.DemiBold)
        item.setFont(0, font)
        item.setFlags(Qt.ItemFlag.ItemIsEnabled)
        self.tree.addTopLevelItem(item)
        return item

    @staticmethod
    def _item(parent: QTreeWidgetItem, kind: str, key: str, name: str, words: str) -> QTreeWidgetItem:
        item = QTreeWidgetItem([name, words])
        item.setData(0, KIND, kind)
        item.setData(0, KEY, key)
        item.setToolTip(0, name)
        item.setForeground(1, Qt.GlobalColor.gray)
        parent.addChild(item)
        return item

    def _joints(self, character: Character, group: QTreeWidgetItem) -> None:
        skeleton = character.skeleton
        shown: dict[int, QTreeWidgetItem] = {}
        joints = set(skeleton.joint_names)
        for node, name in enumerate(skeleton.names):
            if name not in joints:
                continue
            parent = int(skeleton.parents[node])
            while parent >= 0 and parent not in shown:
                parent = int(skeleton.parents[parent])
            owner = shown.get(parent, group)
            shown[node] = self._item(owner, "joint", name, name, "")
            shown[node].setFirstColumnSpanned(True)
            shown[node].setExpanded(True)

    def _dress(self, character: Character, use: CharacterUse) -> None:
        order = {cue.clip for cue in self._session.project.stage.order}
        names = {a.id: a.name for a in use.anchors} | {m.id: m.name for m in use.masks}
        held = character.weighted_joints
        for item in items_of(self.tree):
            kind, key = item.data(0, KIND), str(item.data(0, KEY))
            if kind == "clip":
                clip = character.clip(key)
                on = key in order
                put_icon(item, icon("play-fill" if on else "film-strip", TEAL if on else SOFT))
                item.setText(1, f"{clip.seconds:.2f} s" if clip else "")
                item.setToolTip(0, f"{key}: double-click plays only this clip")
            elif kind == "part":
                hidden = key in use.hidden_parts
                put_icon(item, icon("eye-slash" if hidden else "eye", OCHRE if hidden else SOFT))
                item.setToolTip(0, f"{key}: click the eye to hide or show it")
            elif kind == "anchor":
                item.setText(0, names.get(key, key))
                put_icon(item, icon("anchor-simple"))
            elif not kind:
                item.setText(0, use.name)
            elif kind == "mask":
                item.setText(0, names.get(key, key))
                put_icon(item, icon("paint-brush"))
            elif kind == "joint":
                item.setForeground(0, QBrush(QColor(INK if key in held else SOFT)))

    def _follow(self, kind: str, what: str) -> None:
        if kind not in {"", "clip", "part", "anchor", "joint", "mask"}:
            return
        for item in items_of(self.tree):
            if item.data(0, KIND) == kind and str(item.data(0, KEY)) == what:
                if self.tree.currentItem() is not item:
                    self._filling = True
                    self.tree.setCurrentItem(item)
                    self._filling = False
                return

    # ---- doing ----------------------------------------------------------------------------------

    def _picked(self, item: QTreeWidgetItem | None, _before: QTreeWidgetItem | None) -> None:
        if item is not None and not self._filling and item.data(0, KIND) != "group":
            self._session.select(str(item.data(0, KIND)), str(item.data(0, KEY)))

    def _clicked(self, item: QTreeWidgetItem, _column: int) -> None:
        if item.data(0, KIND) == "group":
            item.setExpanded(not item.isExpanded())
            return
        if item.data(0, KIND) == "part":
            at = self.tree.viewport().mapFromGlobal(self.cursor().pos()).x()
            if at < self.tree.visualItemRect(item).left() + 22:
                self.toggle_part(str(item.data(0, KEY)))

    def _double_clicked(self, item: QTreeWidgetItem, _column: int) -> None:
        name = str(item.data(0, KEY))
        if item.data(0, KIND) == "clip":
            self._session.edit(f"Play {name}", lambda p: play_only(p, name))

    def toggle_part(self, name: str) -> None:
        """Hide or show a part."""

        def change(use: CharacterUse) -> CharacterUse:
            hidden = set(use.hidden_parts) ^ {name}
            return use.but(hidden_parts=tuple(sorted(hidden)))

        self._session.edit(f"Show or hide {name}", lambda p: with_character(p, change))

    def add_anchor(self) -> None:
        """Add an anchor on the selected joint (or the first one) and select it."""
        character, use = self._session.character, self._session.project.character
        if character is None or use is None:
            self._session.said.emit("Bring in a character first: anchors belong to its joints", "warning")
            return
        kind, what = self._session.selection
        joint = what if kind == "joint" else character.skeleton.joint_names[0]
        anchor = Anchor(name=fresh_name(joint, (a.name for a in use.anchors)), joint=joint)
        self._session.edit("New anchor", lambda p: put_anchor(p, anchor))
        self._session.select("anchor", anchor.id)

    def add_mask(self) -> None:
        """Add a mask to paint and select it."""
        new_mask(self._session)

    def remove(self) -> None:
        """Delete the selected anchor or mask."""
        kind, what = self._session.selection
        if kind == "anchor":
            self._session.edit("Delete anchor", lambda p: remove_anchor(p, what))
            self._session.select("", "")
        elif kind == "mask":

            def change(use: CharacterUse) -> CharacterUse:
                return use.but(masks=tuple(m for m in use.masks if m.id != what))

            self._session.edit("Delete mask", lambda p: with_character(p, change))
            self._session.select("", "")

    def _who_chosen(self, use_id: object, _final: bool) -> None:
        if isinstance(use_id, str):
            self._session.edit("Put on stage", lambda p: put_on_stage(p, use_id))
            self._session.select("", "")
