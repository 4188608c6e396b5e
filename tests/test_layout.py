"""How the project hangs together: no Qt in the core, icons that exist, lists of exports where a package begins."""

import re
import subprocess
import sys
from pathlib import Path

import pytest

import wraithon

ROOT = Path(wraithon.__file__).parent
CORE = ("project", "character", "particles", "stage", "picture", "interchange", "demo")
MODULES = sorted(
    ".".join(("wraithon", *path.relative_to(ROOT).with_suffix("").parts))
    for path in ROOT.rglob("*.py")
    if path.name != "__init__.py"
)


def test_the_core_imports_with_qt_blocked():
    names = [name for name in MODULES if name.split(".")[1] in CORE or name == "wraithon.cli"]
    script = (
        "import sys\n"
        "for name in ('PySide6', 'shiboken6', 'qtpy', 'qtawesome'):\n    sys.modules[name] = None\n"
        f"import importlib\nfor name in {names!r}:\n    importlib.import_module(name)\n"
    )
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr


def test_lists_of_exports_stand_where_a_package_begins():
    listing = {str(path.relative_to(ROOT)) for path in ROOT.rglob("*.py") if "\n__all__ = " in path.read_text()}
    assert {name for name in listing if not name.endswith("__init__.py")} == {"desktop/theme/colours.py"}


def test_every_icon_exists(qapp):
    from wraithon.desktop.theme.theme import icon

    found = set()
    for path in (ROOT / "desktop").rglob("*.py"):
        text = path.read_text()
        found |= set(re.findall(r'(?:icon|tool|_button)\(\s*"([a-z-]+)"', text))
    assert len(found) > 20
    for name in found:
        assert not icon(name).isNull()


def test_arithmetic_knows_sums_and_nothing_else():
    from wraithon.numeric.arithmetic import evaluate

    assert evaluate("(1 + 2) * -3 / 4") == -2.25
    assert evaluate("0,5") == 0.5
    for text in ("", "x", "1/0", "2**9", "__import__('os')", "1 if 1 else 2", "(" * 300, "1e999", "True", "9" * 200):
        assert evaluate(text) is None


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("20%", "%", 20.0), ("20 %", "%", 20.0), ("40/s", "/s", 40.0), ("1.5 m/s", "m/s", 1.5), ("45°", "°", 45.0),
        ("3 cm", "cm", 3.0), ("0.3 m", "cm", 30.0), ("30 mm", "cm", 3.0), ("3 CM", "m", 0.03), ("2+1 cm", "m", 0.03),
        ("250 ms", "s", 0.25), ("2 s", "s", 2.0), ("2x", "×", 2.0), ("2 ×", "×", 2.0), ("7", "", 7.0),
        ("7", "cm", 7.0), ("3 s", "cm", None), ("3 cm", "", None), ("cm", "cm", None), ("%", "%", None),
        ("3 cm cm", "cm", None), ("", "s", None), ("1e400 m", "m", None),
    ],
)  # fmt: skip
def test_units_may_be_typed_and_stand_for_one_another(text, unit, value):
    from wraithon.numeric.arithmetic import measured

    found = measured(text, unit)
    assert found == (None if value is None else pytest.approx(value, rel=1e-12))
