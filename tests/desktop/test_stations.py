"""The table of stations: each is found by its key, keeps its own things, and gives way when undo takes one away."""

import pytest
from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtWidgets import QAbstractButton, QApplication, QWidget

from tests.desktop.conftest import close_window, open_window, settle
from wraithon.desktop.character.index import DEEPEST, _depth
from wraithon.desktop.stations import STATIONS
from wraithon.desktop.widgets.panels import Index, Sheet
from wraithon.desktop.widgets.trees import kind_of
from wraithon.project.things import FOUND_BY_ID, find

CONTROL = Qt.KeyboardModifier.ControlModifier
KINDS = {"character": "anchor", "effects": "layer", "triggers": "trigger"}
KEYS = [station.key for station in STATIONS]


def first_of(project, kind):
    character = project.character
    return {
        "anchor": lambda: character.anchors[0].id,
        "mask": lambda: character.masks[0].id,
        "clip": lambda: character.clips[0].name,
        "layer": lambda: project.effects[0].layers[0].id,
        "effect": lambda: project.effects[0].id,
        "trigger": lambda: project.triggers[0].id,
        "event": lambda: character.events[0].id,
        "mark": lambda: next(mark.id for clip in character.clips for mark in clip.marks),
    }[kind]()


def count(project):
    character = project.character
    return (
        len(character.anchors), len(character.events), sum(len(clip.marks) for clip in character.clips),
        len(project.effects), sum(len(effect.layers) for effect in project.effects), len(project.triggers),
    )  # fmt: skip


def test_each_kind_of_thing_is_at_home_in_one_station():
    kinds = [kind for station in STATIONS for kind in station.kinds]
    assert len(kinds) == len(set(kinds))
    assert len({station.icon for station in STATIONS}) == len({station.title for station in STATIONS}) == len(KEYS)


@pytest.mark.parametrize("key", KEYS)
def test_a_station_shows_its_index_and_sheet(window, key):
    window.station(key)
    assert window.at == key
    assert isinstance(window.index(key), Index)
    assert isinstance(window.sheet(key), Sheet)
    assert window.indexes.currentWidget() is window.index(key)
    assert window.sheets.currentWidget() is window.sheet(key)


def test_all_commands_of_all_stations_have_keys_of_their_own(window):
    keys = [keys for key in KEYS for _, keys, _ in window.index(key).commands() if keys]
    assert len(keys) == len(set(keys))


SELECTED = [(s.key, kind) for s in STATIONS for kind in s.kinds if kind in {
    "anchor", "clip", "layer", "effect", "trigger", "event", "mark",
}]  # fmt: skip


@pytest.mark.parametrize(("key", "kind"), SELECTED)
def test_what_is_selected_is_shown_by_its_name(window, key, kind):
    what = first_of(window.session.project, kind)
    window.station(key)
    window.session.select(kind, what)
    thing = find(window.session.project, kind, what)
    shown = window.sheet(key).title.text()
    name = getattr(thing, "name", "") or find(window.session.project, "event", getattr(thing, "event", "")).name
    assert name.lower() in shown.lower()


@pytest.mark.parametrize(("key", "kind"), [p for p in SELECTED if p[1] in {"anchor", "layer", "effect", "trigger"}])
def test_findings_lead_to_the_station_where_a_thing_is_at_home(window, key, kind):
    window.station(next(other for other in KEYS if other != key))
    what = first_of(window.session.project, kind)
    window.go_to(what)
    assert window.at == key
    assert window.session.selection == (kind, what)


@pytest.mark.parametrize("kind", ["anchor", "layer", "effect", "trigger", "event", "mark"])
def test_deleting_takes_the_selected_thing_and_undo_brings_it_back(window, kind):
    before = window.session.project
    what = first_of(before, kind)
    key = next(s.key for s in STATIONS if kind in s.kinds)
    window.station(key)
    window.session.select(kind, what)
    window.delete()
    assert find(window.session.project, kind, what) is None
    assert window.session.selection != (kind, what)
    window.session.undo()
    assert window.session.project is before
    assert count(window.session.project) == count(before)


@pytest.mark.parametrize("kind", ["layer", "effect", "trigger"])
def test_a_duplicate_is_another_thing_selected_at_once_and_gone_after_undo(window, kind):
    before = window.session.project
    what = first_of(before, kind)
    window.station(next(s.key for s in STATIONS if kind in s.kinds))
    window.session.select(kind, what)
    window.duplicate()
    chosen, copy = window.session.selection
    assert chosen == kind
    assert copy != what
    one, two = find(window.session.project, kind, what), find(window.session.project, kind, copy)
    assert type(one) is type(two)
    assert one.name != two.name
    window.session.undo()
    assert window.session.project is before
    assert find(window.session.project, *window.session.selection) is not None or window.session.selection == ("", "")


def test_what_is_selected_goes_with_undo_and_does_not_come_back_as_a_ghost(window):
    session = window.session
    window.station("effects")
    window.index("effects").add_effect()
    kind, new = session.selection
    assert find(session.project, kind, new) is not None
    session.undo()
    assert find(session.project, kind, new) is None
    assert session.selection[1] != new
    undone = session.project
    window.delete()
    window.duplicate()
    assert session.selection[1] in {"", *(thing.id for thing in _things(undone))}


def _things(project):
    return [*project.effects, *(layer for effect in project.effects for layer in effect.layers), *project.triggers]


@pytest.mark.parametrize("kind", sorted(FOUND_BY_ID))
def test_a_thing_that_is_not_there_is_nothing(demo, kind):
    assert find(demo.project, kind, "nowhere") is None


def test_nothing_selected_deletes_and_duplicates_nothing(window):
    before = window.session.project
    for key in KEYS:
        window.station(key)
        window.session.select("", "")
        window.delete()
        window.duplicate()
        assert window.session.project is before


def test_a_character_the_project_does_not_have_leaves_every_station_in_order(empty_window):
    for key in KEYS:
        empty_window.station(key)
        settle(0.02)
        assert empty_window.sheet(key).hint.text()
        empty_window.delete()
        empty_window.duplicate()
        for text, _, _ in empty_window.index(key).commands():
            assert text
    assert empty_window.session.history.undo_label is None


class Windows(QObject):
    """Notes what becomes a window of its own, if only for a moment: it takes the keyboard from who drives."""

    def __init__(self):
        super().__init__()
        self.seen = []

    def eventFilter(self, thing, event):  # noqa: N802
        if event.type() == QEvent.Type.Show and isinstance(thing, QWidget) and thing.isWindow():
            self.seen.append(f"{type(thing).__name__} {thing.accessibleName() or thing.objectName()}")
        return False


def test_nothing_becomes_a_window_of_its_own_while_all_is_shown_and_made(qtbot, demo):
    window = open_window(qtbot, demo)
    noted = Windows()
    QApplication.instance().installEventFilter(noted)
    try:
        project = window.session.project
        layers = [("layer", layer.id) for effect in project.effects for layer in effect.layers]
        triggers = [("trigger", trigger.id) for trigger in project.triggers]
        for station in STATIONS:
            window.station(station.key)
            for kind, what in {"effects": layers, "triggers": triggers}.get(station.key, []):
                window.session.select(kind, what)
                QApplication.processEvents()
            for _ in window.sheet(station.key).ahead():
                pass
    finally:
        QApplication.instance().removeEventFilter(noted)
        close_window(window)
    assert noted.seen == []


@pytest.mark.parametrize("playing", [True, False])
def test_after_rehearse_it_plays_or_rests_as_before(qtbot, window, playing):
    window.station("effects")
    window.set_playing(playing)
    window.station("rehearse")
    assert window.playing
    window.station("effects")
    assert window.playing == playing
    window.set_playing(False)


def test_all_that_takes_the_focus_has_a_name(window):
    project, character = window.session.project, window.session.character
    things = [("effect", project.effects[0].id), ("trigger", project.triggers[0].id), ("clip", "walk")]
    things += [("layer", layer.id) for effect in project.effects[:4] for layer in effect.layers]
    things += [("event", project.character.events[0].id), ("anchor", project.character.anchors[0].id)]
    things += [("part", character.parts[0].name), ("joint", character.skeleton.joint_names[0])]
    unnamed = set()
    for thing in things:
        window.go_to_thing(*thing)
        settle()
        for widget in window.findChildren(QWidget):
            text = widget.text() if isinstance(widget, QAbstractButton) else ""
            named = widget.accessibleName() or text or widget.property("label")
            if widget.focusPolicy() != Qt.FocusPolicy.NoFocus and widget.isVisible() and not named:
                unnamed.add((thing, type(widget).__name__))
    assert unnamed == set()


def test_the_names_of_deep_joints_are_indented_no_further(window):
    window.station("character")
    index = window.index("character")
    depths = [_depth(item) for item in index.items() if kind_of(item) == "joint"]
    assert len(depths) == len(window.session.character.skeleton.joint_names)
    assert max(depths) == DEEPEST + 1
