"""Places within models, and dials that drive what stands there."""

import numpy as np
import pytest
from pydantic import ValidationError

from wraithon.particles.program import compile_layer
from wraithon.project.binding import DIAL_KINDS, Binding, Dial
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Burst, Emission
from wraithon.project.files import open_project, save_project
from wraithon.project.life import Attribute
from wraithon.project.look import FrameGrid, SpriteLook
from wraithon.project.motion import Curl, Gravity, Motion, Wind
from wraithon.project.paths import NumberBounds, bounds_at, value_at, with_value_at
from wraithon.project.project import Project
from wraithon.project.resolving.references import reached
from wraithon.project.resolving.resolving import resolved
from wraithon.project.source import Aim, PointSource
from wraithon.project.staging.actions import StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.things import with_value
from wraithon.project.trigger import Trigger
from wraithon.stage.player import Player

LAYER = Layer(
    id="l",
    source=PointSource(aim=Aim(spread=20)),
    emission=Emission(rate=7, bursts=(Burst(count=3), Burst(count=4))),
    motion=Motion(forces=(Gravity(pull=1), Wind(push=(1, 2, 3)))),
)


@pytest.mark.parametrize(
    ("path", "value"),
    [
        ("emission.rate", 7), ("emission.bursts.1.count", 4), ("emission.bursts.-1.count", 4),
        ("source.aim.spread", 20), ("motion.forces.1.push.2", 3), ("motion.forces", LAYER.motion.forces),
        ("look.blend", LAYER.look.blend), ("size.life", LAYER.size.life),
    ],
)  # fmt: skip
def test_what_stands_at_a_path(path, value):
    assert value_at(LAYER, path) == value


def test_below_nothing_is_nothing():
    assert value_at(Trigger(when=AtStart()), "response") == ()
    assert value_at(Emission(), "length") is None
    assert value_at(Emission(), "length.deeper.still") is None


@pytest.mark.parametrize("path", ["emission.pace", "nothing", "emission.bursts.2.count", "motion.forces.7"])
def test_a_place_that_is_not_there_is_an_error(path):
    with pytest.raises((AttributeError, IndexError)):
        value_at(LAYER, path)
    with pytest.raises((AttributeError, IndexError)):
        with_value_at(LAYER, path, 1)


@pytest.mark.parametrize(
    "path", ["nothing", "emission.bursts.2.count", "motion.forces.7", "motion.forces.0.push.0", "emission.length.low"]
)
def test_a_project_is_left_as_it_is_where_the_place_is_gone(path):
    """A field that is left after its row was taken out, or after another kind stands there, sets nothing."""
    other = LAYER.evolve(id="other")
    project = Project(effects=(Effect(id="e", layers=(LAYER, other)),))
    assert with_value(project, "layer", "l", path, 1) is project
    assert reached(project, "l", ["other"], path, 1) is project
    assert with_value(project, "layer", "gone", "name", "dust") is project


@pytest.mark.parametrize(
    ("path", "value"),
    [
        ("name", "dust"), ("emission.rate", 9.5), ("emission.bursts.0.count", 8), ("emission.bursts.-1.count", 8),
        ("motion.forces.1.push.0", -4.0), ("source.aim.spread", 45.0), ("motion.forces.0", Curl(strength=3)),
    ],
)  # fmt: skip
def test_putting_changes_that_place_and_shares_the_rest(path, value):
    changed = with_value_at(LAYER, path, value)
    assert value_at(changed, path) == value
    assert value_at(LAYER, path) != value
    top = path.split(".")[0]
    for name in Layer.model_fields:
        assert (getattr(changed, name) is getattr(LAYER, name)) is (name != top)
    assert with_value_at(changed, path, value_at(LAYER, path)) == LAYER


@pytest.mark.parametrize(
    ("path", "value"),
    [("emission.rate", -1), ("emission.rate", float("nan")), ("look.sheet.columns", 17), ("name", ""), ("size", 3)],
)
def test_what_may_not_stand_there_is_refused(path, value):
    with pytest.raises(ValidationError):
        with_value_at(LAYER, path, value)


@pytest.mark.parametrize(
    ("kind", "path", "bounds"),
    [
        (FrameGrid, "columns", NumberBounds(1, 16, whole=True)), (SpriteLook, "sheet.rows", NumberBounds(1, 16,
        whole=True)),
        (SpriteLook, "soft", NumberBounds(0, 1e6)), (Wind, "push.1", NumberBounds(-1e6, 1e6)),
        (Motion, "ground.bounce", NumberBounds(0, 1)),
        (Layer, "opacity.birth.low", NumberBounds(-1e6, 1e6)), (Emission, "length", NumberBounds(0, 1e6)),
        (StartEffect, "after", NumberBounds(0, 1e6)), (Dial, "low", NumberBounds(-1e6, 1e6)),
    ],
)  # fmt: skip
def test_bounds_are_what_the_model_says(kind, path, bounds):
    found = bounds_at(kind, path)
    assert found == bounds


def test_an_open_bound_is_shown_a_little_inside():
    assert bounds_at(Curl, "scale").low > 0
    Curl(scale=bounds_at(Curl, "scale").low)


@pytest.mark.parametrize("path", ["name", "look", "nothing.at.all", "look.texture"])
def test_what_is_no_number_has_no_bounds(path):
    with pytest.raises(KeyError):
        bounds_at(Layer, path)


# ---- dials ----------------------------------------------------------------------------------------


def effect(*bindings, **dial):
    return Effect(id="e", layers=(LAYER, Layer(id="m")), dials=(Dial(id="d", **dial),), bindings=bindings)


def bound(path="emission.rate", low=10.0, high=30.0, layer="l", dial="d"):
    return Binding(dial=dial, layer=layer, path=path, low=low, high=high)


@pytest.mark.parametrize(("setting", "rate"), [(0.0, 10), (0.25, 15), (1.0, 30), (-5.0, 10), (9.0, 30), (0.5, 20)])
def test_a_dial_drives_its_value_from_end_to_end_and_no_further(setting, rate):
    assert resolved(effect(bound()), {"d": setting}).layers[0].emission.rate == rate


def test_unset_it_stands_where_it_was_left_and_its_own_range_counts():
    driven = effect(bound(), low=100, high=200, value=150)
    assert resolved(driven).layers[0].emission.rate == 20
    assert resolved(driven, {"other": 3}).layers[0].emission.rate == 20
    assert resolved(driven, {"d": 200}).layers[0].emission.rate == 30


def test_a_range_may_run_backwards_and_a_dial_without_width_stands_low():
    assert resolved(effect(bound(low=30, high=10)), {"d": 0.25}).layers[0].emission.rate == 25
    assert resolved(effect(bound(), low=2, high=2, value=2)).layers[0].emission.rate == 10


def test_one_dial_drives_several_layers_and_later_bindings_go_on_from_earlier():
    driven = resolved(effect(bound(), bound("motion.forces.1.push.0", 0, 4), bound(layer="m")), {"d": 0.5})
    assert [layer.emission.rate for layer in driven.layers] == [20, 20]
    assert driven.layers[0].motion.forces[1].push == (2, 2, 3)
    assert driven.layers[0].source is LAYER.source


@pytest.mark.parametrize("with_dials", [1, -1])
def test_both_ends_of_a_range_can_be_driven_whichever_comes_first(with_dials):
    ends = [bound("lifetime.birth.low", 2, 4), bound("lifetime.birth.high", 6, 8)][::with_dials]
    assert resolved(effect(*ends), {"d": 1}).layers[0].lifetime == Attribute.of(4, 8)


@pytest.mark.parametrize(
    "broken",
    [
        bound(dial="gone"), bound(layer="gone"), bound("emission.pace"), bound("motion.forces.9.pull"),
        bound(low=-10, high=-5), bound("emission.bursts.x.count"),
    ],
)  # fmt: skip
def test_what_cannot_be_followed_leaves_the_value_as_it_is(broken):
    driven = effect(broken)
    assert resolved(driven) is driven
    assert resolved(effect(broken, bound()), {"d": 1}).layers[0].emission.rate == 30


def into(*values):
    return Binding(dial="d", layer="l", path="emission.rate", values=values)


@pytest.mark.parametrize(
    ("dial", "binding", "settings"),
    [
        ({"kind": "toggle"}, bound(), {0.0: 10, 0.49: 10, 0.5: 30, 1.0: 30}),
        ({"kind": "choice", "options": ("a", "b")}, into(3.0, 8.0), {0.0: 3, 1.0: 8, 7.0: 8, -1.0: 3}),
        ({"kind": "choice", "options": ("a", "b")}, into(3.0), {0.0: 3, 1.0: 7}),
        ({"kind": "choice"}, bound(), {0.0: 7, 1.0: 7}),
        ({"kind": "colour"}, bound(), {(1.0, 0.0, 0.0): 7}),
    ],
)  # fmt: skip
def test_toggles_and_choices_put_what_belongs_to_each(dial, binding, settings):
    for setting, rate in settings.items():
        assert resolved(effect(binding, **dial), {"d": setting}).layers[0].emission.rate == rate


def test_what_is_yes_or_no_follows_numbers_and_toggles():
    driven = effect(bound("disabled", 1, 0), bound("motion.forces.0.disabled", 0, 1))
    for setting, muted, off in ((0.0, True, False), (0.5, True, True), (0.51, False, True), (1.0, False, True)):
        layer = resolved(driven, {"d": setting}).layers[0]
        assert (layer.disabled, layer.motion.forces[0].disabled) == (muted, off)


def test_colours_words_and_textures_are_set_by_choices_and_colours_by_colours():
    paths = {"colour.second": (0.0, 1.0, 0.5), "look.blend": "multiply", "look.texture": "smoke", "disabled": True}
    choice = [Binding(dial="d", layer="l", path=path, values=(False, value)) for path, value in paths.items()]
    layer = resolved(effect(*choice, kind="choice", options=("a", "b"), value=1)).layers[0]
    assert {path: value_at(layer, path) for path in paths} == paths
    first = Binding(dial="d", layer="l", path="colour.first")
    tinted = resolved(effect(first, kind="colour", colour=(0.5, 0.25, 0.0))).layers[0]
    assert tinted.colour.first == (0.5, 0.25, 0.0)
    assert resolved(effect(first, kind="colour"), {"d": (0.0, 2.0, 0.0)}).layers[0].colour.first == (0.0, 2.0, 0.0)


def test_dials_of_every_kind_are_saved_and_bindings_keep_what_they_hold(tmp_path):
    values = (True, 0.5, 3.0, (0.0, 1.0, 2.0), "additive", "")
    dials = tuple(Dial(id=kind, kind=kind, options=("a", "b")) for kind in DIAL_KINDS)
    binding = Binding(dial="choice", layer="l", path="look.blend", values=values)
    project = Project(effects=(Effect(layers=(LAYER,), dials=dials, bindings=(binding,)),))
    save_project(project, tmp_path)
    read = open_project(tmp_path).project.effects[0].bindings[0].values
    assert read == values
    assert [type(value) for value in read] == [bool, float, float, tuple, str, str]


@pytest.mark.parametrize("value", [float("nan"), float("inf"), (1.0, 2.0), (1.0, -1.0, 0.0), "x" * 201, None])
def test_what_a_choice_may_not_put_is_refused(value):
    with pytest.raises(ValidationError):
        Binding(dial="d", layer="l", path="name", values=(value,))


def test_no_dial_is_the_same_effect():
    plain = Effect(layers=(LAYER,))
    assert resolved(plain) is plain


def test_dials_are_followed_before_a_layer_is_compiled():
    driven = effect(bound("lifetime.birth.low", 2, 2), bound("lifetime.birth.high", 6, 6))
    program = compile_layer(resolved(driven).layers[0], "e", 1, None)
    np.testing.assert_array_equal(program.birth.lifetime, [2, 6])


def test_a_show_plays_what_the_dials_say():
    start = Trigger(when=AtStart(), response=(StartEffect(effect="e"),))
    quiet = Layer(id="l", emission=Emission(rate=0, length=None), lifetime=Attribute.of(10))
    for value, alive in ((0.0, 0), (1.0, 60)):
        driven = Effect(
            id="e", layers=(quiet,), dials=(Dial(id="d", value=value),), bindings=(bound(low=0, high=60),)
        )  # fmt: skip
        player = Player(Project(effects=(driven,), triggers=(start,)), {})
        player.seek(1.0)
        assert player.show.alive == alive


def test_dials_are_saved_with_their_effect(tmp_path):
    project = Project(effects=(effect(bound(), name="anger", low=-1, high=3, value=2),))
    save_project(project, tmp_path)
    assert open_project(tmp_path).project.effects == project.effects
