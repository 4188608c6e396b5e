"""Every look and the whole life of a particle, by mouse and keys in the real window."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from wraithon.desktop.effects.attribute_more import choices_in, texts_for
from wraithon.desktop.widgets.fields import NumberField
from wraithon.project.effect import Layer
from wraithon.project.life import By, Over, WeightedChoice
from wraithon.project.look import (
    LOOKS,
    SHAPES,
    Blend,
    Facing,
    Figure,
    Ingredient,
    MeshLook,
    Orientation,
    ShellLook,
    Through,
)
from wraithon.project.motion import Attraction, BodyCollision, Collision, Curl, Swirl, Towards
from wraithon.project.source import AimFrame, Heading, Occasion, OffspringSource
from wraithon.stage.loading import load
from wraithon.stage.player import Player

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def layer(window):
    return window.session.project.layer(window.session.selection[1])[1]


@pytest.fixture
def sheet(window):
    """Return the Effects sheet of the demo's feathers."""
    window.station("effects")
    window.session.select("layer", "plume-feathers")
    QApplication.processEvents()
    return window.sheet("effects")


def pick(choice, value, *, stays=True):
    """Pick a value of a list as a hand does: open it, and click the entry; one that only adds does not stay."""
    choice.showPopup()
    view, row = choice.view(), choice._values.index(value)
    entry = choice.model().index(row, 0)
    view.scrollTo(entry)
    QTest.mouseMove(view.viewport(), view.visualRect(entry).center())
    QTest.mouseClick(view.viewport(), LEFT, NONE, view.visualRect(entry).center())
    QApplication.processEvents()
    assert not stays or choice.currentIndex() == row


def type_in(field, text):
    """Type into a field: a click opens it with all selected, Enter ends it."""
    QTest.mouseClick(field, LEFT, NONE, QPoint(field.width() // 2, field.height() // 2))
    line = field._editor if isinstance(field, NumberField) else field
    line.selectAll()
    QTest.keyClicks(line, text) if text else QTest.keyClick(line, Qt.Key.Key_Backspace)
    QTest.keyClick(line, Qt.Key.Key_Return)
    QApplication.processEvents()


def undone(window, change):
    """Make a change, and see that one undo takes it back."""
    before = window.session.project
    change()
    assert window.session.project != before
    after = window.session.project
    window.session.undo()
    assert window.session.project == before
    window.session.redo()
    assert window.session.project == after


@pytest.mark.parametrize("kind", LOOKS)
def test_each_look_is_picked_and_has_rows_of_its_own(window, sheet, kind):
    if layer(window).look.kind != kind:
        undone(window, lambda: pick(sheet.look.kind, kind))
    assert layer(window).look.kind == kind
    for name, forms in sheet.look.forms.items():
        assert all(form.isVisibleTo(sheet.look) == (name == kind) for form in forms)
    beside, below = sheet.look.forms[kind]
    assert beside.widgets or below.widgets
    for widget in (*beside.widgets.values(), *below.widgets.values()):
        assert widget.toolTip() or widget.accessibleName() or widget.findChildren(object)


@pytest.mark.parametrize("kind", [kind for kind in LOOKS if kind not in {"sprite", "mark"}])
def test_what_a_look_makes_ineffective_is_struck_out_with_the_reason(window, sheet, kind):
    pick(sheet.look.kind, kind)
    for name, row in sheet.life.rows.items():
        reason = layer(window).look.idle.get(name, "")
        assert row.idle == reason
        assert not reason or reason in row.toolTip()
    assert sheet.life.rows["stretch"].idle


def test_a_ribbon_is_shaped_by_its_rows(window, sheet):
    pick(sheet.look.kind, "ribbon")
    beside, below = sheet.look.forms["ribbon"]
    widgets = beside.widgets | below.widgets
    assert not widgets["past"].isVisibleTo(sheet.look)
    undone(window, lambda: pick(widgets["through"], Through.PAST))
    assert widgets["past"].isVisibleTo(sheet.look)
    type_in(widgets["past"], "0.8")
    type_in(widgets["tail"], "60")
    look = layer(window).look
    assert (look.through, look.past, look.tail) == (Through.PAST, 0.8, pytest.approx(0.6))
    assert widgets["flow"]._idle  # nothing repeats yet
    type_in(widgets["tile"], "0.5")
    assert not widgets["flow"]._idle
    switch = next(w for name, w in widgets.items() if name == "widening")
    QTest.mouseClick(switch, LEFT, NONE, QPoint(8, switch.height() // 2))
    assert layer(window).look.widening is not None
    assert widgets["widening curvefield"].isVisibleTo(sheet.look)


def test_a_shell_is_shaped_by_its_rows(window, sheet):
    pick(sheet.look.kind, "shell")
    beside, below = sheet.look.forms["shell"]
    widgets = beside.widgets | below.widgets
    type_in(widgets["tall"], "2.5")
    type_in(widgets["first.scale"], "12")
    type_in(widgets["first.drift.1"], "-1.5")
    type_in(widgets["low.1"], "30")
    look = layer(window).look
    assert isinstance(look, ShellLook)
    assert (look.tall, look.first.scale, look.first.drift[1], look.low[1]) == (2.5, 0.12, -1.5, pytest.approx(0.3))
    assert widgets["calm"]._idle
    type_in(widgets["swell"], "5")
    assert not widgets["calm"]._idle
    undone(window, lambda: pick(widgets["figure"], Figure.SKIN))
    assert not widgets["tall"].isVisibleTo(sheet.look)
    pick(widgets["shows"], Ingredient.RIM)
    assert layer(window).look.shows is Ingredient.RIM


def test_pieces_are_of_the_shapes_that_are_ticked(window, sheet):
    pick(sheet.look.kind, "piece")
    beside, below = sheet.look.forms["piece"]
    widgets = beside.widgets | below.widgets
    ticks = widgets["shapes"]
    boxes = {box.text(): box for box in ticks.findChildren(object) if hasattr(box, "text") and box.text() in SHAPES}
    assert set(boxes) == set(SHAPES)
    QTest.mouseClick(boxes["cube"], LEFT, NONE, QPoint(8, boxes["cube"].height() // 2))
    look = layer(window).look
    assert isinstance(look, MeshLook)
    assert set(look.shapes) == {"shard", "cube"}
    pick(widgets["orientation"], Orientation.VELOCITY)
    assert layer(window).look.orientation is Orientation.VELOCITY


def test_a_lying_sprite_has_an_axis(window, sheet):
    widgets = sheet.look.forms["sprite"][0].widgets | sheet.look.forms["sprite"][1].widgets
    assert not widgets["axis.1"].isVisibleTo(sheet.look)
    pick(widgets["facing"], Facing.FLAT)
    assert widgets["axis.1"].isVisibleTo(sheet.look)
    assert not sheet.life.rows["turn"].idle


# ---- the life of a number -------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("2, 5", [(0.02, 1), (0.05, 1)]),
        ("2 x3, 5×0.5", [(0.02, 3), (0.05, 0.5)]),
        ("2*2 ; 1e1", [(0.02, 2), (0.1, 1)]),
        ("", []),
        (" , ,", []),
        ("-1", [(-0.01, 1)]),
    ],
)
def test_values_to_choose_from_are_read_as_typed(text, wanted):
    found = choices_in(text, 100)
    assert [(c.value, c.weight) for c in found] == [(pytest.approx(v), pytest.approx(w)) for v, w in wanted]
    assert choices_in(texts_for(found, 100), 100) == found


@pytest.mark.parametrize("text", ["two", "2 and 3", "2 ×-1", "nan", "1e99", "2 ××3", ", ".join("1" * 17)])
def test_what_is_no_list_of_values_is_none(text):
    assert choices_in(text, 1) is None


def test_values_are_chosen_course_and_wobble_set_in_the_open_row(window, sheet):
    row = sheet.life.rows["size"]
    QTest.mouseClick(row, LEFT, NONE, QPoint(30, 10))
    more = sheet.life.editor.more
    assert more.isVisibleTo(sheet.life)
    type_in(more.choices, "4, 9 ×2")
    assert layer(window).size.choices == (WeightedChoice(value=0.04), WeightedChoice(value=0.09, weight=2))
    assert not sheet.life.editor._low.isEnabled()  # the range is drawn no more
    type_in(more.choices, "four")
    assert layer(window).size.choices == (WeightedChoice(value=0.04), WeightedChoice(value=0.09, weight=2))
    pick(more.over, Over.SPEED)
    type_in(more.top, "8")
    type_in(more.wobble, "25")
    size = layer(window).size
    assert (size.over, size.top, size.wobble.size) == (Over.SPEED, 8, pytest.approx(0.25))
    type_in(more.choices, "")
    assert layer(window).size.choices == ()
    assert sheet.life.editor._low.isEnabled()


@pytest.mark.parametrize(
    ("name", "wobbles"), [("lifetime", False), ("speed", False), ("spin", False), ("turn", True)]
)
def test_only_what_is_drawn_wobbles(sheet, name, wobbles):
    QTest.mouseClick(sheet.life.rows[name], LEFT, NONE, QPoint(30, 10))
    more = sheet.life.editor.more
    assert more.wobble.isVisibleTo(more) == wobbles
    assert more.choices.isVisibleTo(more)


# ---- where and when -------------------------------------------------------------------------------


def test_a_direction_is_given_axis_by_axis(window, sheet):
    form = sheet.source.forms["skin"]
    assert not form.widgets["aim.low.0"].isVisibleTo(form)
    pick(form.widgets["aim.heading"], Heading.AXES)
    assert form.widgets["aim.low.0"].isVisibleTo(form)
    assert not form.widgets["aim.spread"].isVisibleTo(form)
    type_in(form.widgets["aim.high.1"], "3")
    pick(form.widgets["aim.frame"], AimFrame.OUTWARD)
    aim = layer(window).source.aim
    assert (aim.high[1], aim.frame) == (3, AimFrame.OUTWARD)


def test_a_layer_is_born_of_another(window, sheet):
    undone(window, lambda: pick(sheet.source.kind, "offspring"))
    form = sheet.source.forms["offspring"]
    offered = form.widgets["layer"]._values
    assert offered == [None, "plume-glints"]
    pick(form.widgets["layer"], "plume-glints")
    pick(form.widgets["occasion"], Occasion.BIRTH)
    type_in(form.widgets["count"], "2")
    source = layer(window).source
    assert isinstance(source, OffspringSource)
    assert (source.layer, source.occasion, source.count) == ("plume-glints", Occasion.BIRTH, 2)


def test_births_a_metre_and_an_end_of_the_oldest_are_set(window, sheet):
    form = sheet.emission.form
    type_in(form.widgets["per_metre"], "25")
    pick(form.widgets["full"], "end oldest")
    emission = layer(window).emission
    assert (emission.per_metre, emission.full) == (25, "end oldest")


# ---- from nothing to an effect --------------------------------------------------------------------


def test_from_an_empty_project_to_an_effect_of_three_looks(qtbot, empty_window, demo, tmp_path):
    """Source, rate, lifetime, size, curve, colour; duplicated twice, each under another look; saved and opened."""
    window = empty_window
    window.keeper.bringing.bring_in(next(demo.folder.rglob("*.glb")))
    qtbot.waitUntil(lambda: window.session.character is not None, timeout=30_000)
    window.station("effects")
    index, sheet = window.index("effects"), window.sheet("effects")
    index.add_effect()
    if not window.session.project.effects[0].layers:
        index.add_layer()
    window.session.select("layer", window.session.project.effects[0].layers[0].id)
    pick(sheet.source.kind, "skin")
    type_in(sheet.emission.form.widgets["rate"], "60")
    for name, low, high in (("lifetime", "0.5", "1.2"), ("size", "2", "6")):
        QTest.mouseClick(sheet.life.rows[name], LEFT, NONE, QPoint(30, 10))
        type_in(sheet.life.editor._high, high)
        type_in(sheet.life.editor._low, low)
    made = layer(window)
    assert (made.lifetime.birth.low, made.lifetime.birth.high) == (0.5, 1.2)
    assert (made.size.birth.low, made.size.birth.high) == (pytest.approx(0.02), pytest.approx(0.06))
    pick(sheet.life.editor._mode, "scale")
    assert layer(window).size.life is not None
    window.session.set_value("layer", made.id, "colour.first", (1.0, 0.3, 0.1), "Colour")
    for kind in ("ribbon", "piece"):
        index.tree.setFocus()
        QTest.keyClick(index.tree, Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier)
        QApplication.processEvents()
        pick(sheet.look.kind, kind)
        assert layer(window).look.kind == kind
    (effect,) = window.session.project.effects
    assert [each.look.kind for each in effect.layers] == ["sprite", "ribbon", "piece"]
    assert len({each.id for each in effect.layers}) == 3
    folder = tmp_path / "made"
    assert window.session.save(folder)
    opened = load(folder)
    assert opened.project.effects == window.session.project.effects

    def digest(project):
        player = Player(project, {project.character.id: window.session.character})
        player.show.start(player.show.compiled.effects[effect.id], None, 0.0)
        for _ in range(40):
            player.show.advance()
        assert player.show.alive > 20
        return player.show.digest()

    assert digest(opened.project) == digest(window.session.project)
    assert Layer().look.kind == "sprite"
    assert np.isfinite(window.session.project.exposure)


# ---- textures -------------------------------------------------------------------------------------


def test_a_texture_is_made_used_and_made_otherwise(window, sheet):
    QTest.mouseClick(sheet.look.make, LEFT, NONE, QPoint(20, 10))
    maker = sheet.look.maker
    assert maker.isVisibleTo(sheet.look)
    before = maker._preview._image.copy()
    pick(maker.outline, "ring")
    type_in(maker.fields["columns"], "3")
    type_in(maker.fields["fades"], "70")
    assert maker._preview._image != before
    assert layer(window).look.texture == "feather.png"  # nothing is edited before it is used
    undone(window, lambda: QTest.mouseClick(maker.use, LEFT, NONE, QPoint(20, 10)))
    look = layer(window).look
    assert (look.texture, look.sheet.columns, look.sheet.rows, look.sheet.play) == ("ring 2.png", 3, 2, "life")
    made = maker.recipe
    window.session.select("layer", "plume-glints")
    QApplication.processEvents()
    window.session.select("layer", "plume-feathers")
    QApplication.processEvents()
    assert maker.recipe == made  # it is known again by its picture
    type_in(maker.fields["seed"], "9")
    QTest.mouseClick(maker.use, LEFT, NONE, QPoint(20, 10))
    assert layer(window).look.texture == "ring 3.png"
    pick(sheet.look.kind, "piece")
    assert not maker.isVisibleTo(sheet.look)


def test_a_dropped_sheet_is_cut_as_it_seems_to_be(qtbot, window, tmp_path):
    from wraithon.picture.making.recipe import Recipe, as_png

    window.station("effects")
    window.session.select("layer", "plume-glints")
    path = tmp_path / "smoke.png"
    path.write_bytes(as_png(Recipe(columns=4, rows=3, side=32, width=0.6)))
    window.keeper.take_dropped([path])
    qtbot.waitUntil(lambda: layer(window).look.texture == "smoke.png", timeout=10_000)
    assert (layer(window).look.sheet.columns, layer(window).look.sheet.rows) == (4, 3)


def test_pictures_and_pieces_are_given_where_they_can_be_drawn(qtbot, window, sheet, demo, tmp_path):
    from wraithon.picture.making.recipe import Recipe, as_png

    path = tmp_path / "soot.png"
    path.write_bytes(as_png(Recipe(columns=1, rows=1)))
    pick(sheet.look.kind, "shell")
    window.keeper.pictures.give(path)
    qtbot.waitUntil(lambda: layer(window).look.first.texture == "soot.png", timeout=10_000)
    pick(sheet.look.kind, "piece")
    before = window.session.project
    said = []
    window.session.said.connect(lambda text, _how: said.append(text))
    window.keeper.pictures.give(path)
    qtbot.waitUntil(lambda: any("pieces have none" in text for text in said), timeout=10_000)
    assert window.session.project == before
    mesh = tmp_path / "rock.glb"
    mesh.write_bytes(next(demo.folder.rglob("*.glb")).read_bytes())
    window.keeper.pictures.give_piece(mesh)
    qtbot.waitUntil(lambda: "rock.glb" in layer(window).look.shapes, timeout=20_000)
    window.session.select("layer", "plume-glints")
    window.keeper.pictures.give_piece(mesh)
    qtbot.waitUntil(lambda: any("is among the meshes now" in text for text in said), timeout=20_000)
    assert window.session.save(tmp_path / "saved")
    assert (tmp_path / "saved" / "pieces" / "rock.glb").is_file()


# ---- what births read, and what particles meet ----------------------------------------------------


def test_a_value_is_drawn_by_distance(window, sheet):
    sheet.life.pick("size")
    more = sheet.life.editor.more
    assert not more.far.isVisibleTo(more)
    undone(window, lambda: pick(more.by, By.DISTANCE))
    assert more.far.isVisibleTo(more)
    type_in(more.far, "0.4")
    assert (layer(window).size.by, layer(window).size.far) == (By.DISTANCE, 0.4)


def test_a_colour_takes_the_skins_own(window, sheet):
    sheet.life.pick("colour")
    beneath = sheet.life.editor.beneath
    assert beneath.isVisibleTo(sheet)
    type_in(beneath, "60")
    assert layer(window).colour.beneath == 0.6
    sheet.life.pick("size")
    assert not beneath.isVisibleTo(sheet)


def test_births_come_from_a_picture_and_are_warmed_up(window, sheet):
    undone(window, lambda: pick(sheet.source.kind, "picture"))
    widgets = sheet.source.forms["picture"].widgets
    pick(widgets["texture"], "ring.png")
    QTest.mouseClick(widgets["invert"], LEFT, NONE, QPoint(8, widgets["invert"].height() // 2))
    type_in(widgets["size.0"], "1.5")
    source = layer(window).source
    assert (source.texture, source.invert, source.size[0]) == ("ring.png", True, 1.5)
    type_in(sheet.emission.form.widgets["warm_up"], "2")
    assert layer(window).emission.warm_up == 2


def test_particles_meet_the_character(window, sheet):
    body = sheet.motion.body.widgets
    undone(window, lambda: pick(body["contact"], Collision.BOUNCE))
    assert body["bounce"].isVisibleTo(sheet)
    assert Collision.STICK not in body["contact"]._values
    type_in(body["bounce"], "75")
    pick(body["contact"], Collision.SLIDE)
    assert not body["bounce"].isVisibleTo(sheet)
    assert layer(window).motion.body == BodyCollision(contact=Collision.SLIDE, bounce=0.75)


def added(sheet, kind):
    """Add a force by hand; return its form."""
    pick(sheet.motion.add, kind, stays=False)
    return sheet.motion.forces.forms[-1]


def test_eddies_push_or_carry_and_what_is_drawn_to_may_be_the_skin(window, sheet):
    form = added(sheet, Curl)
    assert form.widgets["strength"].isVisibleTo(form)
    pick(form.widgets["swirl"], Swirl.CARRY)
    form = sheet.motion.forces.forms[-1]
    assert not form.widgets["strength"].isVisibleTo(form)
    type_in(form.widgets["speed"], "1.25")
    assert layer(window).motion.forces[-1].speed == 1.25
    form = added(sheet, Attraction)
    assert form.widgets["anchor"].isVisibleTo(form)
    pick(form.widgets["towards"], Towards.SKIN)
    form = sheet.motion.forces.forms[-1]
    assert not form.widgets["anchor"].isVisibleTo(form)
    assert layer(window).motion.forces[-1].towards is Towards.SKIN


def test_an_order_that_cannot_be_seen_is_struck_out_with_the_reason(window, sheet):
    beside, below = sheet.look.forms["sprite"]
    widgets = beside.widgets | below.widgets
    pick(widgets["by_age"], True)
    assert layer(window).look.by_age
    order = widgets["by_age"]
    assert not order.font().strikeOut()
    usual = order.toolTip()
    pick(widgets["blend"], Blend.ADDITIVE)
    assert order.font().strikeOut()
    assert "any order" in order.toolTip()
    pick(widgets["blend"], Blend.ALPHA)
    assert not order.font().strikeOut()
    assert order.toolTip() == usual
