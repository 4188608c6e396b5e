"""The effects' sheet: the selected effect or layer, in full."""

from __future__ import annotations

from itertools import islice
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from wraithon.desktop.character.mask_editor import new_mask
from wraithon.desktop.effects.emission_editor import EmissionEditor
from wraithon.desktop.effects.life_table import LifeTable
from wraithon.desktop.effects.look_editor import LookEditor
from wraithon.desktop.effects.motion_editor import MotionEditor
from wraithon.desktop.effects.source_editor import SourceEditor, anchored
from wraithon.desktop.effects.whole.bounds_view import BoundsView
from wraithon.desktop.effects.whole.cost_view import CostView
from wraithon.desktop.effects.whole.dials_editor import DialsEditor
from wraithon.desktop.effects.whole.mixer import LayerMixer
from wraithon.desktop.effects.whole.preset_view import PresetView
from wraithon.desktop.effects.whole.quality_editor import QualityEditor
from wraithon.desktop.picture.anchor_gizmo import SourceGizmo
from wraithon.desktop.picture.box_gizmo import BoxGizmo
from wraithon.desktop.picture.force_gizmo import CapsuleGizmo, ForceGizmo
from wraithon.desktop.picture.picture_tools import JointTool, PictureTool
from wraithon.desktop.theme.theme import icon
from wraithon.desktop.widgets.basics import Button, Section, soft
from wraithon.desktop.widgets.finding_list import FindingList
from wraithon.desktop.widgets.form import Form, Number, Row, Switch, Text, Tick
from wraithon.desktop.widgets.master_rows import master_rows
from wraithon.desktop.widgets.panels import Sheet
from wraithon.project.binding import Masters
from wraithon.project.edit import with_effect
from wraithon.project.effect import Effect, Layer
from wraithon.project.resolving.following import preset_of
from wraithon.project.resolving.mastering import mastered
from wraithon.stage.overlays import Overlay
from wraithon.studio.crowd import MANY
from wraithon.studio.thumbnails import with_parents

if TYPE_CHECKING:
    from collections.abc import Iterator

    import numpy as np
    from numpy.typing import NDArray

    from wraithon.desktop.desk import Desk
    from wraithon.desktop.engine.rendered_frame import RenderedFrame
    from wraithon.project.source import Source
    from wraithon.studio.cost import Cost
    from wraithon.studio.survey import Survey


PICTURED = "layer "
"""What keys of layers' pictures begin with."""
ROWS = (
    Row("name", Text("name"), width=92, undo="Rename effect"),
    Row(
        "duration",
        Number("length"),
        Switch("length", text="endless", on=1.0, inverted=True),
        width=92,
        undo="Effect length",
    ),
    Row(
        "",
        Tick(
            "loop", text="loop",
            undo="Effect loop", shows=lambda effect: getattr(effect, "length", None) is not None,
        ),
        Number("warm_up", lead="warm-up", undo="Effect warm-up"),
        width=92,
    ),
)  # fmt: skip


MAX_AHEAD = 64
"""Layers that are looked at for what to make ahead: others need little else."""


class EffectsSheet(Sheet):
    """The selected effect or layer, in full."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk, self._density, self._picking, self._placing = desk, False, False, False
        session = self._session = desk.session
        self._joint_tool = JointTool()
        self._joint_tool.picked.connect(self._joint_picked)
        self._force_gizmo, self._capsule_gizmo, self._source_gizmo = ForceGizmo(), CapsuleGizmo(), SourceGizmo()
        self._source_gizmo.changed.connect(self._source_moved)
        self._box_gizmo = BoxGizmo()
        self.emission, self.source = EmissionEditor(session), SourceEditor(session)
        self.motion, self.look, self.life = MotionEditor(session), LookEditor(session), LifeTable(session)
        self._followed = ""
        self._surveying: Effect | None = None
        """What is being surveyed, or was last."""
        self._pictured: dict[str, Effect] = {}
        """What was pictured of each layer last."""
        self._build_effect()
        self._build_layer()
        self._build_both()
        self.body.addStretch(1)
        self.source.density_wanted.connect(self._show_density)
        self.source.placing.connect(self._place_source)
        self.source.table.picking.connect(self._pick_joints)
        self.source.filters.masks_wanted.connect(self._mask_wanted)
        application = QApplication.instance()
        if isinstance(application, QApplication):
            application.focusChanged.connect(self._focus_moved)
        session.wished.connect(self._changed)
        self.listen_to(session)

    def _build_effect(self) -> None:
        session = self._session
        self._effect_box, column = self.box()
        self.form = Form(session, "effect", "", Effect, ROWS)
        self.mixer, self.dials = LayerMixer(), DialsEditor(session)
        self.mixer.picked.connect(lambda layer: session.select("layer", layer))
        self._desk.engine.pictured.connect(self._take_picture, Qt.ConnectionType.QueuedConnection)
        self.masters = Form(session, "effect", "", Effect, master_rows("of the whole effect"))
        self._settle = Button(icon("arrows-in-line-vertical"), "Apply to layers")
        self._settle.setToolTip("Writes the master values into the layers and resets them to 1")
        self._settle.clicked.connect(self.settle_masters)
        self.again = Button(icon("dice-five"), "New seed")
        self.again.setToolTip("Draws new random values for everything in the effect")
        self.again.clicked.connect(self.roll_again)
        whole, dials = Section("Whole effect"), Section("Dials")
        for part in (self.masters, self._settle, self.again):
            whole.body.addWidget(part)
        dials.body.addWidget(self.dials)
        self.quality, levels = QualityEditor(session), Section("Quality levels")
        levels.body.addWidget(self.quality)
        self.bounds, reach = BoundsView(session), Section("Bounds")
        self.bounds.shown.connect(lambda _on: self._desk.refresh_tools())
        reach.body.addWidget(self.bounds)
        self._desk.engine.surveyed.connect(self._surveyed, Qt.ConnectionType.QueuedConnection)
        self.effect_findings = FindingList(session)
        self._users, self._layers_hint = soft(""), soft("")
        for widget in (
            self.effect_findings, self.form, self.mixer, self._layers_hint, whole, dials, levels, reach, self._users,
        ):  # fmt: skip
            column.addWidget(widget)

    def _build_both(self) -> None:
        """Build what there is of a layer as well as of an effect."""
        self.preset, self.cost = PresetView(self._session), CostView(self._session)
        self.cost.wanted.connect(self._measure)
        self.cost.crowded.connect(lambda on: self._desk.engine.send(crowd=MANY if on else 0, redraw=True))
        self._desk.engine.measured.connect(self._measured, Qt.ConnectionType.QueuedConnection)
        self._preset_section, self._cost_section = Section("Preset"), Section("Cost")
        for section, view in ((self._preset_section, self.preset), (self._cost_section, self.cost)):
            section.body.addWidget(view)
            self.body.addWidget(section)

    def _build_layer(self) -> None:
        self._layer_box, column = self.box(2)
        self.findings = FindingList(self._session)
        column.addWidget(self.findings)
        for title, editor in (
            ("Life", self.life),
            ("Emission", self.emission),
            ("Source", self.source),
            ("Look", self.look),
            ("Motion", self.motion),
        ):
            section = Section(title)
            section.body.addWidget(editor)
            column.addWidget(section)

    def _measure(self) -> None:
        self._desk.measure_cost()

    def _measured(self, cost: Cost) -> None:
        self.cost.take(cost)
        self.mixer.show_cost(self.cost.parts)
        self.refresh()

    def _surveyed(self, survey: Survey) -> None:
        self._session.take_survey(survey)
        if self._session.selection == ("effect", survey.effect.id):
            self.refresh()
            self._desk.refresh_tools()

    def ahead(self) -> Iterator[object]:
        """Make the forms that the project's layers need."""
        layers = (layer for effect in self._session.project.effects for layer in effect.layers)
        for layer in islice(layers, MAX_AHEAD):
            yield from self.source.forms.ahead(layer.source.kind)
            yield from self.look.forms.ahead(layer.look.kind)
            yield from self.motion.forces.ahead(layer)
            yield from self.emission.bursts.ahead(layer)

    # ---- showing --------------------------------------------------------------------------------

    def follow(self, kind: str, what: str) -> None:
        """Show what is selected, from the top where it is of another kind."""
        if kind != self._followed:
            self._followed = kind
            self.to_top()
        super().follow(kind, what)

    def refresh(self) -> None:
        """Show what is selected."""
        kind, what = self._session.selection
        project = self._session.project
        found = project.layer(what) if kind == "layer" else None
        effect = project.effect(what) if kind == "effect" else None
        self._layer_box.setVisible(found is not None)
        self._effect_box.setVisible(effect is not None)
        for section in (self._preset_section, self._cost_section):
            section.setVisible(found is not None or effect is not None)
        if found is not None:
            self._show_layer(*found)
        elif effect is not None:
            self._show_effect(effect)
        else:
            self.title.setText("Nothing selected")
            self.show_message("Choose an effect or one of its layers on the left; its settings appear here.")
        self.show_strip()

    def _show_layer(self, effect: Effect, layer: Layer) -> None:
        project = self._session.project
        self.title.setText(f"{layer.name}  ·  {effect.name}")
        silent = layer.id in self._session.overrides.silent(effect)
        text = ["Muted for now: this layer is neither emitted nor drawn (M)."] if silent else []
        text += ["Disabled: this layer is neither emitted nor drawn (Shift+M enables it)."] if layer.disabled else []
        if self._session.also:
            many = len(self._session.chosen)
            text.insert(0, f"{many} layers are selected; what is set here reaches all that have it.")
        self.show_message("\n".join(text))
        preset = preset_of(project, layer)
        self.life.show_layer(layer, preset[1] if preset else None)
        self.emission.show_layer(layer, effect.length)
        self.source.show_layer(layer)
        self.motion.show_layer(layer)
        self.look.show_layer(layer)
        self.cost.show_layer(layer)
        self.preset.show_layer(layer)
        self.findings.show_findings(f for f in self._session.findings() if f.about == layer.id)

    def _show_effect(self, effect: Effect) -> None:
        self.title.setText(effect.name)
        self.show_message("")
        self.form.show_model(effect, effect.id)
        self.masters.show_model(effect, effect.id)
        self.effect_findings.show_findings(f for f in self._session.findings() if f.about == effect.id)
        self._settle.setEnabled(not effect.masters.neutral)
        self.mixer.show_effect(effect, self._session.overrides.silent(effect), self._session.project.budget)
        self.cost.show_effect(effect)
        self._ask_pictures(effect)
        survey = self._session.survey_of(effect)
        if survey is None and self._surveying is not effect:
            self._surveying = effect
            self._desk.engine.send(survey=effect)
        self.bounds.show_effect(effect, survey)
        self.preset.show_effect(effect)
        self.dials.show_effect(effect)
        self.quality.show_effect(effect)
        triggers = [t.name for t in self._session.project.triggers if any(s.effect == effect.id for s in t.starts)]
        users = ", ".join(triggers)
        self._users.setText(
            f"Fired by: {users}" if users else "No trigger fires it yet: make one in Triggers, or press Fire now."
        )
        self._layers_hint.setText("It has no layers yet: press the second button above the list to add one.")
        self._layers_hint.setVisible(not effect.layers)

    def _ask_pictures(self, effect: Effect) -> None:
        """Ask for pictures of the layers alone that look otherwise than when they were pictured last."""
        wanted = {}
        for layer in effect.layers:
            alone = effect.evolve(layers=with_parents(effect, layer), bindings=())
            if self._pictured.get(layer.id) != alone:
                wanted[f"{PICTURED}{layer.id}"] = self._pictured[layer.id] = alone
        if wanted:
            self._desk.engine.send(pictures=wanted)

    def _take_picture(self, key: str, pixels: NDArray[np.uint8]) -> None:
        if key.startswith(PICTURED):
            self.mixer.show_picture(key.removeprefix(PICTURED), pixels)

    def settle_masters(self) -> None:
        """Put the master values of the selected effect into its layers."""
        effect = self._session.project.effect(self._session.selection[1])
        if effect is not None:
            settled = mastered(effect, effect.masters).evolve(masters=Masters())
            self._session.edit("Master values into the layers", lambda p: with_effect(p, settled))

    def roll_again(self) -> None:
        """Give the selected effect a new seed."""
        kind, what = self._session.selection
        effect = self._session.project.effect(what) if kind == "effect" else None
        if effect is not None:
            self._session.set_value(kind, what, "roll", effect.roll + 1, "New seed")

    # ---- in the picture -------------------------------------------------------------------------

    @property
    def hands(self) -> list[PictureTool]:
        """The joints, while some are picked for the joint table; and what is being edited of what moves particles."""
        return [self._joint_tool, self._source_gizmo, self._capsule_gizmo, self._force_gizmo, self._box_gizmo]

    def overlay(self) -> Overlay:
        """Return how dense births are, while that is asked for; joints are shown while some are picked."""
        kind, what = self._session.selection
        project = self._session.project
        found = project.layer(what) if kind == "layer" else None
        self._joint_tool.character = self._session.character
        self._joint_tool.shown = found is not None and self._picking
        self._capsule_gizmo.character = self._session.character
        self._capsule_gizmo.shown = found is not None and self.motion.edits_body(QApplication.focusWidget())
        self._force_gizmo.force = self.motion.force_of(QApplication.focusWidget()) if found else None
        position = self._desk.auditioning.position(found[0].id) if found else None
        self._force_gizmo.anchor = self._source_gizmo.anchor = position
        moves = found is not None and self._placing and anchored(found[1].source)
        self._source_gizmo.source = found[1].source if found and moves else None
        self._source_gizmo.scale = found[0].masters.size if found else 1.0
        self._show_box(project.effect(what) if kind == "effect" else None)
        table = getattr(found[1].source, "table", ()) if found else ()
        self._joint_tool.chosen = frozenset(row.joint for row in table)
        return Overlay("density", what) if found is not None and self._density else Overlay()

    def _show_box(self, effect: Effect | None) -> None:
        """Draw an effect's bounds, while that is asked for."""
        hand, survey = self._box_gizmo, self.bounds.survey
        hand.measured = hand.fixed = None
        if effect is not None and self.bounds.box.isChecked():
            hand.anchor = self._desk.auditioning.position(effect.id)
            hand.fixed = effect.bounds.with_margin if effect.bounds is not None else None
            if survey is not None and survey.effect is effect and survey.low is not None and survey.high is not None:
                hand.measured = survey.low, survey.high

    def _focus_moved(self) -> None:
        focused = QApplication.focusWidget()
        edits_body = self.motion.edits_body(focused)
        if self.motion.force_of(focused) is not self._force_gizmo.force or edits_body != self._capsule_gizmo.shown:
            self._desk.refresh_tools()

    def show_rendered(self, rendered: RenderedFrame) -> None:
        """Take over the test births that were counted."""
        self.source.show_births(rendered.births)
        self.mixer.show_living(rendered.living)

    def _show_density(self, on: bool) -> None:
        self._density = on
        self._desk.refresh_tools()

    def _place_source(self, on: bool) -> None:
        self._placing = on
        self._desk.refresh_tools()

    def _source_moved(self, source: Source, final: bool) -> None:
        """Take where the layer is born as it was moved or turned in the picture."""
        kind, what = self._session.selection
        found = self._session.project.layer(what)
        if kind == "layer" and found is not None:
            part = "turn" if source.turn != found[1].source.turn else "offset"
            self._session.set_value(kind, what, f"source.{part}", getattr(source, part), "Move layer", final=final)

    def _pick_joints(self, on: bool) -> None:
        self._picking = on
        self._desk.refresh_tools()

    def _joint_picked(self, joint: str) -> None:
        self.source.table.toggle(joint)

    def _mask_wanted(self) -> None:
        """Go and paint the mask that a filter asked for."""
        self._desk.station("character")
        new_mask(self._session)
        self._session.said.emit("Paint where births may fall, then choose the mask in the layer's filter", "fine")
