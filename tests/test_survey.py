"""One firing of an effect: how far it reaches, how often it lays the picture over, and what is told of that."""

from __future__ import annotations

import json

import numpy as np
import pytest
from pydantic import ValidationError

from tests.test_cli import run
from wraithon.particles.looks.batch import Drawn
from wraithon.particles.looks.light import LightBatch
from wraithon.particles.looks.mark import DecalBatch
from wraithon.particles.looks.piece import MeshBatch
from wraithon.particles.looks.ribbon import RibbonBatch
from wraithon.particles.looks.shell import ShellBatch
from wraithon.particles.looks.sprite import SpriteBatch
from wraithon.picture.raster import RasterRenderer
from wraithon.picture.shipped import TextureLibrary
from wraithon.project.binding import Masters
from wraithon.project.checks.finding import mended
from wraithon.project.effect import Effect, EffectBounds, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.files import save_project
from wraithon.project.life import Attribute
from wraithon.project.look import DecalLook, Facing, Figure, LightLook, MeshLook, RibbonLook, ShellLook, SpriteLook
from wraithon.project.project import Project
from wraithon.project.source import Aim, Heading, PointSource, Riding
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.sampler_cache import SamplerCache
from wraithon.studio.survey import MAX_OVER, survey_findings, surveyed, worth_surveying

UP = PointSource(aim=Aim(heading=Heading.AXES, low=(0, 1, 0), high=(0, 1, 0)))
SHOT = Layer(
    id="l", source=UP, emission=Emission(bursts=(Burst(count=3),)), lifetime=Attribute.of(0.5),
    speed=Attribute.of(2.0), size=Attribute.of(0.2),
)  # fmt: skip
WIDE = Layer(
    id="l", emission=Emission(bursts=(Burst(count=60),)), speed=Attribute.of(0.0), size=Attribute.of(1.5),
    lifetime=Attribute.of(0.4),
)  # fmt: skip


def survey_of(effect, project=None, characters=None, *, drawn=False):
    library = TextureLibrary(None)
    renderer = RasterRenderer(library.read, library.pieces.read) if drawn else None
    return surveyed(effect, project or Project(), characters or {}, SamplerCache(library.read), renderer)


# ---- reach ----------------------------------------------------------------------------------------


def drawn(*, size=0.2, stretch=1.0, speed=0.0, opacity=1.0):
    one = np.ones(1, np.float32)
    positions = np.array([[1, 2, 3]], np.float32)
    return Drawn(
        positions, np.array([[speed, 0, 0]], np.float32), np.zeros((0, 3), np.float32), one * size, one * stretch,
        one * 0, np.array([[1, 1, 1, opacity]], np.float32), one * 0,
    )  # fmt: skip


IDS = np.zeros(1, np.uint64)
PLACE = np.array([[1, 2, 3]], np.float32)
BATCHES = {
    "sprite": (SpriteBatch("l", IDS, SpriteLook(), drawn(stretch=2)), PLACE, [np.hypot(0.1, 0.2)]),
    "fast sprite": (
        SpriteBatch("l", IDS, SpriteLook(facing=Facing.VELOCITY, stretch=0.1), drawn(speed=4)), PLACE,
        [np.hypot(0.1, 0.3)],
    ),
    "fast sprite, held": (
        SpriteBatch("l", IDS, SpriteLook(facing=Facing.VELOCITY, stretch=0.1, longest=1.5), drawn(speed=4)), PLACE,
        [np.hypot(0.1, 0.15)],
    ),
    "sprite that is not seen": (SpriteBatch("l", IDS, SpriteLook(), drawn(opacity=0)), PLACE[:0], None),
    "piece": (
        MeshBatch("l", IDS, MeshLook(), PLACE, np.eye(3, dtype=np.float32)[None], np.array([2.0], np.float32),
                   PLACE, np.zeros(1, np.int64)),
        PLACE, [3**0.5],
    ),
    "ribbon": (
        RibbonBatch("l", IDS, RibbonLook(), np.array([0, 1], np.int32), PLACE, PLACE[:0],
                    np.array([0.4], np.float32), np.ones((1, 4), np.float32), 0.0),
        PLACE, [0.2],
    ),
    "swept ribbon": (
        RibbonBatch("l", IDS, RibbonLook(), np.array([0, 1], np.int32), PLACE, np.array([[0, -1, 0.5]], np.float32),
                    np.array([2.0], np.float32), np.ones((1, 4), np.float32), 0.0),
        PLACE, [0, 2, 1],
    ),
    "mark": (DecalBatch("l", IDS, DecalLook(), drawn()), [[1, 0, 3]], [0.1 * 2**0.5, 0, 0.1 * 2**0.5]),
    "light": (
        LightBatch("l", IDS, LightLook(), PLACE, np.array([1.5], np.float32), np.ones((1, 3), np.float32)), PLACE,
        [1.5],
    ),
    "shell": (
        ShellBatch("l", IDS, ShellLook(tall=3, swell=0.05), drawn(), np.zeros(1, np.float32), None), [[1, 2.3, 3]],
        [0.15, 0.35, 0.15],
    ),
    "skin that nobody wears": (
        ShellBatch("l", IDS, ShellLook(figure=Figure.SKIN), drawn(), np.zeros(1, np.float32), None), PLACE[:0], None,
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", BATCHES)
def test_what_is_drawn_tells_how_far_it_reaches(name):
    batch, positions, halves = BATCHES[name]
    reach = batch.reach()
    np.testing.assert_allclose(reach.positions, positions, atol=1e-6)
    assert len(reach.halves) == len(reach.positions)
    if halves is not None:
        np.testing.assert_allclose(reach.halves, [halves], rtol=1e-5, atol=1e-7)


@pytest.mark.parametrize("name", [name for name in BATCHES if BATCHES[name][2] is not None and name != "mark"])
def test_what_is_moved_is_the_same_elsewhere(name):
    batch, by = BATCHES[name][0], np.array([1, 0.5, -2], np.float32)
    moved, before = batch.moved(by).reach(), batch.reach()
    np.testing.assert_allclose(moved.positions, before.positions + by, atol=1e-6)
    np.testing.assert_array_equal(moved.halves, before.halves)
    np.testing.assert_allclose(batch.reach().positions, before.positions)


def test_a_box_holds_a_firing_from_its_first_birth_to_its_last_death():
    survey = survey_of(Effect(id="e", layers=(SHOT,)))
    corner = 0.1 * 2**0.5
    # The last place that is seen is that of the last step before it dies.
    np.testing.assert_allclose(survey.low, (-corner, 2 / 60 - corner, -corner), atol=1e-3)
    np.testing.assert_allclose(survey.high, (corner, 2 * 29 / 60 + corner, corner), atol=2 / 60 + 1e-3)
    assert survey.over == 0.0  # nobody has drawn it


def test_master_values_count_and_what_is_left_out_does_not():
    once, twice = (survey_of(Effect(id="e", layers=(SHOT,), masters=Masters(size=size))) for size in (1, 2))
    np.testing.assert_allclose(np.array(twice.high), 2 * np.array(once.high), atol=1e-3)
    far = SHOT.evolve(id="far", source=UP.evolve(offset=(9, 0, 0)), disabled=True)
    assert survey_of(Effect(id="e", layers=(SHOT, far))).high == once.high
    nothing = survey_of(Effect(id="e", layers=(far,)))
    assert (nothing.low, nothing.high) == (None, None)
    assert survey_of(Effect(id="e")).low is None


def test_what_goes_on_is_measured_from_its_anchor_wherever_that_goes(demo):
    rides = SHOT.evolve(
        emission=Emission(rate=60), speed=Attribute.of(0.0), source=PointSource(riding=Riding(share=1.0)),
        lifetime=Attribute.of(2.0),
    )  # fmt: skip
    start = Trigger(when=AtStart(), response=(StartEffect(effect="e", anchor="right-fan-tip"),))
    effect = Effect(id="e", layers=(rides,), length=None)
    project = demo.project.evolve(effects=(effect,), triggers=(start,))
    survey = survey_of(effect, project, demo.characters)
    np.testing.assert_allclose(survey.high, 0.1 * 2**0.5, atol=1e-3)
    np.testing.assert_allclose(survey.low, -0.1 * 2**0.5, atol=1e-3)
    once = survey_of(effect.evolve(length=0.5), project, demo.characters)
    assert max(np.subtract(once.high, once.low)) > 1.0  # the fan is swung away from where it was


def test_what_an_event_starts_that_the_order_never_brings_is_seen_on_its_clip(demo):
    effect = demo.project.effect("scatter")
    assert all(clip_run.clip != "fall" for clip_run in demo.project.stage.order)
    survey = survey_of(effect, demo.project, demo.characters)
    assert survey.low is not None
    assert survey.high[1] - survey.low[1] > 1.0


def test_a_survey_is_the_same_each_time_and_changes_nothing(demo):
    effect, before = demo.project.effect("thunder-stamp"), demo.project.model_dump_json()
    one, two = (survey_of(effect, demo.project, demo.characters, drawn=True) for _ in range(2))
    assert one == two
    assert demo.project.model_dump_json() == before


def test_how_often_the_picture_is_laid_over_goes_with_the_number():
    effect = Effect(id="e", layers=(WIDE,))
    whole = survey_of(effect, drawn=True)
    half = survey_of(effect.evolve(masters=Masters(amount=0.5)), drawn=True)
    assert whole.over > MAX_OVER
    assert half.over == pytest.approx(whole.over / 2, rel=0.02)
    assert 0 <= whole.moment < 0.4


# ---- findings -------------------------------------------------------------------------------------


def test_bounds_are_a_box_with_a_margin_on_all_sides():
    assert EffectBounds(low=(-1, 0, 2), high=(1, 4, 2), margin=0.25).with_margin == ((-1.5, -1, 2), (1.5, 5, 2))
    with pytest.raises(ValidationError, match="swap them"):
        EffectBounds(low=(0, 0, 1), high=(1, 1, 0))
    with pytest.raises(ValidationError):
        EffectBounds(margin=float("nan"))


def test_bounds_that_are_too_small_are_told_with_how_far_and_where_and_mended():
    effect = Effect(
        id="e", name="shot", layers=(SHOT,), bounds=EffectBounds(low=(-1, -1, -1), high=(1, 0.5, 1), margin=0)
    )
    survey = survey_of(effect)
    (found,) = survey_findings(survey)
    assert f"reaches {survey.high[1] - 0.5:.2f} m beyond them upwards" in found.message
    assert (found.about, found.location) == ("e", 'effect "shot"')
    after = mended(Project(effects=(effect,)), found.remedy).effects[0]
    assert after.bounds.high == survey.high
    assert survey_findings(survey_of(after)) == []


@pytest.mark.parametrize(("margin", "told"), [(0.0, True), (0.05, True), (0.12, False), (1.0, False)])
def test_the_margin_counts(margin, told):
    high = 1.0  # it reaches to about 1.11 of 2 m
    bounds = EffectBounds(low=(-1, high - 1, -1), high=(1, high, 1), margin=margin)
    assert bool(survey_findings(survey_of(Effect(id="e", layers=(SHOT,), bounds=bounds)))) is told


def test_a_picture_laid_over_too_often_is_told_once_and_mended():
    effect = Effect(id="e", layers=(WIDE,))
    survey = survey_of(effect, drawn=True)
    (found,) = survey_findings(survey)
    assert f"overdraw is {survey.over:.1f}, more than 3" in found.message
    after = mended(Project(effects=(effect,)), found.remedy).effects[0]
    assert survey_findings(survey_of(after, drawn=True)) == []


def test_only_what_may_have_something_to_tell_is_fired():
    view = Project().view
    assert worth_surveying(Effect(layers=(WIDE,)), view)
    assert not worth_surveying(Effect(layers=(SHOT,)), view)
    assert worth_surveying(Effect(layers=(SHOT,), bounds=EffectBounds()), view)
    assert worth_surveying(Effect(layers=(SHOT,), masters=Masters(size=30)), view)
    assert worth_surveying(Effect(layers=(SHOT.evolve(look=ShellLook()),) * 2), view)
    fast = SHOT.evolve(look=SpriteLook(facing=Facing.VELOCITY, stretch=50), size=Attribute.of(0.5))
    assert worth_surveying(Effect(layers=(fast,)), view)


def test_checking_a_project_fires_what_may_be_told_of(tmp_path):
    bounds = EffectBounds(low=(-1, -1, -1), high=(1, 0.5, 1))
    rendered = Effect(id="e", name="shot", layers=(SHOT,), bounds=bounds)
    width = Effect(id="f", name="wide", layers=(WIDE.evolve(id="w"),))
    project = Project(effects=(rendered, width))
    save_project(project, tmp_path)
    found = json.loads(run("check", tmp_path, "--json").stdout)["findings"]
    assert [f["place"] for f in found] == ['effect "shot"', 'effect "wide"']
    assert [f["remedy"] for f in found] == ["Bounds as measured", found[1]["remedy"]]
    assert found[1]["remedy"].startswith("Bear ")
    for survey in (survey_of(effect, project, drawn=True) for effect in project.effects):
        project = mended(project, survey_findings(survey)[0].remedy)
    save_project(project, tmp_path)
    assert json.loads(run("check", tmp_path, "--json").stdout)["findings"] == []
