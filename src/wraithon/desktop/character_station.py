"""The Character station: parts, clips, anchors and joints of the character on stage."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QBrush, QColor
from PySide6.QtWidgets import QHBoxLayout, QTreeWidget, QTreeWidgetItem, QVBoxLayout, QWidget

from wraithon.character.checkup import measure_clip
from wraithon.character.model import Character, Clip
from wraithon.desktop.anchor_sheet import AnchorSheet
from wraithon.desktop.dissolve_editor import DissolveEditor
from wraithon.desktop.fields import (
    Button,
    Check,
    ChoiceField,
    NumberField,
    Section,
    TextField,
    counted,
    grouped,
    heading,
    labelled,
    soft,
    tool,
)
from wraithon.desktop.mask_sheet import MaskSheet, put_mask
from wraithon.desktop.matching_list import MatchingList
from wraithon.desktop.capture_editor import CaptureEditor
from wraithon.desktop.session import Session
from wraithon.desktop.sheet import Index, Sheet
from wraithon.desktop.theme import INK, OCHRE, SOFT, TEAL, icon, put_icon
from wraithon.project.character import Anchor, CharacterUse, PaintedMask
from wraithon.project.edit import fresh_name, put_anchor, put_clip, remove_anchor, with_character
from wraithon.project.project import Cue, Project

__all__ = ["CharacterIndex", "CharacterSheet", "play_only"]

KIND, KEY = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1


def play_only(project: Project, clip: str) -> Project:
    """Return the project with one clip on stage, over and over."""
    return project.but(stage=project.stage.but(order=(Cue(clip=clip),)))


def put_on_stage(project: Project, use_id: str | None) -> Project:
    """Return the project with another of its characters on stage, playing the clips they share.

    Of the running order what the other has no clip for is left out; the checks tell when nothing is left.
    """
    return project.but(stage=project.stage.but(character=use_id))


class CharacterIndex(Index):
    """A tree of the character: clips, parts, anchors, joints.

    Signals
    -------
    wanted
        The user wants to choose a character file.
    """

    wanted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__("Character")
        self._session = session
        self._filling = False
        bar = self.column.itemAt(0).layout()
        for button in (
            tool("folder-open", "Bring in a character (.glb, .gltf) or a motion (.bvh)", self.wanted.emit),
            tool("paint-brush", "New mask to paint on the skin", self.add_mask),
            tool("anchor-simple", "New anchor on the selected joint", self.add_anchor),
            tool("trash", "Delete the selected anchor or mask (Del)", self.remove),
        ):
            bar.addWidget(button)
        self.tree = QTreeWidget()
        self.tree.setHeaderHidden(True)
        self.tree.setColumnCount(2)
        self.tree.header().setStretchLastSection(False)
        self.tree.header().setSectionResizeMode(0, self.tree.header().ResizeMode.Stretch)
        self.tree.header().setSectionResizeMode(1, self.tree.header().ResizeMode.ResizeToContents)
        self.tree.setIndentation(9)
        self.tree.setIconSize(QSize(15, 15))
        self.tree.setAccessibleName("Character")
        self.tree.currentItemChanged.connect(self._picked)
        self.tree.itemClicked.connect(self._clicked)
        self.tree.itemDoubleClicked.connect(self._double_clicked)
        self.who = ChoiceField(name="Who is on stage")
        self.who.chosen.connect(self._who_chosen)
        self.column.addWidget(self.who)
        self.column.addWidget(self.tree, 1)
        self._empty = soft("No character yet. Drop a .glb or .gltf file on the window, or choose one:")
        self.column.addWidget(self._empty)
        self._choose = Button(icon("folder-open"), "Choose a file")
        self._choose.clicked.connect(self.wanted)
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
        for item in self._items():
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

    def _items(self) -> list[QTreeWidgetItem]:
        found, stack = [], [self.tree.topLevelItem(k) for k in range(self.tree.topLevelItemCount())]
        while stack:
            item = stack.pop()
            found.append(item)
            stack.extend(item.child(k) for k in range(item.childCount()))
        return found

    def _follow(self, kind: str, what: str) -> None:
        if kind not in {"", "clip", "part", "anchor", "joint", "mask"}:
            return
        for item in self._items():
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
        character, use = self._session.character, self._session.project.character
        if character is None or use is None:
            self._session.said.emit("Bring in a character first: masks are painted on its skin", "warning")
            return
        name = fresh_name("mask", (m.name for m in use.masks))
        mask = PaintedMask(name=name, vertices=len(character.mesh.positions))
        put_mask(self._session, "New mask", mask)
        self._session.select("mask", mask.id)

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

    def _who_chosen(self, use_id: object) -> None:
        if isinstance(use_id, str):
            self._session.edit("Put on stage", lambda p: put_on_stage(p, use_id))
            self._session.select("", "")


class CharacterSheet(Sheet):
    """The character's own settings, or the selected clip, part, mask, anchor or joint.

    Signals
    -------
    replacement_wanted
        The user wants to put another file in the character's place.
    anchor_wanted
        The user wants an anchor on the selected joint.
    """

    replacement_wanted = Signal()
    anchor_wanted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._boxes: dict[str, QWidget] = {}
        for kind, build in (
            ("", self._build_character),
            ("clip", self._build_clip),
            ("part", self._build_part),
            ("anchor", self._build_anchor),
            ("joint", self._build_joint),
            ("mask", self._build_mask),
        ):
            box = QWidget()
            box.setObjectName("panel")
            column = QVBoxLayout(box)
            column.setContentsMargins(0, 0, 0, 0)
            column.setSpacing(4)
            build(column)
            self._boxes[kind] = box
            self.body.addWidget(box)
        self._findings = soft("")
        self._findings.setObjectName("warning")
        self.body.addWidget(self._findings)
        self.matching = MatchingList(session)
        self.body.addWidget(self.matching)
        self.body.addStretch(1)
        session.changed.connect(self.refresh)
        session.loaded.connect(self.refresh)
        session.selected.connect(lambda _kind, _what: self.refresh())
        self.refresh()

    def _build_character(self, column: QVBoxLayout) -> None:
        self._name = TextField("Name of the character")
        self._name.edited.connect(lambda v: self._use_edit("Rename character", True, name=v))
        self._scale = NumberField("×", low=0.001, high=1000, step=0.01, name="Scale")
        self._scale.edited.connect(lambda v, f: self._use_edit("Scale", f, scale=v))
        self._height = NumberField("m", low=-1000, high=1000, step=0.01, name="Raised above the ground by")
        self._height.edited.connect(lambda v, f: self._use_edit("Height", f, height=v))
        column.addWidget(labelled("name", self._name))
        column.addWidget(labelled("scale", self._scale))
        column.addWidget(labelled("height", self._height))
        self._facts = soft("")
        column.addWidget(self._facts)
        self.replace_button = Button(icon("arrows-clockwise"), "Replace the file ...")
        self.replace_button.setToolTip("Put a newer file in its place; anchors, events and effects stay")
        self.replace_button.clicked.connect(self.replacement_wanted)
        self.remove_button = Button(icon("trash"), "Remove from the project")
        self.remove_button.clicked.connect(self._remove_character)
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addWidget(self.replace_button)
        row.addWidget(self.remove_button)
        row.addStretch(1)
        column.addLayout(row)
        column.addWidget(heading("Stage"))
        self._order = soft("")
        column.addWidget(self._order)
        self._fade = NumberField("s", low=0, high=5, step=0.01, name="Clips blend over this time")
        self._fade.edited.connect(lambda v, f: self._stage_edit("Fade", f, fade=v))
        self._rest = NumberField("s", low=0, high=60, step=0.05, name="Pause after a clip that does not loop")
        self._rest.edited.connect(lambda v, f: self._stage_edit("Rest", f, rest=v))
        self._ground = ChoiceField(
            (
                ("wet slate", "slate"),
                ("moss", "moss"),
                ("puddles", "puddle"),
                ("plain, with a grid", "plain"),
            ),
            name="Ground",
        )
        self._ground.chosen.connect(lambda v: self._stage_edit("Ground", True, ground=v))
        column.addWidget(labelled("clips blend over", self._fade))
        column.addWidget(labelled("rest at the end", self._rest))
        column.addWidget(labelled("ground", self._ground))
        self.dissolve = DissolveEditor()
        self.dissolve.edited.connect(lambda words, value, final: self._use_edit(words, final, dissolve=value))
        section = Section("Dissolve")
        section.body.addWidget(self.dissolve)
        column.addWidget(section)

    def _build_clip(self, column: QVBoxLayout) -> None:
        self._clip_facts = soft("")
        column.addWidget(self._clip_facts)
        self._loop = Check("loops")
        self._loop.clicked.connect(lambda on: self._clip_edit("Loop", loop=on))
        self._in_place = {axis: Check(words) for axis, words in (("x", "x"), ("y", "y, up"), ("z", "z"))}
        for check in self._in_place.values():
            check.clicked.connect(self._in_place_clicked)
            check.setToolTip("Take the clip's own travel along this axis out")
        column.addWidget(self._loop)
        column.addWidget(labelled("in place along", *self._in_place.values()))
        column.addWidget(heading("Measured"))
        self._clip_measures = soft("")
        column.addWidget(self._clip_measures)
        self._only = Button(icon("play"), "Play only this clip")
        self._only.clicked.connect(self._play_only)
        self._append = Button(icon("plus"), "Add to the running order")
        self._append.clicked.connect(self._add_cue)
        column.addWidget(self._only)
        column.addWidget(self._append)
        self._clip_order = soft("")
        column.addWidget(self._clip_order)
        self.capture = CaptureEditor(self._session)
        column.addWidget(self.capture)

    def _build_part(self, column: QVBoxLayout) -> None:
        self._part_facts = soft("")
        self._part_shown = Check("shown in the picture")
        self._part_shown.clicked.connect(self._part_clicked)
        column.addWidget(self._part_facts)
        column.addWidget(self._part_shown)
        column.addWidget(soft("A hidden part still gives birth: posing and sampling do not depend on being drawn."))

    def _build_anchor(self, column: QVBoxLayout) -> None:
        self.anchor = AnchorSheet(self._session)
        column.addWidget(self.anchor)

    def _build_mask(self, column: QVBoxLayout) -> None:
        self.painting = MaskSheet(self._session)
        column.addWidget(self.painting)

    def _build_joint(self, column: QVBoxLayout) -> None:
        self._joint_facts = soft("")
        column.addWidget(self._joint_facts)
        column.addWidget(soft("The skin is coloured by how much of it the joint holds. Click joints in the picture."))
        self.anchor_button = Button(icon("anchor-simple"), "New anchor on it")
        self.anchor_button.clicked.connect(self.anchor_wanted)
        column.addWidget(self.anchor_button)

    # ---- showing --------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show what is selected."""
        character, use = self._session.character, self._session.project.character
        kind, what = self._session.selection
        if kind not in self._boxes:
            kind = ""
        for name, box in self._boxes.items():
            box.setVisible(name == kind and use is not None and (character is not None or not name))
        self._findings.setText(self._findings_words())
        self._findings.setVisible(bool(self._findings.text()))
        self.matching.refresh()
        if kind == "clip":
            self.capture.refresh()
        if use is None:
            self.title.setText("No character")
            self.say("Drop a .glb or .gltf file on the window: its parts, joints and clips appear on the left.")
            return
        self.say("" if character else "The character's file could not be read; the notes below say why.")
        self.title.setText(use.name if not kind else what)
        if not kind:
            self._show_character(character, use)
        elif character is not None:
            getattr(self, f"_show_{kind}")(character, use, what)

    def _findings_words(self) -> str:
        use = self._session.project.character
        if use is None:
            return "\n".join(f"Note: {f.place}: {f.message}." for f in self._session.reading_findings)
        about = (
            f
            for f in self._session.findings()
            if "character" in f.place or f.place == "running order" or f.about == use.id
        )
        return "\n".join(f"Note: {f.place}: {f.message}." for f in about)

    def _show_character(self, character: Character | None, use: CharacterUse) -> None:
        stage = self._session.project.stage
        self._name.set_value(use.name)
        self._scale.set_value(use.scale)
        self._height.set_value(use.height)
        self._fade.set_value(stage.fade)
        self._rest.set_value(stage.rest)
        self._ground.set_value(stage.ground)
        self.dissolve.show_dissolve(use.dissolve, character)
        self._order.setText("Plays: " + (self._order_words() or "the rest pose; choose a clip on the left"))
        if character is not None:
            triangles = counted(len(character.mesh.triangles), "triangle")
            parts, clips = counted(len(character.parts), "part"), counted(len(character.clips), "clip")
            joints = counted(len(character.skeleton.joint_names), "joint")
            self._facts.setText(f"{triangles} in {parts}, {joints}, {clips}, from {use.file.rsplit('/', 1)[-1]}")

    def _order_words(self) -> str:
        cues = self._session.project.stage.order
        return ", ".join(cue.clip + (f" × {cue.times}" if cue.times > 1 else "") for cue in cues)

    def _show_clip(self, character: Character, use: CharacterUse, name: str) -> None:
        clip, how = character.clip(name), use.clip(name)
        seconds = clip.seconds if clip else 0.0
        marks = len(how.marks)
        self._clip_facts.setText(f"{seconds:.2f} s, {marks} {'mark' if marks == 1 else 'marks'} on it")
        self._loop.setChecked(how.loop)
        for axis, check in self._in_place.items():
            check.setChecked(axis in how.in_place)
        if clip is not None:
            self._show_measures(character, use, clip)
        self._clip_order.setText(f"The running order is: {self._order_words() or 'empty'}")

    def _show_measures(self, character: Character, use: CharacterUse, clip: Clip) -> None:
        """Say how the clip travels and stands, and what is odd about it."""
        facts = measure_clip(character, clip)
        x, y, z = (metres * use.scale for metres in facts.travel)
        words = [f"travels {x:+.2f} m across, {y:+.2f} m up, {z:+.2f} m ahead"]
        words.append(f"loop closes within {facts.seam * use.scale * 100:.1f} cm ({facts.seam_joint})")
        for foot in facts.feet:
            spans = ", ".join(f"{a:.2f} to {b:.2f} s" for a, b in foot.contact)
            height = (foot.height * use.scale + use.height) * 100
            stands = f"stands {spans}, {height:+.1f} cm from the ground, slides {foot.slide * use.scale * 100:.1f} cm"
            words.append(f"{foot.joint} {stands if spans else 'never stands'}")
        self._clip_measures.setText("\n".join(words).replace("-0.0 cm", "0.0 cm").replace("-0.00 m", "0.00 m"))

    def _show_part(self, character: Character, use: CharacterUse, name: str) -> None:
        part = next((p for p in character.parts if p.name == name), None)
        if part is not None:
            material = character.materials[part.material].name
            self._part_facts.setText(f"{counted(part.triangle_count, 'triangle')}, material {material}")
        self._part_shown.setChecked(name not in use.hidden_parts)

    def _show_anchor(self, _character: Character, use: CharacterUse, what: str) -> None:
        anchor = next((a for a in use.anchors if a.id == what), None)
        self.title.setText(anchor.name if anchor else use.name)
        if anchor is not None:
            self.anchor.show_anchor(anchor)

    def _show_mask(self, _character: Character, use: CharacterUse, what: str) -> None:
        mask = next((m for m in use.masks if m.id == what), None)
        self.title.setText(mask.name if mask else use.name)
        if mask is not None:
            self.painting.show_mask(mask)

    def _show_joint(self, character: Character, use: CharacterUse, name: str) -> None:
        skeleton = character.skeleton
        node = skeleton.index.get(name)
        if node is None:
            return
        parent = int(skeleton.parents[node])
        above = skeleton.names[parent] if parent >= 0 else "nothing"
        entries = [p for p, n in enumerate(skeleton.palette_nodes) if n == node]
        mesh = character.mesh
        held = sum(float(mesh.weights[mesh.joints == p].sum()) for p in entries)
        anchors = [a.name for a in use.anchors if a.joint == name]
        words = f"child of {above}; carries the weight of about {held:.0f} vertices"
        words += f"; anchors: {', '.join(anchors)}" if anchors else "; no anchors yet"
        self._joint_facts.setText(words)

    # ---- doing ----------------------------------------------------------------------------------

    def _remove_character(self) -> None:
        use = self._session.project.character
        if use is not None:
            kept = tuple(u for u in self._session.project.characters if u.id != use.id)
            self._session.edit(f"Remove {use.name}", lambda p: put_on_stage(p.but(characters=kept), None))
            self._session.select("", "")

    def _finish(self, final: bool) -> None:
        if final:
            self._session.history.seal()

    def _use_edit(self, words: str, final: bool, **changes: object) -> None:
        self._session.edit(words, lambda p: with_character(p, lambda u: u.but(**changes)), merge=words)
        self._finish(final)

    def _stage_edit(self, words: str, final: bool, **changes: object) -> None:
        self._session.edit(words, lambda p: p.but(stage=p.stage.but(**changes)), merge=words)
        self._finish(final)

    def _clip_edit(self, words: str, **changes: object) -> None:
        name = self._session.selection[1]

        def change(project: Project) -> Project:
            use = project.character
            return put_clip(project, use.clip(name).but(**changes)) if use else project

        self._session.edit(words, change)

    def _in_place_clicked(self) -> None:
        axes = tuple(axis for axis, check in self._in_place.items() if check.isChecked())
        self._clip_edit("In place", in_place=axes)

    def _play_only(self) -> None:
        name = self._session.selection[1]
        self._session.edit(f"Play {name}", lambda p: play_only(p, name))

    def _add_cue(self) -> None:
        name = self._session.selection[1]

        def change(project: Project) -> Project:
            order = (*project.stage.order, Cue(clip=name))
            return project.but(stage=project.stage.but(order=order))

        self._session.edit(f"Add {name} to the order", change)

    def _part_clicked(self, shown: bool) -> None:
        name = self._session.selection[1]

        def change(use: CharacterUse) -> CharacterUse:
            hidden = set(use.hidden_parts) - {name} if shown else set(use.hidden_parts) | {name}
            return use.but(hidden_parts=tuple(sorted(hidden)))

        self._session.edit(f"Show or hide {name}", lambda p: with_character(p, change))
