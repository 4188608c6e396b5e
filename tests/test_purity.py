"""Every field of every model, changed amid the show: what is called pure is what a fresh run shows."""

from functools import cache
from pathlib import Path

import pytest
from pydantic import BaseModel

from wraithon.picture.shipped import TextureLibrary
from wraithon.project.binding import Binding, Dial
from wraithon.project.emission import Burst
from wraithon.project.files import open_project
from wraithon.project.life import Curve, Gradient
from wraithon.project.motion import Curl, Vortex
from wraithon.project.paths import value_at, with_value_at
from wraithon.project.source import FacingMask, HeightMask, TextureMask
from wraithon.project.staging.actions import StartEffect
from wraithon.stage.loading import load
from wraithon.stage.player import Player
from wraithon.stage.sampler_cache import SamplerCache

MOMENT = 0.5
FOLDER = Path(__file__).parent / "kept" / "everything"
NEW = {
    "life": lambda held: (
        Gradient.through((0, (1, 1, 1)), (1, (0, 0, 1))) if "Tint" in type(held).__name__ else Curve.through((0, 2))
    ),
    "height": lambda _: HeightMask(),
    "facing": lambda _: FacingMask(),
    "texture": lambda _: TextureMask(),
    "bursts": lambda held: (*held.bursts, Burst(time=0.3)),
    "forces": lambda held: (*held.forces, Curl()),
    "response": lambda held: (*held.response, StartEffect(effect="a")),
}
"""Values for what holds nothing yet, by the field's name."""


@cache
def everything():
    loaded = load(FOLDER)
    project = open_project(FOLDER).project
    effect = project.effect("a")
    ball = next(x for x in effect.layers if x.id == "a-ball")
    swirl = ball.evolve(motion=ball.motion.evolve(forces=(*ball.motion.forces, Vortex(anchor="top", strength=2))))
    layers = tuple(swirl if x.id == "a-ball" else x for x in effect.layers)
    dials = (Dial(id="d", name="d", low=0.0, high=2.0, value=1.0),)
    bound = (Binding(dial="d", layer="a-ring", path="speed.birth.high", low=1.0, high=3.0),)
    effect = effect.evolve(layers=layers, dials=dials, bindings=bound)
    return loaded, project.evolve(effects=tuple(effect if e.id == "a" else e for e in project.effects))


def player_of(project):
    loaded, _ = everything()
    return Player(project, loaded.characters, SamplerCache(TextureLibrary(loaded.folder).read))


def positions(model, path=""):
    """Yield the path of every field of a model and of what it holds, with its value and owner."""
    for name in type(model).model_fields:
        here = f"{path}.{name}".lstrip(".")
        value = getattr(model, name)
        yield here, value, model, name
        if isinstance(value, BaseModel):
            yield from positions(value, here)
        elif isinstance(value, tuple):
            for k, item in enumerate(value):
                if isinstance(item, BaseModel):
                    yield from positions(item, f"{here}.{k}")


def other(value, owner, name):
    """Return values that might stand there instead; those the model refuses are passed over."""
    plain = isinstance(value, tuple) and value and all(isinstance(x, int | float) for x in value)
    for fits, make in (
        (isinstance(value, bool), lambda: [not value]),
        (isinstance(value, int | float), lambda: [value * 1.5 + 0.25, value + 1, value / 2]),
        (hasattr(type(value), "__members__"), lambda: [member for member in type(value) if member is not value]),
        (isinstance(value, str), lambda: ["slate" if name == "ground" else f"{value} x"]),
        (plain, lambda: [tuple(x * 0.5 + 0.1 for x in value)]),
        (isinstance(value, tuple) and value, lambda: [value[:-1]]),
        (name in NEW and not isinstance(value, BaseModel), lambda: [NEW[name](owner)]),
    ):
        if fits:
            return make()
    return []


SKIPPED = ("id", "kind", "format", "version", "file", "values", "vertices")
"""What makes a thing another thing, or names what is read from the disk."""


def edits():
    """Yield each place once a kind of owner: the same field of the same model is not tried over and over."""
    _, project = everything()
    tried = set()
    for path, value, owner, name in positions(project):
        layer = path.split(".")[1:4] if path.startswith("effects") and ".layers." in path else ()
        source = type(value_at(project, f"effects.{layer[0]}.layers.{layer[2]}").source).__name__ if layer else ""
        key = (type(owner).__name__, name, source if type(owner).__name__ in {"Aim", "Riding", "Attribute"} else "")
        if key in tried or name in SKIPPED:
            continue
        for new in other(value, owner, name):
            try:
                with_value_at(project, path, new)
            except ValueError:
                continue
            tried.add(key)
            yield pytest.param(path, new, id=f"{type(owner).__name__}-{path}")
            break


EDITS = list(edits())


def test_nearly_every_field_of_every_model_is_tried():
    models = {param.id.split("-")[0] for param in EDITS}
    assert len(EDITS) > 130
    assert {
        "Project",
        "Stage",
        "CharacterUse",
        "Anchor",
        "Dissolve",
        "Layer",
        "SpriteLook",
        "Vortex",
        "Dial",
    } <= models
    assert {"SkinSource", "JointRow", "HeightMask", "Burst", "StartEffect", "OnEvent", "Mark", "CaptureUse"} <= models


@pytest.mark.parametrize(("path", "new"), EDITS)
def test_pure_means_what_a_fresh_run_shows(path, new):
    _, project = everything()
    edited = with_value_at(project, path, new)
    player = player_of(project)
    player.seek(MOMENT)
    player.adopt(edited)
    moment = player.time
    fresh = player_of(edited)
    fresh.seek(moment)
    if player.pure:
        assert player.digest() == fresh.digest()
    player.seek(moment)
    assert player.pure
    assert player.digest() == fresh.digest()


@pytest.mark.parametrize(
    ("path", "new"),
    [
        ("name", "Other"),
        ("exposure", 2.0),
        ("view.azimuth", 10.0),
        ("effects.0.layers.0.name", "other"),
        ("effects.0.layers.0.size.birth.high", 0.5),
        ("effects.0.layers.2.colour.first", (0.1, 0.2, 0.3)),
        ("effects.0.layers.0.look.blend", "additive"),
    ],
)
def test_an_edit_of_what_is_drawn_alone_is_pure_at_once(path, new):
    _, project = everything()
    player = player_of(project)
    player.seek(MOMENT)
    before = player.digest()
    player.adopt(with_value_at(project, path, new))
    assert player.pure
    assert player.digest() == before


def test_riders_turn_to_the_skins_normal_as_soon_as_they_face_it():
    """What a look faces is no matter of drawing alone: riders' normals are kept up only for those who want them."""
    _, project = everything()
    edges = "effects.1.layers.1"
    assert value_at(project, f"{edges}.source").mode == "edges"
    plain = with_value_at(project, f"{edges}.look.facing", "camera")
    player = player_of(plain)
    player.seek(MOMENT)
    player.adopt(with_value_at(plain, f"{edges}.look.facing", "normal"))
    assert not player.pure
    player.seek(MOMENT)
    fresh = player_of(player.project)
    fresh.seek(MOMENT)
    assert player.digest() == fresh.digest()
