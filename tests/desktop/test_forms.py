"""Every field of every form: it shows what holds, edits that and nothing else, keeps the model's bounds, undoes."""

from dataclasses import dataclass, replace
from typing import Any

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QFocusEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from wraithon.desktop.character import anchor_editor, capture_editor, clip_editor, dissolve_editor, mask_editor
from wraithon.desktop.character import sheet as character
from wraithon.desktop.effects import emission_editor, joint_table, motion_editor, source_editor, source_filters
from wraithon.desktop.effects import sheet as effects
from wraithon.desktop.effects.looks import rows_of
from wraithon.desktop.rehearse import sheet as rehearse
from wraithon.desktop.session.session import Session
from wraithon.desktop.triggers import action_rows
from wraithon.desktop.triggers import rows as triggers
from wraithon.desktop.triggers import sheet as trigger_sheet
from wraithon.desktop.widgets.basics import Button, shown
from wraithon.desktop.widgets.curve_editor import CurveEditor
from wraithon.desktop.widgets.fields import Check, ChoiceField, NumberField, TextField, Ticks
from wraithon.desktop.widgets.form import Form, Number, Switch
from wraithon.desktop.widgets.list_form import ListForm, Tupled
from wraithon.desktop.widgets.model_ticks import ModelTicks
from wraithon.project import motion
from wraithon.project.binding import Dial
from wraithon.project.character import Anchor, CaptureUse, CharacterUse, ClipUse, Event, Mark, PaintedMask
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.look import LOOKS
from wraithon.project.motion import Drag, Gravity, Motion, Wind
from wraithon.project.paths import bounds_at, value_at, with_value_at
from wraithon.project.project import ClipRun, Project, Stage
from wraithon.project.source import JointRow, PointSource, RingSource, SkinSource, Spacing, SphereSource
from wraithon.project.staging.actions import (
    DialCurve,
    EffectAction,
    OnGroundKind,
    Scaling,
    Shake,
    StartEffect,
    WaitFor,
)
from wraithon.project.staging.driving import Signal
from wraithon.project.staging.ground import Block, OwnGround
from wraithon.project.staging.trigger_kinds import TRIGGER_MODELS, AtStart, OnEvent
from wraithon.project.things import find, with_thing
from wraithon.project.trigger import Often, Only, Trigger

KEYS = Qt.Key
GROUND = OwnGround(id="own", picture="glow.png")
SOURCES = {"point": PointSource(), "sphere": SphereSource(), "ring": RingSource(), "skin": SkinSource()}
FORCES = tuple(kind() for kind in motion.FORCES)


@dataclass(frozen=True)
class Case:
    """One form: which model it shows, where that is, and its table."""

    name: str
    thing: str
    what: str
    base: str
    rows: Any
    layer: Layer | None = None
    trigger: Trigger | None = None


def _trigger_cases():
    limits = Often(times=3, alive=2, cool_down=0.5)
    asked = Trigger(id="trigger", only=Only(signal="speed", fastest=4.0), often=limits, response=(Shake(),))
    for table in (triggers.ONLY_ROWS, triggers.OFTEN_ROWS, triggers.STRENGTH_ROWS):
        yield Case(table[0].fields[0].path, "trigger", "trigger", "", table, trigger=asked)
    for kind, model in TRIGGER_MODELS.items():
        when = Trigger(id="trigger", when=model(event="event") if kind == "event" else model())
        yield Case(f"when {kind}", "trigger", "trigger", "when", triggers.WHEN_ROWS[kind], trigger=when)
    for text, make in action_rows.ACTION_KINDS:
        step = make(effect="effect") if issubclass(make, EffectAction) else make()
        for each in (step, *([WaitFor(signal="speed")] if isinstance(step, WaitFor) else ())):
            does = Trigger(id="trigger", response=(each,))
            yield Case(
                f"action {text}", "trigger", "trigger", "response.0", action_rows.ACTIONS._rows(each), trigger=does
            )
    scaled = StartEffect(
        effect="effect", scalings=(Scaling(),), turns=(DialCurve(dial="heat"),), grounds=(OnGroundKind(),)
    )
    own = [row for row in action_rows.ACTIONS._rows(scaled) if row.fields[0].path.count(".") == 2]
    yield Case("step by strength", "trigger", "trigger", "response.0", own,
               trigger=Trigger(id="trigger", response=(scaled,)))  # fmt: skip
    yield Case("roles", "character", "", "driving", rehearse.ROLE_ROWS)
    yield Case("handling", "character", "", "driving", rehearse.HANDLING_ROWS)
    yield Case("ground", "stage", "", "", rehearse.STAGE_ROWS)
    yield Case("block", "block", "piece", "", rehearse.BLOCK_ROWS)
    yield Case("own ground", "stage", "", "grounds.0", rehearse.OWN_GROUNDS._rows(None))
    yield Case("signal", "project", "", "signals.0", rehearse.SIGNALS._rows(None))


def _cases():
    yield Case("character", "character", "", "", character.ROWS)
    yield Case("stage", "stage", "", "", character.STAGE_ROWS)
    yield Case("project", "project", "", "", character.PROJECT_ROWS)
    yield Case("dissolve", "character", "", "dissolve", dissolve_editor.ROWS)
    yield Case("clip", "clip", "walk", "", clip_editor.ROWS)
    yield Case("clip's mark", "clip", "walk", "marks.0", clip_editor.MARKS._rows(None))
    yield Case("anchor", "anchor", "anchor", "", anchor_editor.ROWS)
    yield Case("capture", "capture", "capture", "", capture_editor.ROWS)
    yield Case("mask", "mask", "mask", "", mask_editor.ROWS)
    yield Case("effect", "effect", "effect", "", effects.ROWS)
    yield Case("event", "event", "event", "", trigger_sheet.EVENT_ROWS)
    yield Case("mark", "mark", "mark", "", trigger_sheet.MARK_ROWS)
    yield Case("trigger", "trigger", "trigger", "", trigger_sheet.ROWS)
    yield from _trigger_cases()
    yield Case("emission", "layer", "layer", "emission", emission_editor.ROWS)
    lasting = Layer(id="layer", emission=Emission(start=0.5, length=2.0))
    yield Case("emission lasting", "layer", "layer", "emission", emission_editor.ROWS, lasting)
    swelling = Layer(id="layer", emission=Emission(length=2.0, curve=emission_editor.SWELLS))
    yield Case("emission swelling", "layer", "layer", "emission", emission_editor.ROWS, swelling)
    bursts = Layer(id="layer", emission=Emission(bursts=(Burst(), Burst(count=3, repeats=3, interval=0.2))))
    for number in range(2):
        yield Case(
            f"burst {number}", "layer", "layer", f"emission.bursts.{number}", emission_editor.BURST_ROWS, bursts
        )
    for number, force in enumerate(FORCES):
        forced = Layer(id="layer", motion=Motion(forces=FORCES))
        rows = motion_editor.LISTED._rows(force)
        yield Case(f"force {force.kind}", "layer", "layer", f"motion.forces.{number}", rows, forced)
    late = Layer(id="layer", motion=Motion(forces=(Drag(curve=motion_editor.SETS_IN),)))
    yield Case("force with a course", "layer", "layer", "motion.forces.0", motion_editor.FELT, late)
    for contact in ("pass", "bounce", "slide", "stick", "die"):
        layer = Layer(id="layer")
        layer = with_value_at(layer, "motion.ground.contact", contact)
        yield Case(f"ground {contact}", "layer", "layer", "motion.ground", motion_editor.GROUND_ROWS, layer)
    for kind, source in SOURCES.items():
        layer = Layer(id="layer", source=source)
        yield Case(f"source {kind}", "layer", "layer", "source", source_editor.ROWS[kind], layer)
    for spacing in Spacing:
        layer = Layer(id="layer", source=SkinSource(spacing=spacing, table=(JointRow(joint="hips"),)))
        yield Case(f"skin mode {spacing}", "layer", "layer", "source", source_editor.MODE_ROWS, layer)
        yield Case(f"skin {spacing}", "layer", "layer", "source", source_editor.SKIN_ROWS, layer)
        yield Case(f"parts {spacing}", "layer", "layer", "source", source_editor.PART_ROWS, layer)
        rows = joint_table.LISTED._rows(JointRow(joint="hips"))
        yield Case(f"joint row {spacing}", "layer", "layer", "source.table.0", rows, layer)
    for kind in source_filters.KINDS:
        if kind.rows:
            value = "mask" if kind.field == "painted" else kind.start(_NoSession())
            layer = Layer(id="layer", source=SkinSource(**{kind.field: value}))
            yield Case(f"filter {kind.field}", "layer", "layer", "source", kind.rows, layer)
    for kind, look in LOOKS.items():
        yield Case(f"look {kind}", "layer", "layer", "look", rows_of(kind), Layer(id="layer", look=look()))


class _NoSession:
    character = None


CASES = list(_cases())


def project_with(layer=None, trigger=None):
    use = CharacterUse(
        id="halcyon",
        name="someone",
        file="halcyon.glb",
        clips=(ClipUse(name="walk", marks=(Mark(id="mark", event="event", time=0.3),)),),
        anchors=(Anchor(id="anchor", name="tip"), Anchor(id="other", name="foot")),
        events=(Event(id="event", name="step"), Event(id="jump", name="jump")),
        captures=(CaptureUse(id="capture", file="a.bvh"),),
        masks=(PaintedMask(id="mask", name="one"), PaintedMask(id="two", name="two")),
    )
    layers = layer or Layer(id="layer"), Layer(id="another")
    effect = Effect(id="effect", name="fire", layers=layers, dials=(Dial(id="heat", name="heat"),))
    trigger = trigger or Trigger(
        id="trigger",
        when=OnEvent(event="event"),
        response=(StartEffect(effect="effect"), StartEffect()),
    )
    return Project(
        characters=(use,),
        effects=(effect, Effect(id="else", name="smoke")),
        triggers=(trigger,),
        stage=Stage(order=(ClipRun(clip="walk"),), pieces=(Block(id="piece"),), grounds=(GROUND,)),
        signals=(Signal(id="rage", name="rage"),),
    )


def model_of(case):
    thing = find(project_with(case.layer, case.trigger), case.thing, case.what)
    return value_at(thing, case.base) if case.base else thing


FIELDS = [
    pytest.param(case, field.of(type(model_of(case))), id=f"{case.name}: {field.path} {type(field).__name__}")
    for case in CASES
    for row in case.rows
    for field in row.fields
]


@pytest.fixture
def desk(demo, themed):
    """Return a function that makes a session and the form of a case in it, kept up to date."""
    made = []

    def build(case):
        session = Session(replace(demo, project=project_with(case.layer, case.trigger), findings=()))
        held = value_at(find(session.project, case.thing, case.what), case.base) if case.base else None
        model = held or find(session.project, case.thing, case.what)
        form = Form(session, case.thing, case.base, type(model), case.rows)

        def show():
            thing = find(session.project, case.thing, case.what)
            form.show_model(value_at(thing, case.base) if case.base else thing, case.what)

        session.changed.connect(show)
        show()
        form.resize(400, 600)
        form.show()
        QTest.qWaitForWindowExposed(form)
        made.append(form)
        return session, form

    yield build
    for form in made:
        form.close()
        form.deleteLater()
    QApplication.processEvents()


def name_in(form, field):
    second = f"{field.path} {type(field).__name__.lower()}"
    return second if second in form.widgets else field.path


def whole_path(case, field):
    return f"{case.base}.{field.path}" if case.base else field.path


def held(session, case, field):
    return value_at(find(session.project, case.thing, case.what), whole_path(case, field))


def click(check):
    QTest.mouseClick(check, Qt.MouseButton.LeftButton, pos=QPoint(9, check.height() // 2))


def use(widget, field):  # noqa: PLR0911  # a kind of widget each
    """Do with a widget what a user would, and return what the model should hold afterwards."""
    if isinstance(widget, NumberField):
        low, high = widget._low, widget._high
        up = widget.value + field.step <= high
        expected = min(max(round(widget.value + (field.step if up else -field.step), 6), low), high)
        QTest.keyClick(widget, KEYS.Key_Up if up else KEYS.Key_Down)
        return expected / field.factor
    if isinstance(widget, Check):
        expected = not widget.isChecked()
        click(widget)
        return field.stored(expected)
    if isinstance(widget, ChoiceField):
        index = widget.currentIndex()
        QTest.keyClick(widget, KEYS.Key_Down if index < widget.count() - 1 else KEYS.Key_Up)
        return widget._values[widget.currentIndex()]
    if isinstance(widget, TextField):
        widget.setFocus()
        widget.selectAll()
        QTest.keyClicks(widget, "hips, spine, hips")
        QTest.keyClick(widget, KEYS.Key_Return)
        return field.stored("hips, spine, hips")
    if isinstance(widget, ModelTicks):
        ticked = {name: model for name, model in widget._models.items() if widget.checks[name].isChecked()}
        name, check = next(iter(widget.checks.items()))
        click(check)
        made = {} if name in ticked else {name: field.made(name)}
        return tuple((made | {k: v for k, v in ticked.items() if k != name}).values())
    if isinstance(widget, Ticks):
        ticked = {name for name, check in widget.checks.items() if check.isChecked()}
        name, check = next(iter(widget.checks.items()))
        click(check)
        now = ticked ^ {name}
        return tuple(name for name in widget.checks if name in now)
    if isinstance(widget, CurveEditor):
        widget.plot.setFocus()
        widget.plot.pick(0)
        QTest.keyClick(widget.plot, KEYS.Key_Up)
        return widget.plot.curve
    widget.edited.emit((0.25, 0.5, 1.0), True)
    return (0.25, 0.5, 1.0)


@pytest.mark.parametrize(("case", "field"), FIELDS)
def test_a_field_edits_its_value_and_nothing_else(desk, case, field):
    session, form = desk(case)
    widget = form.widgets[name_in(form, field)]
    model = find(session.project, case.thing, case.what)
    model = value_at(model, case.base) if case.base else model
    assert widget.isVisibleTo(form) is bool(field.shows(model))
    if not field.shows(model):
        return
    before = session.project
    if isinstance(field, Number) and held(session, case, field) is None:
        assert not widget.isEnabled()
        return
    if isinstance(widget, ChoiceField) and widget.count() < 2:
        pytest.skip("nothing else can be picked here")
    expected = use(widget, field)
    if isinstance(field, Number) and field.late:
        QApplication.sendEvent(widget, QFocusEvent(QEvent.Type.FocusOut))  # the run of keys is over
    now = held(session, case, field)
    assert now == (pytest.approx(expected) if isinstance(expected, float) else expected)
    assert session.history.undo_label == field.undo
    # Put back, all is as before: nothing else has changed.
    old = value_at(find(before, case.thing, case.what), whole_path(case, field))
    assert now != old
    thing = with_value_at(find(session.project, case.thing, case.what), whole_path(case, field), old)
    assert with_thing(session.project, case.thing, case.what, thing) == before
    session.history.undo()
    assert session.project is before


@pytest.mark.parametrize(("case", "field"), [p for p in FIELDS if isinstance(p.values[1], Number)])
def test_a_number_goes_as_far_as_the_model_lets_it_and_no_further(desk, case, field):
    session, form = desk(case)
    widget = form.widgets[name_in(form, field)]
    if not widget.isVisibleTo(form) or not widget.isEnabled():
        pytest.skip("it has no place here")
    kind = type(find(session.project, case.thing, case.what))
    kind = type(value_at(find(session.project, case.thing, case.what), case.base)) if case.base else kind
    bounds = bounds_at(kind, field.path)
    refused = []
    session.said.connect(lambda text, _kind: refused.append(text))
    beyond = "9" * 12
    sides = (beyond, "at most", widget._high, bounds.high), ("-" + beyond, "at least", widget._low, bounds.low)
    for typed, text, limit, end in sides:
        QTest.keyClick(widget, KEYS.Key_Return)
        widget._editor.setText(typed)
        before = held(session, case, field)
        QTest.keyClick(widget._editor, KEYS.Key_Return)
        if abs(limit) < float(beyond):  # seeds may be as large as that
            assert widget.refused.startswith(f"{text} {limit:,.6g}")
            assert widget._editor.text() == typed, "it can be put right"
            assert held(session, case, field) == before
            widget._editor.setText(repr(limit))
            QTest.keyClick(widget._editor, KEYS.Key_Return)
        assert widget.refused == ""
        if not refused:  # a range's low end stays below its high end, whatever is typed
            wanted = min(max(end, -float(beyond)), float(beyond))
            assert held(session, case, field) == pytest.approx(wanted, rel=1e-6, abs=1e-6)
    assert all("low" in text or "before" in text or "above" in text for text in refused), refused


@pytest.mark.parametrize(("case", "field"), FIELDS)
def test_a_field_says_what_it_is(desk, case, field):
    """For the tool tip, for those who hear the window, and for the list of what can be undone."""
    _, form = desk(case)
    widget = form.widgets[name_in(form, field)]
    assert field.undo
    assert not isinstance(field, Number) or (field.label and widget.toolTip())
    if isinstance(widget, (NumberField, ChoiceField, TextField)):
        assert widget.accessibleName() == field.label != ""
    elif isinstance(widget, Check):
        assert widget.text() or widget.toolTip()


def number_field(form, path):
    widget = form.widgets[path]
    assert isinstance(widget, NumberField)
    return widget


def idle_fields(case):
    return [field for row in case.rows for field in row.fields if field.idle.__name__ != "_never"]


@pytest.mark.parametrize("case", [case for case in CASES if idle_fields(case)], ids=lambda case: case.name)
def test_a_value_that_does_nothing_is_struck_out_with_its_reason(desk, case):
    session, form = desk(case)
    for field in idle_fields(case):
        model = find(session.project, case.thing, case.what)
        model = value_at(model, case.base) if case.base else model
        widget = form.widgets[name_in(form, field)]
        if not widget.isVisibleTo(form):
            continue
        reason = field.idle(model)
        struck = widget._idle if isinstance(widget, NumberField) else widget.font().strikeOut()
        assert bool(struck) is bool(reason)
        assert (widget.toolTip() == f"Does nothing: {reason}") is bool(reason)
        assert widget.isEnabled(), "it can be set all the same"


def test_some_forms_do_have_values_that_do_nothing():
    assert {case.name for case in CASES if idle_fields(case)}


def test_a_switch_makes_room_for_a_value_and_takes_it_away(desk):
    case = next(case for case in CASES if case.name == "emission")
    session, form = desk(case)
    (field,) = [f for row in case.rows for f in row.fields if isinstance(f, Switch) and f.path == "length"]
    number, switch = number_field(form, "length number"), form.widgets["length"]
    assert held(session, case, field) is None
    assert not number.isEnabled() or not number.isVisibleTo(form)
    click(switch)
    assert held(session, case, field) == field.on
    assert number.isEnabled()
    assert number.value == field.on
    click(switch)
    assert held(session, case, field) is None


def test_a_drag_is_one_step_of_undo_and_shows_as_it_goes(desk):
    case = next(case for case in CASES if case.name == "emission")
    session, form = desk(case)
    widget = number_field(form, "rate")
    start, before = widget.rect().center(), session.project
    QTest.mousePress(widget, Qt.MouseButton.LeftButton, pos=start)
    rates = []
    for x in (2, 8, 16, 40):
        QTest.mouseMove(widget, start + type(start)(x, 0))
        rates.append(session.project.effects[0].layers[0].emission.rate)
    QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, pos=start + type(start)(40, 0))
    step = next(f.of(Emission).step for row in case.rows for f in row.fields if f.path == "rate")
    old = before.effects[0].layers[0].emission.rate
    assert rates == [old, old + 2 * step, old + 4 * step, old + 10 * step]
    session.history.undo()
    assert session.project is before
    # The gesture is over: the same field again is a step of its own.
    session.history.redo()
    QTest.keyClick(widget, KEYS.Key_Up)
    session.history.undo()
    assert session.project.effects[0].layers[0].emission.rate == old + 10 * step


def test_a_refused_value_is_said_and_the_field_shows_again_what_holds(desk):
    case = next(case for case in CASES if case.name == "emission")
    session, form = desk(case)
    said = []
    session.said.connect(lambda text, kind: said.append((text, kind)))
    before = session.project
    form.widgets["rate"].edited.emit(-5.0, True)
    assert session.project is before
    assert said
    assert said[0][1] == "error"
    assert said[0][0].startswith("Rate: ")
    assert form.widgets["rate"].value == before.effects[0].layers[0].emission.rate


def test_a_thing_that_is_gone_is_not_edited(desk):
    case = next(case for case in CASES if case.name == "effect")
    session, form = desk(case)
    session.edit("Delete", lambda p: p.evolve(effects=()))
    gone = session.project
    form.widgets["name"].edited.emit("smoke", True)
    assert session.project is gone


def test_a_row_that_is_gone_is_not_edited_when_its_field_is_left(desk):
    case = next(case for case in CASES if case.name == "burst 1")
    session, form = desk(case)
    layer = session.project.effects[0].layers[0]
    session.changed.disconnect()  # as a list does: it shows the rows that are left
    session.edit("Remove", lambda p: with_thing(p, "layer", "layer", layer.evolve(emission=Emission())))
    gone = session.project
    for field in (field for row in case.rows for field in row.fields):
        form._edited(field, form.widgets[field.path], value_at(Burst(), field.path), True)
    assert session.project is gone


@pytest.mark.parametrize(
    ("typed", "value"),
    [
        ("0.5*3", 1.5), ("1/4", 0.25), ("-2", -2), ("2,5", 2.5), ("30 cm", 0.3), ("2.5m", 2.5), ("abc", None),
        ("1/0", None), ("3 s", None),
    ],
)  # fmt: skip
def test_numbers_are_typed_as_sums_and_with_units_too(qtbot, themed, typed, value):
    field = NumberField("m", name="Width")
    qtbot.addWidget(field)
    field.set_value(7)
    told = []
    field.edited.connect(lambda v, final: told.append((v, final)))
    field.show()
    field.activateWindow()
    QTest.qWaitForWindowActive(field)
    QTest.keyClick(field, KEYS.Key_Return)
    field._editor.setText(typed)
    QTest.keyClick(field._editor, KEYS.Key_Return)
    assert told == ([] if value is None else [(value, True)])
    assert field._editor.isVisible() == (value is None), "Enter ends typing; what is no number is kept and told"
    assert bool(field.refused) == (value is None)
    QTest.keyClick(field._editor if value is None else field, KEYS.Key_Escape)
    assert not field._editor.isVisible()
    assert field.hasFocus()
    assert field.value == (7 if value is None else value)


@pytest.mark.parametrize(
    ("key", "modifier", "value"),
    [
        (KEYS.Key_Up, Qt.KeyboardModifier.NoModifier, 5.5), (KEYS.Key_Left, Qt.KeyboardModifier.NoModifier, 4.5),
        (KEYS.Key_Right, Qt.KeyboardModifier.ShiftModifier, 5.05),
        (KEYS.Key_Down, Qt.KeyboardModifier.ControlModifier, 0),
    ],
)  # fmt: skip
def test_arrow_keys_step_finely_and_coarsely(qtbot, themed, key, modifier, value):
    field = NumberField(low=0, high=9, step=0.5)
    qtbot.addWidget(field)
    field.set_value(5)
    QTest.keyClick(field, key, modifier)
    assert field.value == pytest.approx(value)


def test_escape_leaves_the_number_as_it_was(qtbot, themed):
    field = NumberField()
    qtbot.addWidget(field)
    field.show()
    field.set_value(3)
    QTest.keyClicks(field, "8")
    assert field._editor.isVisible()
    QTest.keyClick(field, KEYS.Key_Escape)
    assert field.value == 3
    assert not field._editor.isVisible()


def test_a_text_is_never_empty_and_escape_brings_it_back(qtbot, themed):
    field = TextField("Name")
    qtbot.addWidget(field)
    field.show()
    field.set_value("smoke")
    told = []
    field.edited.connect(lambda text, _final: told.append(text))
    for keys in ("", "   "):
        field.selectAll()
        QTest.keyClick(field, KEYS.Key_Backspace)
        QTest.keyClicks(field, keys)
        QTest.keyClick(field, KEYS.Key_Return)
        assert field.text() == "smoke"
    QTest.keyClicks(field, "xyz")
    QTest.keyClick(field, KEYS.Key_Escape)
    assert field.text() == "smoke"
    assert told == []


def test_a_choice_that_is_no_longer_offered_is_shown_as_missing(desk):
    case = next(case for case in CASES if case.name == "look sprite")
    session, form = desk(case)
    session.set_value("layer", "layer", "look.texture", "lost picture", "Texture")
    assert form.widgets["texture"].currentText() == "lost picture (missing)"
    assert form.widgets["texture"]._values[-1] == "lost picture"


def test_the_wheel_over_a_field_without_focus_scrolls_the_sheet(qtbot, themed):
    def turned(field):
        event = QWheelEvent(
            QPointF(5, 5), QPointF(5, 5), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        field.wheelEvent(event)
        return event.isAccepted()

    number, choice = NumberField(step=2), ChoiceField((("a", 1), ("b", 2)))
    for field in (number, choice):
        qtbot.addWidget(field)
        assert not turned(field)
    assert number.value == 0
    assert choice.currentIndex() == 0


# ---- lists ----------------------------------------------------------------------------------------


def listed(demo, tupled: Tupled, layer):
    session = Session(replace(demo, project=project_with(layer), findings=()))
    form = ListForm(session, "layer", tupled.entries, tupled.without)

    def show():
        form.show_model(session.project.effects[0].layers[0], "layer")

    session.changed.connect(show)
    show()
    return session, form


def test_a_list_shows_edits_adds_and_removes_its_entries(demo, themed, qtbot):
    session, form = listed(demo, motion_editor.LISTED, Layer(id="layer", motion=Motion(forces=(Gravity(), Drag()))))
    qtbot.addWidget(form)
    assert form.keys == ["gravity", "drag"]
    path, value, text = motion_editor.LISTED.with_another(session.project.effects[0].layers[0], Wind())
    session.set_value("layer", "layer", path, value, text)
    assert session.history.undo_label == "Add wind"
    assert form.keys == ["gravity", "drag", "wind"]
    form.remove(1)
    assert session.history.undo_label == "Remove drag"
    assert [type(f) for f in session.project.effects[0].layers[0].motion.forces] == [Gravity, Wind]
    QTest.keyClick(number_field(form.forms[0], "pull"), KEYS.Key_Up)
    assert session.project.effects[0].layers[0].motion.forces[0].pull > Gravity().pull
    assert form.keys == ["gravity", "wind"]


def test_entries_keep_their_widgets_while_their_kinds_stay(demo, themed, qtbot):
    """Else a drag on a force would lose the field under the mouse."""
    session, form = listed(demo, motion_editor.LISTED, Layer(id="layer", motion=Motion(forces=(Gravity(), Drag()))))
    qtbot.addWidget(form)
    forms = list(form.forms)
    session.set_value("layer", "layer", "motion.forces.0.pull", 3.0, "Pull")
    assert form.forms == forms
    assert number_field(forms[0], "pull").value == 3.0
    session.set_value("layer", "layer", "motion.forces", (Drag(),), "Forces")
    assert form.forms != forms


def test_entries_of_another_thing_are_shown_by_the_lines_there_are(demo, themed, qtbot):
    """Making a line takes many times as long as showing it again, and it edits where its entry is now."""
    session, form = listed(demo, motion_editor.LISTED, Layer(id="layer", motion=Motion(forces=(Gravity(), Drag()))))
    qtbot.addWidget(form)
    gravity, drag = form.forms
    session.set_value("layer", "layer", "motion.forces", (Wind(), Drag(), Gravity(pull=2.0)), "Forces")
    assert form.forms[1:] == [drag, gravity]
    assert number_field(gravity, "pull").value == 2.0
    QTest.keyClick(number_field(gravity, "pull"), KEYS.Key_Up)
    forces = session.project.effects[0].layers[0].motion.forces
    assert (forces[0], forces[1], forces[2].pull > 2.0) == (Wind(), Drag(), True)
    session.set_value("layer", "layer", "motion.forces", (), "Forces")
    assert not any(one.isVisibleTo(form) for one in (gravity, drag))
    session.set_value("layer", "layer", "motion.forces", (Gravity(),), "Forces")
    assert form.forms == [gravity]
    QTest.mouseClick(next(b for b in form.findChildren(Button) if b.isVisibleTo(form)), Qt.MouseButton.LeftButton)
    assert session.project.effects[0].layers[0].motion.forces == ()


def test_what_is_made_ahead_is_what_is_shown(demo, themed, qtbot):
    layer = Layer(id="layer", motion=Motion(forces=(Gravity(), Drag(), Gravity())))
    _, form = listed(demo, motion_editor.LISTED, Layer(id="layer", motion=Motion(forces=(Gravity(),))))
    qtbot.addWidget(form)
    shown = list(form.forms)
    made = [line.form for line in form.ahead(layer)]
    assert len(made) == 2
    assert list(form.ahead(layer)) == []
    assert not any(one.isVisibleTo(form) for one in made)
    form.show_model(layer, "layer")
    assert sorted(map(id, form.forms)) == sorted(map(id, shown + made))


def test_an_empty_list_takes_no_room(demo, themed, qtbot):
    _, form = listed(demo, motion_editor.LISTED, Layer(id="layer", motion=Motion(forces=())))
    qtbot.addWidget(form)
    assert not form.isVisibleTo(None)
    assert form.forms == []


def test_numbers_are_shown_without_idle_noughts():
    assert [shown(v, 3) for v in (1.0, 0.25, 1 / 3, -0.0, 1e6)] == ["1", "0.25", "0.333", "0", "1000000"]


def test_the_start_of_the_show_has_no_fields():
    assert list(triggers.WHEN_ROWS.get("start", ())) == []
    assert AtStart().kind in TRIGGER_MODELS
