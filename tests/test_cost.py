"""What a show costs: the parts are of the whole, and figures are those of the show."""

from __future__ import annotations

import json

import numpy as np
import pytest

from tests.test_cli import run
from wraithon.picture.coverage import Coverage
from wraithon.picture.raster import RasterRenderer
from wraithon.picture.shipped import TextureLibrary
from wraithon.project.binding import Binding, Dial, Masters
from wraithon.project.effect import Effect, Layer
from wraithon.project.emission import Emission
from wraithon.project.life import Attribute
from wraithon.project.staging.actions import RampSignal, SetSignal, StartEffect
from wraithon.project.staging.trigger_kinds import AtStart
from wraithon.project.trigger import Trigger
from wraithon.stage.player import Player
from wraithon.studio.cost import measured, summary, work_of


@pytest.fixture(scope="module")
def found(demo):
    shares = []
    cost = measured(demo.project, demo.characters, demo.folder, 3.2, (320, 180), shares.append)
    return cost, shares


def test_its_parts_add_up_to_the_whole(found):
    cost, _ = found
    assert cost.stage_draw_ms + sum(part.draw_ms for part in cost.layers) == pytest.approx(cost.draw_ms, rel=0.1)
    assert cost.stage_step_ms + sum(part.step_ms for part in cost.layers) == pytest.approx(cost.step_ms, rel=0.1)
    assert sum(part.alive for part in cost.layers) == cost.alive
    assert sum(part.pixels for part in cost.layers) == pytest.approx(cost.pixels, rel=0.01)
    assert cost.overdraw == cost.pixels / (320 * 180)
    assert all(part.draw_ms >= 0 and part.step_ms >= 0 for part in cost.layers)


def test_its_figures_are_those_of_the_show(demo, found):
    cost, _ = found
    player = Player(demo.project, demo.characters)
    maximum = {}
    while player.show.step_number < 3.2 * 60:
        player.step()
        player.step()
        for layer, pool in player.show.pools.items():
            maximum[layer] = max(maximum.get(layer, 0), pool.count)
    assert {part.layer: part.maximum for part in cost.layers} == {k: v for k, v in maximum.items() if v}
    player.seek(cost.moment)
    assert cost.alive == player.show.alive
    assert {p.layer: p.alive for p in cost.layers if p.alive} == {
        layer: pool.count for layer, pool in player.show.pools.items() if pool.count
    }


def test_it_tells_how_far_it_is(found):
    shares = found[1]
    assert shares == sorted(shares)
    assert 0 < shares[0] < 0.05
    assert shares[-1] == 1.0


def test_a_project_without_layers_costs_its_stage(demo):
    empty = demo.project.evolve(effects=(), triggers=())
    cost = measured(empty, demo.characters, demo.folder, 0.2, (64, 64), lambda _share: None)
    assert cost.layers == ()
    assert (cost.alive, cost.pixels) == (0, 0)
    assert cost.draw_ms > 0
    assert summary(cost, empty)["layers"] == []


@pytest.mark.parametrize("step", [SetSignal(signal="e/heat", value=1.0), RampSignal(signal="e/heat", to=2.0)])
def test_layers_are_measured_while_a_trigger_turns_a_dial_of_theirs(demo, step):
    dial = Dial(id="heat", name="heat", value=0.5, high=4.0)
    layers = tuple(Layer(id=f"l{k}", emission=Emission(rate=40), lifetime=Attribute.of(2.0)) for k in range(2))
    bound = Binding(dial="heat", layer="l0", path="size.birth.high", high=0.5)
    effect = Effect(id="e", length=None, layers=layers, dials=(dial,), bindings=(bound,))
    trigger = Trigger(when=AtStart(), response=(StartEffect(effect="e"), step))
    project = demo.project.evolve(effects=(effect,), triggers=(trigger,))
    cost = measured(project, demo.characters, demo.folder, 0.5, (64, 48), lambda _share: None)
    assert {part.layer for part in cost.layers} == {"l0", "l1"}
    assert all(part.maximum == pytest.approx(20, abs=2) for part in cost.layers)


def test_the_most_expensive_frame_is_found_by_what_is_done_in_it(demo):
    found = [
        measured(demo.project, demo.characters, demo.folder, 1.2, (160, 90), lambda _share: None) for _ in (0, 1)
    ]
    assert found[0].moment == found[1].moment
    assert [(p.layer, p.alive, p.pixels) for p in found[0].layers] == [
        (p.layer, p.alive, p.pixels) for p in found[1].layers
    ]
    player = Player(demo.project, demo.characters)
    renderer = RasterRenderer(TextureLibrary(demo.folder).read)
    work = {}
    while player.show.step_number < 1.2 * 60:
        player.step()
        player.step()
        picture = renderer.draw(player.frame(), demo.project.view, 160, 90, live=True)
        work[player.time] = work_of(player.show, picture)
    assert found[0].moment == max(work, key=work.get)


def test_variants_of_a_layer_are_told_as_that_layer(demo):
    layer = Layer(id="l", emission=Emission(rate=40), lifetime=Attribute.of(2.0))
    effect = Effect(id="e", length=None, layers=(layer,))
    starts = (StartEffect(effect="e"), StartEffect(effect="e", masters=Masters(size=2.0)))
    project = demo.project.evolve(effects=(effect,), triggers=(Trigger(when=AtStart(), response=starts),))
    cost = measured(project, demo.characters, demo.folder, 0.5, (64, 48), lambda _share: None)
    (part,) = cost.layers
    assert (part.effect, part.layer, part.maximum) == ("e", "l", pytest.approx(40, abs=3))


def test_the_command_line_prints_it():
    done = run("cost", "demo", "--until", "0.4", "--size", "64x64", "--json")
    data = json.loads(done.stdout)
    assert data["frames_a_second"] > 0
    assert data["overdraw"] == pytest.approx(data["pixels"] / 64**2, abs=1e-3)
    assert {layer["effect"] for layer in data["layers"]} >= {"plume drift", "drizzle"}
    dearest = [layer["draw_ms"] + layer["step_ms"] for layer in data["layers"]]
    assert dearest == sorted(dearest, reverse=True)
    text = run("cost", "demo", "--until", "0", "--size", "64x64")
    assert "draw_ms" in text.stdout


def test_boxes_count_as_far_as_the_picture_goes_and_hidden_ones_not_at_all():
    boxes = np.array([[2, 6, 1, 3, 1, 0.5], [-5, 4, 8, 30, 1, 0.5], [np.nan, np.inf, 0, 9, 1, 0.0]], np.float32)
    assert Coverage(3.0, boxes, 10, 10).pixels == 3 + 4 * 2 + 4 * 2
    assert Coverage(0.0, boxes[:0], 10, 10).pixels == 0
