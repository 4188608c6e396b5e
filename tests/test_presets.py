"""Presets: kept, used, followed but for what is one's own, and on the disk."""

from __future__ import annotations

import numpy as np
import pytest
from pydantic import ValidationError

from wraithon.interchange.presets import (
    drop_preset,
    found_presets,
    keep_preset,
    shipped_presets,
    stored_presets,
)
from wraithon.picture.raster import RasterRenderer
from wraithon.picture.shipped import TextureLibrary
from wraithon.project.binding import Binding, Dial, Masters
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Emission
from wraithon.project.findings import check
from wraithon.project.life import Attribute
from wraithon.project.look import SpriteLook
from wraithon.project.preset import Preset
from wraithon.project.project import Project
from wraithon.project.resolving.following import (
    ROWS,
    back_to_preset,
    into_preset,
    keep_effect,
    keep_layer,
    own_rows,
    preset_of,
    used_effect,
    used_layer,
    with_preset,
)
from wraithon.project.resolving.membership import Apart, apart, back_to_whole, into_whole, whole_of
from wraithon.project.source import OffspringSource
from wraithon.project.things import find, with_thing
from wraithon.stage.sampler_cache import SamplerCache
from wraithon.studio.thumbnails import SIZE, thumbnail
from wraithon.support.errors import ProjectError

SPARK = Layer(id="spark", name="spark", emission=Emission(rate=40), size=Attribute.of(0.05))
SMOKE = SPARK.evolve(id="smoke", name="smoke", source=OffspringSource(layer="spark"), emission=Emission())
START = Project(effects=(Effect(id="one", name="one", layers=(SPARK, SMOKE)), Effect(id="two", name="two")))


def layer_of(project, what):
    return project.layer(what)[1]


def change(project, what, **values):
    return with_thing(project, "layer", what, layer_of(project, what).evolve(**values))


@pytest.fixture
def kept():
    """A project with a preset of the spark, used in the second effect as well."""
    project = keep_layer(START, "spark", "sparks")
    return used_layer(project, project.presets[0], "two")


# ---- keeping and using ----------------------------------------------------------------------------


def test_a_layer_that_is_kept_follows_its_preset_and_looks_as_before():
    project = keep_layer(START, "spark", "sparks")
    (preset,) = project.presets
    assert preset.name == "sparks"
    assert preset_of(project, layer_of(project, "spark")) == (preset, preset.layer)
    assert all(getattr(preset.layer, row) == getattr(SPARK, row) for row in ROWS)
    assert layer_of(project, "spark").evolve(follows=None) == SPARK
    assert own_rows(project, "spark") == ()
    assert [p.name for p in keep_layer(project, "spark", "sparks").presets] == ["sparks", "sparks 2"]


def test_what_is_used_is_another_layer_that_follows(kept):
    project, new = kept
    mine = layer_of(project, new)
    assert mine.name == "sparks"
    assert mine.id not in {"spark", project.presets[0].layer.id}
    assert own_rows(project, new) == ()
    again, newer = used_layer(project, project.presets[0], "two")
    assert layer_of(again, newer).name == "sparks 2"


def test_a_change_is_ones_own_and_has_a_way_back(kept):
    project, new = kept
    project = change(project, new, size=Attribute.of(0.2), look=SpriteLook(texture="glow.png"))
    assert own_rows(project, new) == ("size", "look")
    assert own_rows(project, "spark") == ()
    project = back_to_preset(project, new, ["size"])
    assert own_rows(project, new) == ("look",)
    assert own_rows(back_to_preset(project, new), new) == ()


def test_what_follows_a_preset_changes_with_it_but_in_its_own_rows(kept):
    project, new = kept
    project, third = used_layer(project, project.presets[0], "two")
    project = change(project, third, size=Attribute.of(0.3))
    project = change(project, new, size=Attribute.of(0.2), speed=Attribute.of(4.0))
    project = into_preset(project, new)
    assert own_rows(project, new) == ()
    assert project.presets[0].layer.size.ends == (0.2, 0.2)
    spark = layer_of(project, "spark")
    assert (spark.size.ends[0], spark.speed.ends[0]) == (0.2, 4.0)
    assert (layer_of(project, third).size.ends[0], layer_of(project, third).speed.ends[0]) == (0.3, 4.0)
    assert own_rows(project, third) == ("size",)


def test_only_the_rows_that_are_named_go_into_the_preset(kept):
    project, new = kept
    project = into_preset(change(project, new, size=Attribute.of(0.2), speed=Attribute.of(4.0)), new, ["speed"])
    assert layer_of(project, "spark").speed.ends[0] == 4.0
    assert layer_of(project, "spark").size == SPARK.size
    assert own_rows(project, new) == ("size",)


def test_layers_of_an_effect_are_born_by_their_own_siblings():
    project = keep_effect(START, "one", "burst")
    preset = project.presets[0]
    assert preset.effect.layers[1].source.layer == preset.effect.layers[0].id
    project, new = used_effect(project, preset)
    first, second = project.effect(new).layers
    assert second.source.layer == first.id
    assert own_rows(project, second.id) == own_rows(project, "smoke") == ()
    project = change(project, "smoke", source=SMOKE.source.evolve(count=9))
    project = into_preset(project, "smoke")
    after = layer_of(project, second.id).source
    assert (after.layer, after.count) == (first.id, 9)
    assert back_to_preset(project, second.id) == project


# ---- effects that follow a preset -----------------------------------------------------------------


@pytest.fixture
def both():
    """A project with a preset of an effect, and the ids of it and of two that follow it besides."""
    project = keep_effect(START.evolve(effects=START.effects[:1]), "one", "burst")
    project, second = used_effect(project, project.presets[0])
    project, third = used_effect(project, project.presets[0])
    return project, second, third


def edit_effect(project, what, **values):
    return with_thing(project, "effect", what, project.effect(what).evolve(**values))


def test_an_effect_that_is_used_follows_and_is_not_apart(both):
    project, second, third = both
    assert whole_of(project, project.effect("one")) == (project.presets[0], project.presets[0].effect)
    assert project.presets[0].effect.follows is None
    for what in ("one", second, third):
        assert apart(project, what) == Apart()
        assert back_to_whole(project, what) == into_whole(project, what) == project


def test_an_effects_own_values_go_into_the_preset_and_back_but_what_is_ones_own_stays(both):
    project, second, third = both
    project = edit_effect(project, third, length=7.0)
    project = edit_effect(project, second, length=2.0, warm_up=0.5, masters=Masters(size=2))
    assert apart(project, second).rows == ("length", "warm_up", "masters")
    assert back_to_whole(project, second, ["masters"]).effect(second).masters == Masters()
    assert apart(back_to_whole(project, second, ["masters"]), second).rows == ("length", "warm_up")
    project = into_whole(project, second)
    assert [project.effect(what).length for what in ("one", second, third)] == [2.0, 2.0, 7.0]
    assert [project.effect(what).warm_up for what in ("one", second, third)] == [0.5] * 3
    assert apart(project, third).rows == ("length",)
    assert back_to_whole(project, third).effect(third).length == 2.0


def test_layers_that_are_new_or_gone_in_one_come_and_go_in_all_that_follow(both):
    project, second, third = both
    mine = project.effect(second)
    new = Layer(id="dust", name="dust", source=OffspringSource(layer=mine.layers[0].id))
    project = edit_effect(project, second, layers=(mine.layers[0], new))
    found = apart(project, second)
    assert ([x.name for x in found.missing], [x.name for x in found.more]) == (["smoke"], ["dust"])
    project = into_whole(project, second)
    assert [layer.name for layer in project.presets[0].effect.layers] == ["spark", "dust"]
    for what in ("one", second, third):
        first, last = project.effect(what).layers
        assert (first.name, last.name, last.source.layer) == ("spark", "dust", first.id)
        assert apart(project, what) == Apart()
        assert own_rows(project, last.id) == ()
    ids = [layer.id for effect in project.effects for layer in effect.layers]
    assert len(set(ids)) == len(ids)


def test_a_layer_that_was_changed_stays_where_the_preset_loses_it_and_follows_no_more(both):
    project, second, third = both
    smoke = project.effect(third).layers[1]
    project = change(project, smoke.id, size=Attribute.of(0.4))
    project = edit_effect(project, second, layers=project.effect(second).layers[:1])
    project = into_whole(project, second)
    assert [len(project.effect(what).layers) for what in ("one", second, third)] == [1, 1, 2]
    assert layer_of(project, smoke.id).follows is None
    assert [layer.id for layer in apart(project, third).more] == [smoke.id]


def test_what_is_missing_can_be_had_again_one_by_one_and_what_is_more_goes_with_all(both):
    project, second, _ = both
    spark, smoke = project.effect(second).layers
    project = edit_effect(project, second, layers=(smoke, SPARK.evolve(id="own", name="own")))
    lost = apart(project, second).missing[0]
    again = back_to_whole(project, second, [lost.id]).effect(second)
    assert [layer.name for layer in again.layers] == ["smoke", "own", "spark"]
    assert again.layers[2].id not in {spark.id, lost.id}
    whole = back_to_whole(project, second)
    assert [layer.name for layer in whole.effect(second).layers] == ["smoke", "spark"]
    assert apart(whole, second) == Apart()


def test_dials_follow_with_what_they_drive(both):
    project, second, third = both
    layer = project.effect(second).layers[0].id
    dial, bound = Dial(id="d"), Binding(dial="d", layer=layer, path="size.birth.high")
    project = into_whole(edit_effect(project, second, dials=(dial,), bindings=(bound,)), second)
    for what in ("one", second, third):
        effect = project.effect(what)
        assert (effect.dials, effect.bindings[0].layer) == ((dial,), effect.layers[0].id)
    assert project.presets[0].effect.bindings[0].layer == project.presets[0].effect.layers[0].id


def test_an_effect_whose_preset_is_gone_is_as_it_is(both):
    project, second, _ = both
    project = edit_effect(project.evolve(presets=()), second, length=9.0)
    assert apart(project, second) == apart(project, "nowhere") == Apart()
    assert into_whole(project, second) == back_to_whole(project, second) == project


def test_a_layer_used_as_an_effect_becomes_one(kept):
    project, _ = kept
    project, new = used_effect(project, project.presets[0])
    assert [layer.follows for layer in project.effect(new).layers] == [project.presets[0].layer.id]


def test_what_follows_something_that_is_gone_follows_nothing(kept):
    project = kept[0].evolve(presets=())
    assert preset_of(project, layer_of(project, "spark")) is None
    assert own_rows(project, "spark") == ()
    assert into_preset(project, "spark") == back_to_preset(project, "spark") == project
    assert own_rows(project, "nowhere") == ()
    assert keep_layer(project, "nowhere", "x") == keep_effect(project, "nowhere", "x") == project
    assert used_layer(project, Preset(layer=SPARK), "nowhere") == (project, "")


def test_a_preset_holds_one_thing_and_a_project_takes_each_once():
    for wrong in ({}, {"layer": SPARK, "effect": START.effects[0]}):
        with pytest.raises(ValidationError):
            Preset(**wrong)
    preset = Preset(id="p", name="sparks", layer=SPARK)
    project = with_preset(START, preset)
    assert with_preset(project, preset.evolve(name="other")) is project
    assert [p.name for p in with_preset(project, preset.evolve(id="q")).presets] == ["sparks", "sparks 2"]


# ---- on the disk ----------------------------------------------------------------------------------


def test_presets_are_kept_for_all_projects_and_each_is_found_once(tmp_path):
    folder = tmp_path / "deep" / "presets"
    assert stored_presets(folder) == ()
    own = Preset(id="../own", name="b", layer=SPARK)
    keep_preset(folder, own)
    keep_preset(folder, Preset(id="other", name="A", effect=START.effects[0]))
    keep_preset(folder, own.evolve(name="c"))
    assert [p.name for p in stored_presets(folder)] == ["A", "c"]
    assert list(tmp_path.glob("*.json")) == []
    found = found_presets((own.evolve(name="project's"),), folder)
    assert [p.name for p in found][:2] == ["project's", "A"]
    assert len(found) == 2 + len(shipped_presets())
    drop_preset(folder, own)
    drop_preset(folder, own)
    assert [p.name for p in stored_presets(folder)] == ["A"]


@pytest.mark.parametrize("content", [b"", b"{", b'{"name": 3}', b"\xff\xfe", b'{"layer": null, "effect": null}'])
def test_what_is_damaged_is_left_out(tmp_path, content):
    (tmp_path / "bad.json").write_bytes(content)
    keep_preset(tmp_path, Preset(id="good", name="good", layer=SPARK))
    assert [p.name for p in stored_presets(tmp_path)] == ["good"]


def test_where_nothing_can_be_kept_it_is_said(tmp_path):
    (tmp_path / "file").write_text("")
    with pytest.raises(ProjectError, match="cannot be made"):
        keep_preset(tmp_path / "file" / "presets", Preset(layer=SPARK))


# ---- those that come with the program -------------------------------------------------------------


def test_more_than_twenty_come_with_the_program_under_names_of_their_own():
    presets = shipped_presets()
    assert len(presets) >= 20
    assert len({p.name for p in presets}) == len({p.id for p in presets}) == len(presets)
    ids = [layer.id for preset in presets for layer in preset.layers]
    assert len(set(ids)) == len(ids)
    looks = {layer.look.kind for preset in presets for layer in preset.layers}
    assert looks == {"sprite", "ribbon", "piece", "shell", "afterimage", "mark", "light"}


@pytest.mark.parametrize("preset", shipped_presets(), ids=lambda preset: preset.name)
def test_each_can_be_used_as_it_is_on_another_character(demo, preset):
    project, _ = used_effect(demo.project.evolve(effects=(), triggers=()), preset)
    textures = frozenset(TextureLibrary(None).names())
    told = [f.message for f in check(project, demo.facts, textures)]
    assert [text for text in told if "no other end" not in text] == []


def test_each_is_seen_in_a_picture_of_its_own(demo):
    library = TextureLibrary(demo.folder)
    renderer, samplers = RasterRenderer(library.read, library.pieces.read), SamplerCache(library.read)
    seen = {}
    for preset in shipped_presets()[::5]:
        effect = preset.effect or Effect(layers=preset.layers)
        picture = thumbnail(effect, demo.project, demo.characters, samplers, renderer)
        assert picture.shape == (SIZE[1], SIZE[0], 4)
        empty = effect.evolve(layers=tuple(layer.evolve(disabled=True) for layer in effect.layers))
        bare = thumbnail(empty, demo.project, demo.characters, samplers, renderer)
        seen[preset.name] = int(np.abs(picture.astype(int) - bare).max())
    assert min(seen.values()) > 8, seen


def test_the_shipped_presets_are_what_the_demos_maker_writes():
    from scripts.demo_maker.presets import presets

    assert presets() == shipped_presets()


def test_presets_go_through_a_project_file(kept, tmp_path):
    from wraithon.project.files import open_project, save_project

    save_project(kept[0], tmp_path)
    assert open_project(tmp_path).project == kept[0]
    assert find(kept[0], "layer", "spark").follows == kept[0].presets[0].layer.id


EVERYDAY = (
    "fire", "flame", "smoke", "ember", "spark", "explosion", "impact", "footstep", "dust", "splash", "aura", "shield",
    "ghost", "afterimage", "leaf", "petal", "rock", "snow", "frost", "poison", "magic", "spell", "beam", "trail",
    "slash", "charge", "heal", "blood", "electric", "portal",
)  # fmt: skip


@pytest.mark.parametrize("word", EVERYDAY)
def test_everyday_words_find_an_effect_that_comes_with_the_program(word):
    found = [preset for preset in shipped_presets() if preset.found_by(word)]
    assert any(preset.effect is not None for preset in found)
    plural = {preset.id for preset in shipped_presets() if preset.found_by(f" {word.upper()}s ")}
    assert {preset.id for preset in found} <= plural


def test_at_least_forty_layers_and_two_dozen_effects_come_with_the_program():
    shipped = shipped_presets()
    assert sum(preset.layer is not None for preset in shipped) >= 40
    assert sum(preset.effect is not None for preset in shipped) >= 24
    assert len({preset.name for preset in shipped}) == len({preset.id for preset in shipped}) == len(shipped)
    assert all(preset.tags for preset in shipped)


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("", True), ("ember", True), ("EMBERS", True), ("emb", True), ("mbers", False), ("camp hot", True),
        ("camp cold", False), ("sprite", True), ("mist", True), ("ribbon", False), ("glass", False), ("glas", False),
    ],
)  # fmt: skip
def test_a_preset_is_found_by_the_beginnings_of_its_words(text, found):
    layer = Layer(name="rising embers", look=SpriteLook(texture="mist.png"))
    preset = Preset(name="camp fire", tags=("hot", "torch"), effect=Effect(layers=(layer,)))
    assert preset.found_by(text) is found
    assert preset.evolve(tags=("glass",)).found_by("glass")
