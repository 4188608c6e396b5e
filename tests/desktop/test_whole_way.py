"""The whole way once, with mouse and keys: from an empty project to two effects that follow one preset."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from tests.desktop.conftest import close_window, open_window, settle
from tests.desktop.test_looks_and_life import pick
from wraithon.demo import DEMO_FOLDER
from wraithon.desktop.picture.comparing import Way
from wraithon.desktop.widgets.trees import key_of
from wraithon.project.project import Project
from wraithon.project.resolving.following import own_rows
from wraithon.project.resolving.resolving import resolved
from wraithon.stage.loading import Loaded, load

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
CHARACTER = next((DEMO_FOLDER / "characters").glob("*.glb"))


@pytest.fixture
def window(qtbot):
    made = open_window(qtbot, Loaded(Project(), None), auditions=True)
    made.keeper.take_dropped([CHARACTER])
    qtbot.waitUntil(lambda: made.session.character is not None, timeout=60_000)
    rendered = made.picture.rendered
    qtbot.waitUntil(
        lambda: made.picture.rendered is not rendered and made.picture.rendered.skin is not None, timeout=60_000
    )
    yield made
    close_window(made)


class Hands:
    """Counts what is done with mouse and keys."""

    def __init__(self, window):
        self.window, self.done = window, 0

    def click(self, widget, at=None, keys=NONE):
        self.done += 1
        QTest.mouseClick(widget, LEFT, keys, at or widget.rect().center())

    def key(self, key, modifiers=NONE, widget=None):
        self.done += 1
        QTest.keyClick(widget or self.window, key, modifiers)

    def text(self, widget, text):
        self.done += 1
        QTest.keyClicks(widget, text)

    def layer(self, number, keys=NONE):
        """Click a layer of the effect at hand in the list."""
        index = self.window.index("effects")
        effect = self.effect
        item = next(item for item in index.items() if key_of(item) == effect.layers[number].id)
        index.tree.scrollToItem(item)
        settle()
        self.click(index.tree.viewport(), index.tree.visualItemRect(item).center(), keys)

    @property
    def effect(self):
        kind, what = self.window.session.selection
        project = self.window.session.project
        return project.layer(what)[0] if kind == "layer" else project.effect(what)


def middle_of(window, part):
    """Return where the middle of a part is in the picture."""
    character = window.session.character
    held = next(p for p in character.parts if p.name == part)
    rows = character.mesh.triangles[held.first_triangle : held.first_triangle + held.triangle_count]
    positions = window.picture.project(window.picture.rendered.skin)[np.unique(rows)]
    return QPoint(*(int(v) for v in np.median(positions[:, :2], axis=0)))


def seen(window):
    return window.picture.rendered.figures.alive


def test_three_visible_layers_on_a_part_take_at_most_twelve_gestures(qtbot, window):
    hands = Hands(window)
    hands.key(Qt.Key.Key_2, CTRL)
    hands.click(window.picture, middle_of(window, "rain skirt"))
    assert window.picked == ("part", "rain skirt")
    new = window.index("effects").head.itemAt(1).widget()
    hands.click(new)
    hands.done += 1  # an entry of the menu of looks is clicked
    window.index("effects").looks.actions()[0].trigger()
    window.index("effects").looks.close()
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow, timeout=5000)
    qtbot.waitUntil(lambda: seen(window) > 3, timeout=30_000)
    hands.layer(0)
    hands.key(Qt.Key.Key_D, CTRL)
    hands.key(Qt.Key.Key_D, CTRL)
    for kind in ("ribbon", "light"):
        combo = window.sheet("effects").look.kind
        window.sheet("effects").scroll_to(combo)
        hands.done += 2  # the list is opened, and an entry clicked
        pick(combo, kind)
        if kind == "ribbon":
            hands.layer(1)
    looks = [layer.look.kind for layer in hands.effect.layers]
    assert sorted(looks) == ["light", "ribbon", "sprite"]
    assert all(layer.source.parts == ("rain skirt",) for layer in hands.effect.layers)
    qtbot.waitUntil(
        lambda: all(window.picture.rendered.living.get(layer.id, (0, 0))[0] for layer in hands.effect.layers),
        timeout=30_000,
    )
    assert hands.done <= 12


def from_a_preset(qtbot, hands, name):
    """Make an effect of a preset that is found by typing; return its id."""
    library = hands.window.index("effects").presets
    hands.key(Qt.Key.Key_P)
    hands.text(library.search, name)
    hands.click(library.make)
    qtbot.waitUntil(lambda: seen(hands.window) > 5, timeout=30_000)
    return hands.effect.id


def look_pasted_onto_the_others(hands, kind):
    """Copy the first layer twice, give a copy another look, and paste that look onto the others."""
    window, index = hands.window, hands.window.index("effects")
    hands.layer(0)
    hands.key(Qt.Key.Key_D, CTRL)
    hands.key(Qt.Key.Key_D, CTRL)
    sheet = window.sheet("effects")
    sheet.scroll_to(sheet.look.kind)
    pick(sheet.look.kind, kind)
    copied = window.session.selection[1]
    window.picture.setFocus()
    hands.key(Qt.Key.Key_C, CTRL)
    others = [number for number, layer in enumerate(hands.effect.layers) if layer.id != copied]
    hands.layer(others[0])
    hands.layer(others[1], CTRL)
    hands.key(Qt.Key.Key_V, CTRL | SHIFT)
    next(action for action in index.parts.actions() if action.text() == "Look").trigger()
    index.parts.hide()
    window.activateWindow()


def drag_master_size(hands, sheet):
    """Drag the master size to the right."""
    field = sheet.masters.widgets["masters.size"]
    sheet.scroll_to(field)
    at = field.rect().center()
    hands.done += 1
    QTest.mousePress(field, LEFT, NONE, at)
    for k in range(1, 9):
        QTest.mouseMove(field, at + QPoint(5 * k, 0))
    QTest.mouseRelease(field, LEFT, NONE, at + QPoint(40, 0))


def dial_that_drives_the_first_row(hands, sheet):
    """Declare a dial, and have it drive the first value that may be driven; set it to its highest."""
    sheet.scroll_to(sheet.dials.add)
    hands.click(sheet.dials.add)
    QTest.keyClick(sheet.dials.kinds, Qt.Key.Key_Down)
    QTest.keyClick(sheet.dials.kinds, Qt.Key.Key_Return)
    hands.window.activateWindow()  # without a screen a list that closes gives the keyboard to nobody
    sheet.dials.fill_menu()
    sheet.dials.menu.actions()[0].menu().actions()[0].menu().actions()[1].trigger()
    sheet.dials.dials.forms[0].widgets["value"].edited.emit(1.0, True)


def test_the_whole_way(qtbot, window, tmp_path):
    session, hands, sheet = window.session, Hands(window), window.sheet("effects")
    hands.key(Qt.Key.Key_2, CTRL)
    hands.click(window.picture, middle_of(window, "mask"))
    assert window.picked == ("part", "mask")
    first = from_a_preset(qtbot, hands, "glints on the skin")
    look_pasted_onto_the_others(hands, "piece")
    assert [layer.look.kind for layer in session.project.effect(first).layers] == ["piece"] * 3
    session.select("effect", first)
    drag_master_size(hands, sheet)
    assert session.project.effect(first).masters.size > 1
    dial_that_drives_the_first_row(hands, sheet)
    bound = session.project.effect(first)
    assert resolved(bound) != bound
    # What it costs.
    sheet.scroll_to(sheet.cost.measure)
    hands.click(sheet.cost.measure)
    qtbot.waitUntil(lambda: sheet.cost._cost is not None, timeout=120_000)
    assert "Played live" in sheet.cost.text()
    # Kept, changed, wiped, gone back.
    before = session.project
    window.picture.setFocus()
    hands.key(Qt.Key.Key_K)
    sheet.masters.widgets["masters.amount"].edited.emit(3.0, True)
    hands.key(Qt.Key.Key_K, SHIFT)
    assert window.picture.comparing.way is Way.WIPE
    assert "masters amount 1 → 3" in window.snapshot_strip.text.text()
    hands.click(window.snapshot_strip.back)
    assert session.project == before
    # Saved as a preset, used in a second effect, the preset changed: both follow.
    hands.layer(0)
    layer = session.selection[1]
    sheet.preset.keep_as("mine")
    from_a_preset(qtbot, hands, "mine")
    hands.layer(0)
    second = session.selection[1]
    assert second != layer
    session.set_value("layer", second, "size.birth.high", 0.21, "Size")
    assert own_rows(session.project, second) == ("size",)
    hands.click(sheet.preset.into)
    assert [session.project.layer(each)[1].size.birth.high for each in (layer, second)] == [0.21, 0.21]
    # It is all there after saving.
    assert session.save(tmp_path / "kept")
    assert load(tmp_path / "kept").project == session.project


def test_a_click_beside_the_character_picks_nothing_and_one_on_it_selects_among_characters_parts(window):
    window.station("effects")
    window.picture.clicked.emit(QPointF(3, 3))
    assert window.picked == ("", "")
    window.station("character")
    window.session.select("", "")
    QTest.mouseClick(window.picture, LEFT, NONE, middle_of(window, "mask"))
    assert window.session.selection == ("part", "mask")
    view = window.picture.view
    at = middle_of(window, "rain skirt")
    QTest.mousePress(window.picture, LEFT, NONE, at)
    QTest.mouseMove(window.picture, at + QPoint(30, 0))
    QTest.mouseRelease(window.picture, LEFT, NONE, at + QPoint(30, 0))
    assert window.session.selection == ("part", "mask")  # a drag turns the camera
    assert window.picture.view != view
