"""An empty project leads on: where to begin, recent projects, and first effects on a character by one click each."""

import json
from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tests.desktop.conftest import close_window, open_window, settle
from wraithon.desktop.session.recents import MAXIMUM, Recent, note_recent, recent_projects
from wraithon.project.files import save_project
from wraithon.project.project import Project
from wraithon.stage.loading import Loaded
from wraithon.stage.player import Player
from wraithon.studio.first_steps import FIRST_STEPS
from wraithon.support.places import state_folder

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture(scope="module")
def bare(demo):
    """Give the demo's character with nothing made of it."""
    use = demo.project.characters[0]
    clips = tuple(clip.evolve(marks=()) for clip in use.clips)
    use = use.evolve(anchors=(), events=(), clips=clips)
    project = demo.project.evolve(effects=(), triggers=(), presets=(), characters=(use,))
    return replace(demo, project=project)


@pytest.fixture
def bare_window(qtbot, bare):
    made = open_window(qtbot, bare)
    yield made
    close_window(made)


def test_an_empty_project_shows_where_to_begin_until_something_is_there(empty_window):
    view = empty_window.start_view
    assert view.isVisible()
    assert view._head.text() == "Begin"
    assert not view._steps.isVisible()
    assert not view._recent_head.isVisible()
    empty_window.enter("effects")
    empty_window.index("effects").add_effect()
    assert not view.isVisible()
    empty_window.session.undo()
    assert view.isVisible()


def test_a_recent_project_is_opened_by_a_click(qtbot, empty_window, tmp_path):
    save_project(Project(name="before"), tmp_path / "before")
    note_recent(tmp_path / "before", "before", np.full((60, 90, 4), 200, np.uint8))
    note_recent(tmp_path / "gone", "gone")
    empty_window.start_view.refresh()
    (button,) = empty_window.start_view.recents
    assert (button.text(), button.toolTip()) == ("before", str(tmp_path / "before"))
    assert not button.icon().isNull()
    QTest.mouseClick(button, LEFT)
    qtbot.waitUntil(lambda: empty_window.session.project.name == "before", timeout=20_000)


@pytest.mark.parametrize("name", FIRST_STEPS)
def test_each_first_effect_is_one_click_one_step_of_undo_and_seen(bare_window, name):
    view, session = bare_window.start_view, bare_window.session
    assert view.isVisible()
    assert view._head.text() == "Try on Halcyon"
    before = session.project
    QTest.mouseClick(view.steps[name], LEFT)
    kind, what = session.selection
    assert (kind, bare_window.at) == ("effect", "effects")
    assert view.isVisible()
    assert view._made.text().startswith(f'"{session.project.effect(what).name}": ')
    player = Player(session.project, session.characters)
    for moment in np.arange(0.1, 8.0, 0.1):
        player.seek(float(moment))
        if player.show.alive:
            break
    assert player.show.alive
    bare_window.set_playing(False)
    session.undo()
    assert session.project is before


def test_all_four_go_together_and_the_card_is_closed(bare_window):
    view = bare_window.start_view
    for button in view.steps.values():
        QTest.mouseClick(button, LEFT)
    names = [effect.name for effect in bare_window.session.project.effects]
    assert names == ["aura", "tread", "fan streamers", "strike"]
    assert [t.name for t in bare_window.session.project.triggers].count("strike") == 1
    levels = {f.level.value for f in bare_window.session.findings()}
    assert "error" not in levels
    QTest.mouseClick(view.close_it, LEFT)
    assert not view.isVisible()
    bare_window.set_playing(False)
    settle()


def test_what_cannot_be_found_is_told(bare, halcyon):
    still = replace(halcyon, clips=())
    for name, wanted in (
        ("Dust at the feet", "No foot comes down on any clip: mark the moments by hand, with E on the timeline"),
        ("Strike", "No joint is quick enough to strike: mark the moment by hand, with E"),
    ):
        step = FIRST_STEPS[name](bare.project, still)
        assert step.project is bare.project
        assert step.text == wanted


def test_recent_projects_are_few_once_each_and_those_that_are_gone_are_left_out(tmp_path):
    for number in range(MAXIMUM + 5):
        save_project(Project(name=str(number)), tmp_path / str(number))
        note_recent(tmp_path / str(number), str(number))
    note_recent(tmp_path / "10", "renamed")
    listed = recent_projects()
    assert len(listed) == MAXIMUM
    assert listed[0] == Recent(tmp_path / "10", "renamed")
    assert [each.name for each in listed].count("10") == 0
    (tmp_path / "16" / "project.json").unlink()
    assert "16" not in [each.name for each in recent_projects()]


@pytest.mark.parametrize("text", ["", "[", "{}", "[1, null]", '[{"folder": 3}]', '[{"name": "x"}]', "\x00"])
def test_a_damaged_list_is_an_empty_one(tmp_path, text):
    state_folder().mkdir(parents=True, exist_ok=True)
    (state_folder() / "recent.json").write_text(text)
    assert recent_projects() == []
    save_project(Project(), tmp_path / "p")
    note_recent(tmp_path / "p", "p")
    assert [each.name for each in recent_projects()] == ["p"]
    assert json.loads((state_folder() / "recent.json").read_text()) == [{"folder": str(tmp_path / "p"), "name": "p"}]


def test_an_empty_loaded_project_is_bare_again(qtbot, empty_window):
    empty_window.keeper._take(Loaded(Project(), None), None, "")
    assert empty_window.start_view.isVisible()
