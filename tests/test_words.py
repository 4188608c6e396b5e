"""Words that were retired stay away: from names in code, from what is read on screen, and from the documents."""

import ast
import re
from collections import Counter
from pathlib import Path

import pytest

import wraithon

PACKAGE = Path(wraithon.__file__).parent
ROOT = Path(__file__).parent.parent
NAMES = {
    "Cast": "CompiledProject", "casts_run_alike": "compiled_alike", "Shot": "RenderedFrame", "Score": "Timeline",
    "Say": "LogLine", "ResponseStep": "ResponseAction", "EffectStep": "EffectAction", "Waiting": "ScheduledAction",
    "Coats": "MaterialTable", "coats_of": "material_table", "Wardrobe": "RetargetCache", "Wishes": "ViewOverrides",
    "Mail": "Mailbox", "Company": "SideSimulations", "Errands": "BackgroundTasks", "Happenings": "ParticleMoments",
    "heeded": "wants_moments", "but": "evolve", "shot": "rendered", "score": "timeline", "Cue": "ClipRun",
    "Weft": "NoiseField", "weft": "field", "Loom": "ShellDraw", "loom": "draw", "weave": "shader_parameters",
    "Veil": "ShellMesh", "veil": "shell_mesh", "veils": "shell_meshes", "Squares": "SpriteQuads",
    "Facets": "Triangles", "facets": "triangles", "Room": "Viewport", "Laid": "Coverage",
    "Surroundings": "TickContext", "Carriers": "AnchorTransforms", "carriers": "anchor_transforms",
    "Ways": "AnchorPaths", "Stand": "DrivenPose", "Screen": "ScreenEffects", "Turn": "DialCurve", "Told": "Notice",
    "Shelf": "FileLibrary", "TextureShelf": "TextureLibrary", "SamplerShelf": "SamplerCache", "shelf": "library",
    "Hand": "PictureTool", "AnchorHand": "AnchorGizmo", "BrushHand": "BrushTool", "GroundPiece": "Block",
    "PieceLook": "MeshLook", "MarkLook": "DecalLook", "words": "text", "wide": "width", "places": "positions",
    "turned": "rotated", "turned_by": "rotation_override", "amid": "midpoint", "bear": "emit", "bearers": "emitters",
    "leads": "emission_offsets", "spots": "birth_records", "whens": "trigger_kinds", "tell": "set_signal",
    "wishes": "overrides", "wardrobe": "retarget_cache", "dressed": "with_motions", "coats": "tables",
    "put": "set_value", "put_layer": "with_layer", "put_effect": "with_effect", "begin_anew": "restart",
    "held": "its noun", "_held": "its noun", "heed": "listen_to", "let_go": "release", "_lay": "composite",
    "kept": "stored, or its noun", "_kept": "its noun", "told": "its noun", "_told": "its noun", "laid": "coverage",
    "laid_by": "texture_transform",
}  # fmt: skip
"""Names that no class, function, argument or attribute has any more, and what they are called now."""
PHRASES = {
    r"\bscore\b": "timeline", r"so-manieth": "every nth", r"\bworked out\b": "automatic",
    r"\bgives? birth for\b": "duration", r"\band then anew\b": "loop",
    r"\bagain and again, after\b": "every ... seconds or metres", r"\bBring in\b": "Import",
    r"\bwait until\b": "wait for",
    r"\bPut them into the layers\b": "Apply to layers", r"\bAnother roll\b": "New seed",
    r"\ball well\b": "No findings", r"\bnothing is born\b": "nothing is emitted", r"\bborn on\b": "emitted from",
    r"\banother roll\b": "seed", r"\bput back an earlier\b": "restore",
    r"\bkey .*is pressed\b": "on key", r"\bpasses through\b": "none", r"\bend the oldest\b": "kill oldest",
    r"\bAnew every\b": "repeat every", r"\bWhich clip plays what\b": "Clip roles", r"\bpixels laid\b": "pixels",
    r"\bdearest moment\b": "most expensive frame", r"\bShow how births fall\b": "Show birth density",
}  # fmt: skip
"""What nobody reads on screen or in the guide any more, and what stands there now."""
SOURCES = sorted(PACKAGE.rglob("*.py"))


def names_of(tree):
    """Yield the names that a module gives: of classes, functions, arguments, attributes and variables."""
    for node in ast.walk(tree):
        if isinstance(node, ast.ClassDef | ast.FunctionDef):
            yield node.name
        elif isinstance(node, ast.arg):
            yield node.arg
        elif isinstance(node, ast.Attribute):
            yield node.attr
        elif isinstance(node, ast.Name):
            yield node.id


def strings_of(tree):
    """Yield the strings of a module that are no docstrings."""
    docs = {
        id(node.value)
        for node in ast.walk(tree)
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)
    }
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in docs:
            yield node.value


def retired(text):
    return [f"{found[0]!r}: say {now!r}" for old, now in PHRASES.items() for found in re.finditer(old, text)]


def test_no_name_in_code_is_a_retired_one():
    found = {
        f"{path.relative_to(PACKAGE)}: {name}, now {NAMES.get(name, name)}"
        for path in SOURCES
        for name in names_of(ast.parse(path.read_text(encoding="utf-8")))
        if name in NAMES or name.startswith(("MOST_", "LEAST_"))
    }
    assert found == set()


def test_no_docstring_has_something_be_done():
    """What a function does is said in the imperative: "Play a sound", not "Have a sound be heard"."""
    found = {
        f"{path.relative_to(PACKAGE)}:{number}"
        for path in SOURCES
        for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1)
        if '"""Have ' in line
    }
    assert found == set()


def test_no_class_name_stands_twice():
    names = Counter(
        node.name
        for path in SOURCES
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.ClassDef)
    )
    assert {name for name, count in names.items() if count > 1} == set()


def test_nothing_on_screen_is_said_in_retired_words():
    found = {
        f"{path.relative_to(PACKAGE)}: {label}"
        for path in SOURCES
        for text in strings_of(ast.parse(path.read_text(encoding="utf-8")))
        for label in retired(text)
    }
    assert found == set()


@pytest.mark.parametrize("name", ["README.md", "docs/guide.md"])
def test_no_document_speaks_in_retired_words(name):
    assert retired((ROOT / name).read_text(encoding="utf-8")) == []


def test_the_checks_see_what_they_look_for():
    tree = ast.parse('class Cast:\n    """The score."""\n    words = f"the score at {self.shot}"\n')
    assert {"Cast", "shot"} <= set(names_of(tree)) & NAMES.keys()
    assert [retired(text) for text in strings_of(tree)] == [["'score': say 'timeline'"]]


def test_what_the_documents_name_of_the_code_is_there():
    files = [path.relative_to(ROOT) for name in ("src", "tests", "scripts") for path in (ROOT / name).rglob("*.py")]
    trees = [ast.parse((ROOT / path).read_text(encoding="utf-8")) for path in files]
    names = {name for tree in trees for name in names_of(tree)} | {path.stem for path in files}
    there = [f"/{path.as_posix()}" for path in files]
    for document in ("docs/architecture.md", "CONTRIBUTING.md"):
        for named in re.findall(r"`([^`\n]+)`", (ROOT / document).read_text(encoding="utf-8")):
            if re.fullmatch(r"[\w/<>]+\.py", named):
                assert any(path.endswith(f"/{named.replace('<kind>', 'sprite')}") for path in there), named
            elif re.fullmatch(r"[A-Z]\w*(\.\w+)*|\w+_\w+(\(\))?", named):
                assert named.removesuffix("()").split(".")[-1] in names, named
