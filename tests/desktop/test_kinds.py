"""Each kind of look, source, trigger and action has every part that its kind needs, and nothing else has one."""

from importlib import import_module

import pytest

from wraithon.desktop.effects import source_diagram, source_editor
from wraithon.desktop.triggers import action_rows, rows
from wraithon.particles import program
from wraithon.project.look import LOOKS
from wraithon.project.source import SOURCES, OffspringSource, PointSource, SkinSource
from wraithon.project.staging.actions import ACTION_MODELS
from wraithon.project.staging.trigger_kinds import TRIGGER_MODELS
from wraithon.stage.triggering import moments, responses
from wraithon.studio import sentence


@pytest.mark.parametrize("kind", LOOKS)
def test_a_look_has_what_writes_draws_and_edits_it(kind):
    assert callable(import_module(f"wraithon.particles.looks.{kind}").batch_of)
    drawer = import_module(f"wraithon.picture.looks.{kind}").DRAWER
    assert drawer.phase is not None
    editor = import_module(f"wraithon.desktop.effects.looks.{kind}")
    assert editor.CALLED
    assert editor.ROWS


def test_sources_have_a_code_measures_a_diagram_rows_and_a_name_in_the_list():
    # The skin is read with its sampler, and drawn as the character itself.
    assert program.KINDS.keys() == SOURCES.keys() - {"skin"}
    assert set(program.MEASURES) == set(SOURCES.values()) - {PointSource, SkinSource, OffspringSource}
    assert set(source_diagram.SHAPES) == set(SOURCES.values()) - {PointSource, SkinSource}
    assert source_editor.ROWS.keys() == SOURCES.keys()
    assert sorted(kind for _, kind in source_editor.KINDS) == sorted(SOURCES)


def test_triggers_have_moments_rows_words_and_a_name_in_the_list():
    assert moments.KINDS.keys() == TRIGGER_MODELS.keys()
    assert rows.WHEN_ROWS.keys() == TRIGGER_MODELS.keys()
    assert set(sentence.WHENS) == set(TRIGGER_MODELS.values())
    assert sorted(kind for _, kind in rows.WHEN_CHOICES) == sorted(TRIGGER_MODELS)


def test_actions_have_what_does_them_rows_words_and_a_name_in_the_list():
    every = set(ACTION_MODELS)
    assert set(responses.ACTIONS) == every
    assert set(action_rows.ACTION_ROWS) == every
    assert set(sentence.DOES) == every
    assert {make for _, make in action_rows.ACTION_KINDS} == every


@pytest.mark.parametrize("kinds", [SOURCES, TRIGGER_MODELS, LOOKS])
def test_a_kind_is_found_by_the_word_that_its_model_writes(kinds):
    assert {kind: model().kind for kind, model in kinds.items()} == {kind: kind for kind in kinds}


@pytest.mark.parametrize("choices", [source_editor.KINDS, rows.WHEN_CHOICES, action_rows.ACTION_KINDS])
def test_no_two_kinds_are_called_the_same(choices):
    names = [name for name, _ in choices]
    assert len(set(names)) == len(names)
