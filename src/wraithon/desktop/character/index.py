"""The character's index: a tree of its clips, parts, masks, anchors and joints."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QBrush, QColor
from PySide6.QtWidgets import QTreeWidgetItem

from wraithon.desktop.character.mask_editor import new_mask
from wraithon.desktop.theme.colours import INK, OCHRE, SOFT, TEAL
from wraithon.desktop.theme.theme import icon, set_icon
from wraithon.desktop.widgets.basics import Button, grouped, soft, tool
from wraithon.desktop.widgets.fields import ChoiceField
from wraithon.desktop.widgets.trees import GROUP, TreeIndex, key_of, kind_of
from wraithon.project.character import Anchor
from wraithon.project.edit import fresh_name, play_only, remove_anchor, with_anchor, with_character, with_on_stage
from wraithon.support.identity import same_objects

if TYPE_CHECKING:
    from wraithon.character.model import Character
    from wraithon.desktop.session.session import Session
    from wraithon.project.character import CharacterUse


DEEPEST = 7
"""Levels of the tree beyond which joints stand beside those they hang on, so that their names are read."""


def _depth(item: QTreeWidgetItem) -> int:
    """Return how many items a tree's item is in."""
    depth = 0
    while (above := item.parent()) is not None:
        item, depth = above, depth + 1
    return depth


class CharacterIndex(TreeIndex):
    """A tree of the character: clips, parts, anchors, joints; `choose` asks for a character file."""

    def __init__(self, session: Session, choose: Callable[[], object]) -> None:
        super().__init__(session, "Character", "Character", 9)
        for button in (
            tool("folder-open", "Import a character (.glb, .gltf) or motions (.bvh, .glb, .gltf)", choose),
            tool("paint-brush", "New mask to paint on the skin", self.add_mask),
            tool("anchor-simple", "New anchor on the selected joint", self.add_anchor),
            tool("trash", "Delete the selected anchor or mask (Del)", self.remove),
        ):
            self.head.addWidget(button)
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
        self._worn: tuple[object, ...] = ()
        self.listen_to(session)

    # ---- showing --------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the character on stage."""
        character, use = self._session.character, self._session.project.character
        anchors, masks = (use.anchors, use.masks) if use else ((), ())
        hidden = frozenset(clip.name for clip in use.clips if clip.hidden) if use else frozenset()
        motions = tuple(motion.name for motion in use.captures) if use else ()
        key = (id(character), tuple(a.id for a in anchors), tuple(m.id for m in masks), hidden, motions)
        with self.filling():
            if key != self._built:
                self._built = key
                self._build(character, use)
                self._worn = ()
            worn = (character, use, self._session.project.stage)
            if character is not None and use is not None and not same_objects(worn, self._worn):
                self._worn = worn
                self._dress(character, use)
        everybody = self._session.project.characters
        self.who.set_choices([(other.name, other.id) for other in everybody])
        self.who.set_value(use.id if use else None)
        self.who.setVisible(len(everybody) > 1)
        there = character is not None
        self.tree.setVisible(there)
        self._empty.setVisible(not there)
        self._choose.setVisible(not there)
        self.follow(*self._session.selection)

    def _build(self, character: Character | None, use: CharacterUse | None) -> None:
        self._open |= {key_of(item): item.isExpanded() for item in self.items() if kind_of(item) == GROUP}
        self.tree.clear()
        if character is None or use is None:
            return
        root = self.add(None, "", "", use.name)
        set_icon(root, icon("person-simple"))
        root.setToolTip(0, "The character itself: scale, stage, dissolve, file")
        groups = {name: self._group(name) for name in self._open}
        for clip in sorted(character.clips, key=lambda clip: use.clip(clip.name).hidden):  # those hidden last
            self.add(groups["clips"], "clip", clip.name, clip.name, f"{clip.seconds:.2f} s")
        there = {clip.name for clip in character.clips}
        for motion in use.captures:
            if motion.name not in there:  # not put on yet, or matched with nothing
                self.add(groups["clips"], "clip", motion.name, motion.name, "–")
        for part in character.parts:
            self.add(groups["parts"], "part", part.name, part.name, grouped(part.triangle_count))
        for anchor in use.anchors:
            self.add(groups["anchors"], "anchor", anchor.id, anchor.name).setToolTip(0, anchor.name)
        for mask in use.masks:
            self.add(groups["masks"], "mask", mask.id, mask.name).setToolTip(0, mask.name)
        groups["masks"].setHidden(not use.masks)
        self._joints(character, groups["joints"])
        for name, group in groups.items():
            group.setExpanded(self._open[name])
            group.setText(1, str(group.childCount()))
        groups["joints"].setText(1, str(len(character.skeleton.joint_names)))

    def _group(self, name: str) -> QTreeWidgetItem:
        item = self.add(None, GROUP, name, name)
        font = item.font(0)
        font.setWeight(font.Weight.DemiBold)
        item.setFont(0, font)
        item.setFlags(Qt.ItemFlag.ItemIsEnabled)
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
            if _depth(owner) > DEEPEST:
                owner = owner.parent() or group
            shown[node] = self.add(owner, "joint", name, name)
            shown[node].setFirstColumnSpanned(True)
            shown[node].setExpanded(True)

    def _dress(self, character: Character, use: CharacterUse) -> None:
        """Give all items the names and icons that hold now."""
        order = {clip_run.clip for clip_run in self._session.project.stage.order}
        names = {a.id: a.name for a in use.anchors} | {m.id: m.name for m in use.masks} | {"": use.name}
        weighted = character.weighted_joints
        for item in self.items():
            kind, key = kind_of(item), key_of(item)
            if kind in {"anchor", "mask", ""}:
                item.setText(0, names.get(key, key))
            if kind in {"anchor", "mask"}:
                set_icon(item, icon("anchor-simple" if kind == "anchor" else "paint-brush"))
            elif kind == "clip":
                hidden = use.clip(key).hidden
                shown = icon("eye-slash", OCHRE) if hidden else icon("film-strip")
                set_icon(item, icon("play-fill", TEAL) if key in order else shown)
                item.setToolTip(0, f"{key}: double-click plays only this clip{'; hidden from lists' * hidden}")
                item.setForeground(0, QBrush(QColor(SOFT if hidden else INK)))
            elif kind == "part":
                set_icon(item, icon("eye-slash", OCHRE) if key in use.hidden_parts else icon("eye"))
                item.setToolTip(0, f"{key}: click the eye to hide or show it")
            elif kind == "joint":
                item.setForeground(0, QBrush(QColor(INK if key in weighted else SOFT)))

    # ---- doing ----------------------------------------------------------------------------------

    def clicked(self, item: QTreeWidgetItem, _column: int) -> None:
        """Open and close a group; hide or show a part by its eye."""
        if kind_of(item) == GROUP:
            item.setExpanded(not item.isExpanded())
        elif kind_of(item) == "part":
            at = self.tree.viewport().mapFromGlobal(self.cursor().pos()).x()
            if at < self.tree.visualItemRect(item).left() + 22:
                self.toggle_part(key_of(item))

    def _double_clicked(self, item: QTreeWidgetItem, _column: int) -> None:
        if kind_of(item) == "clip":
            name = key_of(item)
            self._session.edit(f"Play {name}", lambda p: play_only(p, name))

    def toggle_part(self, name: str) -> None:
        """Hide or show a part."""

        def change(use: CharacterUse) -> CharacterUse:
            hidden = set(use.hidden_parts) ^ {name}
            return use.evolve(hidden_parts=tuple(sorted(hidden)))

        self._session.edit(f"Show or hide {name}", lambda p: with_character(p, change))

    def add_anchor(self) -> None:
        """Add an anchor on the selected joint (or the first one) and select it."""
        character, use = self._session.character, self._session.project.character
        if character is None or use is None:
            self._session.said.emit("Import a character first: anchors belong to its joints", "warning")
            return
        kind, what = self._session.selection
        joint = what if kind == "joint" else character.skeleton.joint_names[0]
        anchor = Anchor(name=fresh_name(joint, (a.name for a in use.anchors)), joint=joint)
        self._session.edit("New anchor", lambda p: with_anchor(p, anchor))
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
                return use.evolve(masks=tuple(m for m in use.masks if m.id != what))

            self._session.edit("Delete mask", lambda p: with_character(p, change))
            self._session.select("", "")

    def _who_chosen(self, use_id: object, _final: bool) -> None:
        if isinstance(use_id, str):
            self._session.edit("Put on stage", lambda p: with_on_stage(p, use_id))
            self._session.select("", "")
