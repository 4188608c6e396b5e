"""Nothing is saved over unasked, and two windows on one project know of each other."""

import shutil

import pytest
from PySide6.QtWidgets import QMessageBox

from tests.desktop.conftest import close_window, open_window
from wraithon.demo import DEMO_FOLDER
from wraithon.project.files import open_project, save_project
from wraithon.stage.loading import load


@pytest.fixture
def folder(tmp_path):
    made = tmp_path / "mine"
    shutil.copytree(DEMO_FOLDER, made)
    return made


@pytest.fixture
def opened(qtbot, folder):
    made = open_window(qtbot, load(folder), folder, str(folder))
    yield made
    close_window(made)


@pytest.fixture
def answer(monkeypatch):
    """Return what is asked, and a place for the word of the button to press."""
    told = {"asked": [], "press": None}

    def run(box):
        told["asked"].append(box.text())
        told["clicked"] = next((b for b in box.buttons() if b.text() == told["press"]), None)

    monkeypatch.setattr(QMessageBox, "exec", run)
    monkeypatch.setattr(QMessageBox, "clickedButton", lambda _box: told["clicked"])
    return told


def test_saving_where_it_came_from_asks_nothing(opened, folder, answer):
    opened.session.edit("Rename", lambda p: p.evolve(name="Mine"))
    assert opened.keeper.save()
    opened.session.edit("Rename", lambda p: p.evolve(name="Mine too"))
    assert opened.keeper.save()
    assert answer["asked"] == []
    assert open_project(folder).project.name == "Mine too"


@pytest.mark.parametrize(("press", "name"), [("Save over it", "Mine"), ("Stay here", "Theirs"), (None, "Theirs")])
def test_something_newer_on_the_disk_is_not_saved_over_unasked(opened, folder, answer, press, name):
    save_project(open_project(folder).project.evolve(name="Theirs"), folder)
    opened.session.edit("Rename", lambda p: p.evolve(name="Mine"))
    answer["press"] = press
    assert opened.keeper.save() is (press == "Save over it")
    assert len(answer["asked"]) == 1
    assert "changed by another window or program" in answer["asked"][0]
    assert open_project(folder).project.name == name
    assert opened.session.history.unsaved is (press != "Save over it")


@pytest.mark.parametrize(("press", "name"), [("Replace it", "Halcyon"), ("Stay here", "Theirs")])
def test_another_project_in_the_folder_is_named_before_it_goes(opened, tmp_path, answer, press, name):
    other = tmp_path / "other"
    shutil.copytree(DEMO_FOLDER, other)
    save_project(open_project(other).project.evolve(name="Theirs"), other)
    answer["press"] = press
    assert opened.keeper.save_in(other) is (press == "Replace it")
    assert "already holds the project “Theirs”" in answer["asked"][0]
    assert open_project(other).project.name == name


def test_an_empty_folder_is_taken_without_a_question(opened, tmp_path, answer):
    assert opened.keeper.save_in(tmp_path / "new")
    assert answer["asked"] == []


def test_the_second_window_on_a_project_is_told(qtbot, opened, folder):
    assert not opened.bar.isVisible()
    second = open_window(qtbot, load(folder), folder, str(folder))
    assert second.bar.isVisible()
    assert "open in another window" in second.bar._text.text()
    second.bar.answer(0)
    assert not second.bar.isVisible()
    close_window(second)
