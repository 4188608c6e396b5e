"""Undo at its bounds: how many steps are kept, what merges, and what counts as saved."""

import pytest

from wraithon.project.history import History
from wraithon.project.project import Project


def project(n):
    return Project(seed=n)


def recorded(*seeds, merge=""):
    history = History(project(0))
    for n in seeds:
        history.record(project(n), f"to {n}", merge)
    return history


def seeds_of_undoing(history):
    seen = [history.project.seed]
    while history.undo_label is not None:
        seen.append(history.undo().seed)
    return seen


def test_nothing_is_undone_or_redone_at_first():
    history = History(project(0))
    assert (history.undo_label, history.redo_label, history.unsaved) == (None, None, False)
    assert history.undo() is history.project
    assert history.redo() is history.project


def test_labels_are_those_of_the_step_that_is_next():
    history = recorded(1, 2)
    assert (history.undo_label, history.redo_label) == ("to 2", None)
    history.undo()
    assert (history.undo_label, history.redo_label) == ("to 1", "to 2")
    history.undo()
    assert (history.undo_label, history.redo_label) == (None, "to 1")
    history.redo()
    assert (history.undo_label, history.redo_label) == ("to 1", "to 2")


def test_an_edit_after_undo_drops_what_was_undone():
    history = recorded(1, 2, 3)
    history.undo()
    history.undo()
    history.record(project(9), "to 9")
    assert history.redo_label is None
    assert seeds_of_undoing(history) == [9, 1, 0]


def test_the_oldest_steps_go_when_there_are_too_many(monkeypatch):
    monkeypatch.setattr(History, "limit", 4)
    assert seeds_of_undoing(recorded(1, 2, 3)) == [3, 2, 1, 0]
    assert seeds_of_undoing(recorded(1, 2, 3, 4)) == [4, 3, 2, 1]


def test_five_hundred_steps_are_kept():
    history = recorded(*range(1, 502))
    assert len(seeds_of_undoing(history)) == 500


@pytest.mark.parametrize("merge", ["drag", ""])
def test_edits_of_one_key_are_one_step_and_those_without_are_not(merge):
    history = recorded(1, 2, 3, merge=merge)
    assert seeds_of_undoing(history) == ([3, 0] if merge else [3, 2, 1, 0])


def test_a_merged_step_is_called_by_its_last_edit():
    history = recorded(1, 2, merge="drag")
    assert history.undo_label == "to 2"


def test_another_key_a_seal_an_undo_and_saving_end_a_run():
    history = recorded(1, merge="drag")
    history.record(project(2), "to 2", "other")
    assert seeds_of_undoing(history) == [2, 1, 0]
    for end in (lambda h: h.seal(), lambda h: h.mark_saved(), lambda h: (h.undo(), h.redo())):
        history = recorded(1, merge="drag")
        end(history)
        history.record(project(2), "to 2", "drag")
        assert seeds_of_undoing(history) == [2, 1, 0]


def test_the_first_project_is_never_merged_into():
    history = History(project(0))
    history.seal()
    history.record(project(1), "to 1", "")
    assert history.undo().seed == 0


def test_an_edit_that_changes_nothing_is_no_step():
    history = recorded(1)
    assert not history.record(project(1), "again")
    assert history.undo_label == "to 1"


def test_unsaved_follows_what_is_on_disk_both_ways():
    history = recorded(1)
    assert history.unsaved
    history.mark_saved()
    assert not history.unsaved
    history.undo()
    assert history.unsaved
    history.redo()
    assert not history.unsaved
    history.record(project(2), "to 2")
    history.record(project(1), "back by hand")
    assert not history.unsaved  # equal is as good as the same
    history.mark_unsaved()
    assert history.unsaved
