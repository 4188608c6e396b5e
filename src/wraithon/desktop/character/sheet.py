"""The character's sheet: its own settings, or the selected clip, part, mask, anchor or joint."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from wraithon.desktop.character import dissolve_editor
from wraithon.desktop.character.anchor_editor import AnchorEditor
from wraithon.desktop.character.clip_editor import ClipEditor, order_text
from wraithon.desktop.character.mask_editor import MaskEditor, set_mask
from wraithon.desktop.character.matching_list import MatchingList
from wraithon.desktop.picture.anchor_gizmo import AnchorGizmo
from wraithon.desktop.picture.brush_tool import BrushTool
from wraithon.desktop.picture.picture_tools import JointTool, PictureTool
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, Section, counted, heading, soft
from wraithon.desktop.widgets.fields import Check
from wraithon.desktop.widgets.finding_list import FindingList
from wraithon.desktop.widgets.form import Choice, Form, Number, Row, Text, Tick
from wraithon.desktop.widgets.list_form import ListForm, Tupled
from wraithon.desktop.widgets.offers import grounds
from wraithon.desktop.widgets.panels import Sheet
from wraithon.project.character import CharacterUse, PaintedMask
from wraithon.project.dissolve import Dissolve
from wraithon.project.edit import with_character, with_on_stage
from wraithon.project.project import Project, Stage
from wraithon.stage.loading import seen_whole
from wraithon.stage.overlays import Overlay
from wraithon.stage.trial import TEST_BURST

if TYPE_CHECKING:
    from wraithon.character.model import Character
    from wraithon.desktop.character.index import CharacterIndex
    from wraithon.desktop.desk import Desk
    from wraithon.project.checks.finding import Finding


ROWS = (
    Row("name", Text("name"), width=92, undo="Rename character"),
    Row("scale", Number("scale"), width=92),
    Row("height", Number("height"), width=92),
)
STAGE_ROWS = (
    Row("clips blend over", Number("fade"), width=92, undo="Fade"),
    Row(
        "rest at the end",
        Number("rest"),
        width=92,
        undo="Rest",
    ),
    Row("ground", Choice("ground", "Ground", choices=grounds), width=92),
)
PROJECT_ROWS = (
    Row("name", Text("name"), width=92, undo="Rename project"),
    Row("seed", Number("seed", "Seed of all randomness", step=1, decimals=0), width=92),
    Row("exposure", Number("exposure"), width=92),
    Row("lens", Number("view.fov"), width=92),
)

VIEWS = Tupled(
    "views",
    lambda _anchor: (
        Row("name", Text("name", "Name of the view"), width=92, undo="Rename view"),
        Row(
            "distance",
            Number("view.distance"),
            Tick("view.follow", "Follows the character, as a game's camera does", text="follows"),
            width=92,
            undo="View",
        ),
        Row(
            "lens",
            Number("view.fov"),
            width=92,
            undo="View",
        ),
    ),
    lambda view: view.name,
)
"""How kept views are listed."""


class CharacterSheet(Sheet):
    """The character's own settings, or what is selected of it."""

    def __init__(self, desk: Desk, index: CharacterIndex) -> None:
        super().__init__()
        self._desk, self._index = desk, index
        session = self._session = desk.session
        self._joint_tool, self._anchor_gizmo, self._brush_tool = JointTool(), AnchorGizmo(), BrushTool()
        self._boxes: dict[str, QWidget] = {}
        self._shows = {
            "clip": self._show_clip,
            "part": self._show_part,
            "anchor": self._show_anchor,
            "joint": self._show_joint,
            "mask": self._show_mask,
        }
        for kind, build in (
            ("", self._build_character),
            ("clip", self._build_clip),
            ("part", self._build_part),
            ("anchor", self._build_anchor),
            ("joint", self._build_joint),
            ("mask", self._build_mask),
        ):
            self._boxes[kind], column = self.box()
            build(column)
        self.findings = FindingList(session, positions=True)
        self.findings.mended.connect(self._refresh_look)
        self.body.insertWidget(1, self.findings)  # what is wrong comes before what may be set
        self.matching = MatchingList(session)
        self.body.addWidget(self.matching)
        self.body.addStretch(1)
        self._connect_tools()
        self.listen_to(session)

    def _build_character(self, column: QVBoxLayout) -> None:
        self.form = Form(self._session, "character", "", CharacterUse, ROWS)
        column.addWidget(self.form)
        self._facts = soft("")
        column.addWidget(self._facts)
        self.replace_button = Button(icon("arrows-clockwise"), "Replace the file ...")
        self.replace_button.setToolTip("Put a newer file in its place; anchors, events and effects stay")
        self.replace_button.clicked.connect(self._desk.keeper.bringing.choose_replacement)
        self.remove_button = Button(icon("trash"), "Remove from the project")
        self.remove_button.clicked.connect(self._remove_character)
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addWidget(self.replace_button)
        row.addWidget(self.remove_button)
        row.addStretch(1)
        column.addLayout(row)
        column.addWidget(heading("Project"))
        self.project = Form(self._session, "project", "", Project, PROJECT_ROWS)
        column.addWidget(self.project)
        column.addWidget(heading("Views"))
        self.views = ListForm(self._session, "project", VIEWS.entries, VIEWS.without, 6)
        column.addWidget(self.views)
        keep = Button(icon("camera"), "Store this view")
        keep.setToolTip("Store this view with its lens (Alt+K); Alt+5 to 9 look from there again")
        keep.clicked.connect(self._desk.keep_view)
        column.addWidget(keep, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(heading("Stage"))
        self._order = soft("")
        column.addWidget(self._order)
        self.stage = Form(self._session, "stage", "", Stage, STAGE_ROWS)
        column.addWidget(self.stage)
        section = Section("Dissolve")
        self.dissolve = Form(self._session, "character", "dissolve", Dissolve, dissolve_editor.ROWS)
        section.body.addWidget(self.dissolve)
        section.body.addWidget(
            soft("Layers emitted from the character can keep to its border: “Only where ...”, “on the border”.")
        )
        column.addWidget(section)

    def _build_clip(self, column: QVBoxLayout) -> None:
        self.clip = ClipEditor(self._session)
        column.addWidget(self.clip)

    def _build_part(self, column: QVBoxLayout) -> None:
        self._part_facts = soft("")
        self.part_shown = Check("shown in the picture")
        self.part_shown.edited.connect(self._part_clicked)
        column.addWidget(self._part_facts)
        column.addWidget(self.part_shown)
        column.addWidget(soft("A hidden part still emits: posing and sampling do not depend on being drawn."))

    def _build_anchor(self, column: QVBoxLayout) -> None:
        self.anchor = AnchorEditor(self._session)
        self.anchor.tried.connect(self._try_anchor)
        column.addWidget(self.anchor)

    def _build_mask(self, column: QVBoxLayout) -> None:
        self.painting = MaskEditor(self._session)
        column.addWidget(self.painting)

    def _build_joint(self, column: QVBoxLayout) -> None:
        self._joint_facts = soft("")
        column.addWidget(self._joint_facts)
        column.addWidget(soft("The skin is coloured by the joint's weight. Click joints in the picture."))
        self.anchor_button = Button(icon("anchor-simple"), "New anchor on it")
        self.anchor_button.clicked.connect(self._index.add_anchor)
        column.addWidget(self.anchor_button)

    # ---- in the picture -------------------------------------------------------------------------

    def _connect_tools(self) -> None:
        self._anchor_gizmo.changed.connect(self.anchor.apply)
        self._brush_tool.painted.connect(self._painted)
        self._joint_tool.picked.connect(self._joint_picked)
        self.painting.brush.connect(self._brush_tool.set_brush)

    @property
    def hands(self) -> list[PictureTool]:
        """The anchor's handles, the brush and the joints, each while it has something to hold."""
        return [self._anchor_gizmo, self._brush_tool, self._joint_tool]

    def overlay(self) -> Overlay:
        """Return the weights of a selected joint, or a selected mask; the hands take what is selected."""
        kind, what = self._session.selection
        character, use = self._session.character, self._session.project.character
        self._anchor_gizmo.anchor = self._session.project.anchor(what) if kind == "anchor" else None
        self._anchor_gizmo.scale = use.scale if use else 1.0
        self._brush_tool.character = self._joint_tool.character = character
        self._brush_tool.hidden = frozenset(use.hidden_parts) if use else frozenset()
        masks = use.masks if use and kind == "mask" else ()
        self._brush_tool.mask = next((mask for mask in masks if mask.id == what), None)
        self._joint_tool.shown, self._joint_tool.chosen = kind == "joint", frozenset({what})
        return Overlay({"joint": "weights", "mask": "mask"}.get(kind, ""), what if kind in {"joint", "mask"} else "")

    def _painted(self, mask: PaintedMask, final: bool) -> None:
        set_mask(self._session, "Paint", mask, final=final, merge=f"paint {mask.id}")

    def _joint_picked(self, joint: str) -> None:
        self._session.select("joint", joint)

    def _try_anchor(self, anchor: str) -> None:
        self._desk.fire(TEST_BURST.id, anchor)

    # ---- showing --------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show what is selected."""
        character, use = self._session.character, self._session.project.character
        kind, what = self._session.selection
        if kind not in self._boxes:
            kind = ""
        for name, box in self._boxes.items():
            box.setVisible(name == kind and use is not None and (character is not None or not name))
        self.findings.show_findings(self._found())
        self.matching.refresh()
        if use is None:
            self.title.setText("No character")
            self.show_message(
                "Drop a .glb or .gltf file on the window: its parts, joints and clips appear on the left."
            )
            return
        self.show_message("" if character else "The character's file could not be read; the notes below say why.")
        self.title.setText(use.name if not kind else what)
        if not kind:
            self._show_character(character, use)
        elif character is not None:
            self._shows[kind](character, use, what)

    def _refresh_look(self) -> None:
        character, use = self._session.character, self._session.project.character
        if character is not None and use is not None:  # or it would be somewhere else than the camera looks
            self._desk.picture.set_view(seen_whole(self._desk.picture.view, character, use))

    def _found(self) -> tuple[Finding, ...]:
        use = self._session.project.character
        if use is None:
            return self._session.reading_findings
        return tuple(
            f
            for f in self._session.findings()
            if "character" in f.location or f.location == "running order" or f.about == use.id
        )

    def _show_character(self, character: Character | None, use: CharacterUse) -> None:
        self.form.show_model(use)
        self.stage.show_model(self._session.project.stage)
        self.project.show_model(self._session.project)
        self.views.show_model(self._session.project, "")
        self.dissolve.show_model(use.dissolve)
        self._order.setText(
            "Plays: " + (order_text(self._session.project) or "the rest pose; choose a clip on the left")
        )
        if character is not None:
            triangles = counted(len(character.mesh.triangles), "triangle")
            parts, clips = counted(len(character.parts), "part"), counted(len(character.clips), "clip")
            joints = counted(len(character.skeleton.joint_names), "joint")
            self._facts.setText(f"{triangles} in {parts}, {joints}, {clips}, from {use.file.rsplit('/', 1)[-1]}")

    def _show_clip(self, character: Character, use: CharacterUse, name: str) -> None:
        self.clip.show_clip(character, use, name)

    def _show_part(self, character: Character, use: CharacterUse, name: str) -> None:
        part = next((p for p in character.parts if p.name == name), None)
        if part is not None:
            material = character.materials[part.material].name
            self._part_facts.setText(f"{counted(part.triangle_count, 'triangle')}, material {material}")
        self.part_shown.setChecked(name not in use.hidden_parts)

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
        weight = sum(float(mesh.weights[mesh.joints == p].sum()) for p in entries)
        anchors = [a.name for a in use.anchors if a.joint == name]
        text = f"child of {above}; carries the weight of about {weight:.0f} vertices"
        text += f"; anchors: {', '.join(anchors)}" if anchors else "; no anchors yet"
        self._joint_facts.setText(text)

    # ---- doing ----------------------------------------------------------------------------------

    def _remove_character(self) -> None:
        use = self._session.project.character
        if use is not None:
            others = tuple(u for u in self._session.project.characters if u.id != use.id)
            self._session.edit(f"Remove {use.name}", lambda p: with_on_stage(p.evolve(characters=others), None))
            self._session.select("", "")

    def _part_clicked(self, shown: bool, _final: bool) -> None:
        name = self._session.selection[1]

        def change(use: CharacterUse) -> CharacterUse:
            hidden = set(use.hidden_parts) - {name} if shown else set(use.hidden_parts) | {name}
            return use.evolve(hidden_parts=tuple(sorted(hidden)))

        self._session.edit(f"Show or hide {name}", lambda p: with_character(p, change))
