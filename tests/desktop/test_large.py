"""Large projects: what an edit does hangs on what it changes, and hardly on how large the project is."""

from __future__ import annotations

import sys
from dataclasses import replace

import pytest
from PySide6.QtTest import QTest

from tests.desktop.conftest import close_window, open_window
from wraithon.project.edit import with_effect
from wraithon.project.files import from_text, to_text


def grown(demo, layers):
    """Return the demo with copies of its effects, of so many layers in all."""
    project, effects, number = demo.project, list(demo.project.effects), 0
    pool = [layer for effect in effects for layer in effect.layers if layer.source.kind != "offspring"]
    while sum(len(effect.layers) for effect in effects) < layers:
        own = tuple(
            pool[(7 * number + k) % len(pool)].evolve(id=f"copy{number}-{k}", name=f"copy {k}") for k in range(18)
        )
        first = project.effects[number % len(project.effects)]
        effects.append(first.evolve(id=f"copy{number}", name=f"copy {number}", layers=own, dials=(), bindings=()))
        number += 1
    return replace(demo, project=project.evolve(effects=tuple(effects)))


def calls_of(act):
    """Return how many calls of functions something takes."""
    count = 0

    def heard(_frame, what, _told):
        nonlocal count
        count += what in {"call", "c_call"}

    sys.setprofile(heard)
    try:
        act()
    finally:
        sys.setprofile(None)
    return count


@pytest.fixture
def working(qtbot, demo):
    """Open a window with a project of so many layers, its first one selected."""
    made = []

    def open_it(layers):
        window = open_window(qtbot, grown(demo, layers))
        made.append(window)
        window.session.select("layer", window.session.project.effects[0].layers[0].id)
        QTest.qWait(100)
        return window

    yield open_it
    for window in made:
        close_window(window)


def edit_calls(window):
    layer = window.session.project.effects[0].layers[0].id

    def edit(value):
        assert window.session.set_value("layer", layer, "size.birth.high", value, "Size")

    edit(0.071)
    return min(calls_of(lambda value=value: edit(value)) for value in (0.072, 0.073, 0.074))


def test_an_edit_of_a_number_takes_no_more_in_a_large_project(working):
    small, large = (edit_calls(working(layers)) for layers in (34, 600))
    assert large < 1.6 * small, (small, large)


def test_the_list_follows_what_changes_and_keeps_the_rest(working):
    window = working(200)
    index, session = window.index("effects"), window.session
    effects = session.project.effects
    kept = index.item("effect", effects[5].id)
    first, last = effects[0], effects[-1]
    session.edit("Swap", lambda p: p.evolve(effects=(last, *effects[1:-1], first)))
    assert [index.tree.topLevelItem(k).text(0) for k in (0, len(effects) - 1)] == [last.name, first.name]
    assert index.item("effect", effects[5].id) is kept
    moved = first.layers[0]
    session.edit("Move a layer", lambda p: p.evolve(effects=(
        last.evolve(layers=(*last.layers, moved)), *effects[1:-1], first.evolve(layers=first.layers[1:]),
    )))  # fmt: skip
    assert index.item("layer", moved.id).parent().text(0) == last.name
    session.edit("Remove", lambda p: p.evolve(effects=p.effects[1:]))
    assert index.item("layer", moved.id) is None
    assert index.item("effect", last.id) is None
    names = [index.tree.topLevelItem(k).text(0) for k in range(index.tree.topLevelItemCount())]
    assert names == [effect.name for effect in session.project.effects]
    session.undo()
    session.undo()
    assert index.item("layer", moved.id).parent().text(0) == first.name or index.item("layer", moved.id)
    session.set_value("effect", effects[3].id, "name", "another", "Rename")
    assert index.item("effect", effects[3].id).text(0) == "another"


def test_a_large_project_is_written_out_by_what_has_changed(demo):
    project = grown(demo, 400).project
    text = to_text(project)
    first = project.effects[0]
    changed = project.evolve(effects=(first.evolve(name="another"), *project.effects[1:]))
    assert from_text(to_text(changed)).project == changed
    assert to_text(project) == text
    whole, part = calls_of(lambda: to_text(from_text(text).project)), calls_of(lambda: to_text(changed))
    assert part < whole / 20


def test_a_folded_effect_stays_folded_when_its_layers_change(working):
    window = working(34)
    index, session = window.index("effects"), window.session
    effect = session.project.effects[1]  # what is selected is in the first one
    index.tree.topLevelItem(1).setExpanded(False)
    session.set_value("layer", effect.layers[0].id, "size.birth.high", 0.0731, "Size")
    session.edit("Another layer", lambda p: with_effect(p, effect.evolve(layers=effect.layers[:-1])))
    assert not index.tree.topLevelItem(1).isExpanded()
    assert index.tree.topLevelItem(1).childCount() == len(effect.layers) - 1
    assert index.tree.topLevelItem(0).isExpanded()
