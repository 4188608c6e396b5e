"""The command line, run as a user runs it."""

import csv
import json
import re
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from PIL import Image
from scripts.demo_maker.project import CHARACTER_FILE, demo_project

from tests.glb_maker import skinned_strip
from tests.test_gltf import breakage
from wraithon.__main__ import main
from wraithon.demo import DEMO_FOLDER
from wraithon.interchange import samples
from wraithon.project.edit import remove_effect
from wraithon.project.files import save_project
from wraithon.support import saving
from wraithon.support.errors import RenderError
from wraithon.support.places import log_file


def run(*label, code=0):
    done = subprocess.run(
        [sys.executable, "-m", "wraithon", *label], capture_output=True, text=True, timeout=300, check=False
    )
    assert done.returncode == code, done.stderr
    return done


@pytest.fixture
def here(monkeypatch):
    """Return what calls the command line within this process: most of what one of its own takes is its start."""
    handlers = {number: signal.getsignal(number) for number in (signal.SIGINT, signal.SIGALRM)}

    def call(*text, code=0):
        monkeypatch.setattr(sys, "argv", ["wraithon", *text])
        with pytest.raises(SystemExit) as ended:
            main()
        assert (ended.value.code or 0) == code

    yield call
    for number, handler in handlers.items():
        signal.signal(number, handler)


@pytest.fixture
def strip(tmp_path):
    path = tmp_path / "strip.glb"
    path.write_bytes(skinned_strip().glb())
    return str(path)


def test_help_and_version():
    assert "render" in run("--help").stdout
    assert run("--version").stdout.startswith("wraithon ")


def test_inspect_a_character():
    data = json.loads(run("inspect", str(DEMO_FOLDER / CHARACTER_FILE), "--json").stdout)
    assert [p["name"] for p in data["parts"]] == ["body", "mask", "rain skirt", "left fan", "right fan"]
    assert sum(p["triangles"] for p in data["parts"]) == 13_556
    assert len(data["joints"]) == 51
    assert {c["name"]: c["seconds"] for c in data["clips"]}["walk"] == 1.0


def test_inspect_a_project():
    data = json.loads(run("inspect", "demo", "--json").stdout)
    assert [e["name"] for e in data["effects"]] == [
        *("plume drift", "fan streamers", "tread", "echo steps", "rain veil"),
        *("thunder stamp", "skipping spark", "squall ring", "scatter", "drizzle", "moss flecks", "puddle splash"),
    ]
    assert "12" in run("inspect", "demo").stdout


def test_check_tells_errors_by_its_exit_code(tmp_path):
    assert json.loads(run("check", "demo", "--json").stdout) == {"findings": []}
    save_project(remove_effect(demo_project(), "tread"), tmp_path)
    told = json.loads(run("check", str(tmp_path), "--json", code=1).stdout)["findings"]
    assert any("starts no effect" in f["message"] for f in told)
    assert any("halcyon.glb" in f["message"] for f in told)


def test_play_tells_what_fired_and_repeats_itself():
    text = ("play", "demo", "--until", "3", "--json", "--digest")
    first = json.loads(run(*text).stdout)
    assert first == json.loads(run(*text).stdout)
    stamps = [f for f in first["firings"] if f["effect"] == "thunder stamp"]
    assert [f["time"] for f in stamps] == [2.82]
    assert first["births"] > first["alive"] > 0
    assert first["refused"] == 0


def test_render_a_moment_and_a_sequence(tmp_path):
    rendered = tmp_path / "shot.png"
    run("render", "demo", "-o", str(rendered), "--at", "0.5", "--size", "160x90")
    with Image.open(rendered) as picture:
        assert picture.size == (160, 90)
    run(
        "render",
        "demo",
        "-o",
        str(tmp_path / "s_####.png"),
        "--from",
        "0",
        "--to",
        "0.1",
        "--fps",
        "30",
        "--size",
        "64x48",
    )
    assert sorted(p.name for p in tmp_path.glob("s_*.png")) == ["s_0000.png", "s_0001.png", "s_0002.png"]


def test_a_character_file_is_a_new_project(strip, tmp_path):
    run("render", strip, "-o", str(tmp_path / "strip.png"), "--size", "64x64")
    assert json.loads(run("play", strip, "--until", "1", "--json").stdout)["alive"] == 0


@pytest.mark.parametrize(
    "text",
    [
        ("nothing-there",),
        ("play", "nothing-there"),
        ("render", "demo", "-o", "x.bmp"),
        ("render", "demo", "-o", "x.png", "--size", "big"),
        ("render", "demo", "-o", "x.png", "--size", "4x4"),
        ("render", "demo", "-o", "x.png", "--from", "0", "--to", "1"),
        ("render", "demo", "-o", "x_##.png", "--from", "1", "--to", "0"),
        ("inspect", "gone.glb"),
        ("inspect", "half \udc80.glb"),
        ("render", "demo", "-o", "x.png", "--size", "²x²"),
        ("render", "demo", "-o", "x.png", "--size", "99999999999999x1"),
        ("render", "demo", "-o", "x.png", "--size", "8x8193"),
        ("render", "demo", "-o", "x.png", "--at", "nan"),
        ("render", "demo", "-o", "x.png", "--at", "inf"),
        ("render", "demo", "-o", "x_#.png", "--from", "0", "--to", "inf"),
        ("render", "demo", "-o", "x_#.png", "--fps", "nan"),
        ("render", "demo", "-o", "/dev/null/x.png", "--size", "16x16"),
        ("render", "demo", "-o", "/proc/x.png", "--size", "16x16"),
        ("render", "demo"),
        ("render", "demo", "--colour", "red", "-o", "x.png"),
        ("play", "demo", "--until", "1e300"),
        ("play", "demo", "--until", "soon"),
        ("play",),
        ("sample", "demo", "-o", "/dev/null/x.csv", "--count", "3"),
        ("sample", "demo", "-o", "/", "--count", "3"),
        ("sample", "demo", "-o", "x.csv", "--seed", str(10**30)),
        ("sample", "demo", "-o", "x.csv", "--mode", "volume"),
        ("check", "demo", "and", "more"),
    ],
)
def test_errors_are_one_line_and_exit_code_two(text, here, capfd):
    here(*text, code=2)
    out, told = capfd.readouterr()
    assert told.startswith("wraithon: ")
    assert told.count("\n") == 1
    assert "Traceback" not in told + out
    assert "unexpected" not in told


SAID = {
    "chek demo": 'chek: there is no such project or command; did you mean "wraithon check"?',
    "nothing-there": "nothing-there: there is no such project or command; see wraithon --help",
    "play": "PROJECT is missing; see wraithon play --help",
    "play demo --until -1": "--until: must be 0 to 86,400 s, not -1",
    "play demo --until soon": "--until: give a number",
    "play demo --until 1e300": "--until: must be 0 to 86,400 s, not 1e+300",
    "render demo": "-o is missing; see wraithon render --help",
    "render demo -o": "-o: its value is missing; see wraithon --help",
    "render demo -o x.png --at nan": "--at: must be 0 to 86,400 s, not nan",
    "render demo -o x.png --at inf": "--at: must be 0 to 86,400 s, not inf",
    "render demo -o x_#.png --fps 0": "--fps: must be 0.01 to 1,000, not 0",
    "render demo -o x.png --colour red": "--colour: there is no such option; see wraithon render --help",
    "sample demo -o x.csv --count 0": "--count: must be 1 to 5,000,000, not 0",
    "sample demo -o x.csv --count two": "--count: give a whole number",
    "sample demo -o x.csv --radius -0.1": "--radius: must be 0 to 1,000 m, not -0.1",
    "sample demo -o x.csv --seed 9223372036854775808":
        "--seed: must be 0 to 9,223,372,036,854,775,807, not 9223372036854775808",
    "sample demo -o x.csv --mode volume":
        "--mode: 'volume' is not one of 'surface', 'edges', 'vertices', 'bones'",
    "check demo and more": '"and more" is too much; see wraithon check --help',
    "sample demo -o /nowhere/x.csv --count 3":
        "/nowhere/x.csv: cannot be written (there is no such folder; make it first); write it somewhere else",
    "sample demo -o /dev/full --count 3":
        "/dev/full: cannot be written (a folder, a pipe or a device is there; only plain files are written);"
        " write it somewhere else",
}  # fmt: skip
"""A wrong command line to what is said of it: each tells what is wrong, and none is unexpected."""


@pytest.mark.parametrize("typed", SAID)
def test_a_wrong_command_line_is_told_in_its_own_words(typed, here, capfd):
    here(*typed.split(), code=2)
    assert capfd.readouterr().err == f"wraithon: {SAID[typed]}\n"
    assert not Path("/nowhere").exists()
    assert not Path("/dev/full").is_file()


def test_warnings_go_to_the_log_and_not_to_the_terminal():
    program = (
        "import warnings; from wraithon import cli\n"
        "cli.app = lambda **_: warnings.warn('overflow encountered', RuntimeWarning)\n"
        "cli.main()"
    )
    done = subprocess.run([sys.executable, "-W", "always", "-c", program], capture_output=True, text=True, check=True)
    assert done.stderr == ""
    assert "RuntimeWarning: overflow encountered" in log_file().read_text()


@pytest.mark.parametrize("text", [("nothing-there",), ("play",), ("render", "demo", "-o", "/dev/null/x.png")])
def test_a_process_of_its_own_ends_with_that_line_and_code(text):
    done = run(*text, code=2)
    assert done.stderr.startswith("wraithon: ")
    assert done.stderr.count("\n") == 1


@pytest.mark.parametrize(("typed", "meant"), [("chek", "check"), ("rendr", "render"), ("ply", "play")])
def test_a_mistyped_command_is_suggested(typed, meant):
    assert f'did you mean "wraithon {meant}"?' in run(typed, code=2).stderr


def test_a_full_device_is_told_in_one_line():
    with Path("/dev/full").open("w", encoding="utf-8") as full:
        done = subprocess.run(
            [sys.executable, "-m", "wraithon", "inspect", "demo", "--json"],
            stdout=full, stderr=subprocess.PIPE, text=True, timeout=120, check=False,
        )  # fmt: skip
    assert done.returncode == 2
    assert "No space left on device" in done.stderr
    assert done.stderr.count("\n") == 1


def test_a_table_on_a_full_disk_leaves_nothing_behind(tmp_path, monkeypatch):
    rows = iter([(1.0, 2.0)])
    path = tmp_path / "points.csv"
    path.write_text("old")

    def full(*_arguments):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(saving, "move_into_place", full)
    with pytest.raises(RenderError, match=r"points\.csv: cannot be written \(No space left on device\)"):
        samples.write_samples(path, rows)
    assert [p.name for p in tmp_path.iterdir()] == ["points.csv"]
    assert path.read_text() == "old"


def test_a_picture_of_the_window_that_cannot_be_written_is_not_claimed(tmp_path):
    (tmp_path / "file").write_text("in the way")
    done = run("demo", "--picture", str(tmp_path / "file" / "x.png"), code=2)
    assert "cannot be written" in done.stderr
    assert "A picture of the window is in" not in done.stdout


@pytest.fixture
def heeding_interrupts():
    """Let programs heed interrupts, also where the tests themselves were started to ignore them."""
    before = signal.signal(signal.SIGINT, signal.default_int_handler)
    yield
    signal.signal(signal.SIGINT, before)


def wait_for_own_code(pid):
    """Wait until a program has got past the interpreter's own start: its first act is to let interrupts end it.

    A busy machine may let that pass unseen; what it does next is to catch them itself, and alarms with them.
    """
    was_caught = False
    for _ in range(100_000):
        held = int(re.search(r"SigCgt:\s*(\w+)", Path(f"/proc/{pid}/status").read_text())[1], 16)
        caught, own = (bool(held & (1 << (number - 1))) for number in (signal.SIGINT, signal.SIGALRM))
        if own or (was_caught and not caught):
            return
        was_caught = was_caught or caught
        time.sleep(0.0005)
    raise AssertionError("it never let interrupts end it")


@pytest.mark.parametrize("after", [0.0, 0.05, 0.15, 0.3, 0.6])
@pytest.mark.usefixtures("heeding_interrupts")
def test_ctrl_c_is_quiet_whenever_it_comes(after):
    program = subprocess.Popen(
        [sys.executable, "-m", "wraithon", "play", "demo", "--until", "2000"],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
    )  # fmt: skip
    try:
        wait_for_own_code(program.pid)
        time.sleep(after)
        program.send_signal(signal.SIGINT)
        out, err = program.communicate(timeout=60)
    finally:
        program.kill()
        program.communicate()
    assert program.returncode in {130, -signal.SIGINT}
    assert out == err == ""


def test_an_interrupt_that_something_swallowed_is_raised_again():
    swallowing = """
import os, signal, time
from wraithon.support import interrupts
signal.signal(signal.SIGINT, signal.default_int_handler)
interrupts.AGAIN = 0.05
interrupts.raise_them()
try:
    os.kill(os.getpid(), signal.SIGINT)
except KeyboardInterrupt:
    pass
try:
    time.sleep(30)
except KeyboardInterrupt:
    interrupts.end_at_once()
    print("raised again")
    time.sleep(0.2)
"""
    done = subprocess.run([sys.executable, "-c", swallowing], capture_output=True, text=True, timeout=50, check=False)
    assert (done.returncode, done.stdout, done.stderr) == (0, "raised again\n", "")


def test_broken_characters_are_told_in_one_line(tmp_path):
    path = tmp_path / "bad.glb"
    path.write_bytes(breakage("nan position").glb())
    done = run("inspect", str(path), code=2)
    assert "bad.glb: accessors" in done.stderr
    assert done.stderr.count("\n") == 1


# ---- sample ---------------------------------------------------------------------------------------


def table(path):
    with path.open() as file:
        return list(csv.DictReader(file))


@pytest.mark.parametrize("mode", ["surface", "edges", "vertices", "bones"])
def test_sample_writes_places_of_every_mode(tmp_path, mode):
    out = tmp_path / "points.csv"
    run("sample", "demo", "--mode", mode, "--count", "200", "--clip", "walk", "--at", "0.3", "-o", str(out))
    rows = table(out)
    assert list(rows[0]) == ["x", "y", "z", "nx", "ny", "nz", "u", "v", "part", "joint"]
    assert len(rows) == 200
    assert all(-3 < float(row[axis]) < 3 for row in rows for axis in "xyz")
    if mode != "bones":
        assert {row["part"] for row in rows} <= {"body", "mask", "rain skirt", "left fan", "right fan"}
        assert all(abs(sum(float(row[n]) ** 2 for n in ("nx", "ny", "nz")) - 1) < 1e-3 for row in rows)


def test_sample_keeps_to_parts_and_joints_and_repeats(tmp_path):
    one, two, other = (tmp_path / f"{n}.csv" for n in range(3))
    text = ("sample", "demo", "--parts", "left fan,right fan", "--count", "300", "--seed", "7")
    run(*text, "-o", str(one))
    run(*text, "-o", str(two))
    run(*text[:-1], "8", "-o", str(other))
    assert one.read_bytes() == two.read_bytes() != other.read_bytes()
    assert {row["part"] for row in table(one)} == {"left fan", "right fan"}
    run("sample", "demo", "--joints", "head", "--count", "300", "-o", str(one))
    assert {row["joint"] for row in table(one)} <= {"head", "neck", "crest"}


def test_sample_spaces_evenly_and_says_when_there_are_too_few(tmp_path):
    out = tmp_path / "points.csv"
    run("sample", "demo", "--count", "150", "--spacing", "even", "--parts", "mask", "-o", str(out))
    assert len(table(out)) == 150
    done = run(
        "sample", "demo", "--mode", "vertices", "--parts", "left fan", "--count", "5000", "--spacing", "even",
        "-o", str(out),
    )  # fmt: skip
    assert "places to choose from" in done.stderr
    assert len(table(out)) < 5000


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (("demo", "--parts", "bdy"), 'did you mean "body"'),
        (("demo", "--joints", "left foote"), 'did you mean "left foot"'),
        (("demo", "--clip", "wolk"), 'did you mean "walk"'),
        (("nowhere.glb",), "nowhere.glb"),
        (("demo", "--count", "60000", "--spacing", "even"), "at most 50000"),
    ],
)
def test_sample_says_what_is_wrong_in_one_line(tmp_path, text, said):
    done = run("sample", *text, "-o", str(tmp_path / "points.csv"), code=2)
    assert said in done.stderr
    assert done.stderr.count("\n") == 1


COLD = """
import os, signal, sys, threading
from wraithon import cli
from wraithon.support.interrupts import end_at_once

def breaks(*_arguments, **_words):
    try:
        os.kill(os.getpid(), signal.SIGINT)
        while True:
            pass
    except KeyboardInterrupt:
        {what}

cli.app = breaks
end_at_once()
cli.main()
"""


@pytest.mark.parametrize(
    "what",
    ["raise", "raise ValueError('built nothing')", "raise cli.WraithonError('not read')", "raise OSError(5, 'x')"],
)
@pytest.mark.usefixtures("heeding_interrupts")
def test_what_an_interrupt_breaks_on_its_way_is_not_told(what):
    done = subprocess.run(
        [sys.executable, "-c", COLD.format(what=what)], capture_output=True, text=True, timeout=60, check=False
    )
    assert (done.returncode, done.stdout, done.stderr) == (130, "", "")


def test_an_ignored_interrupt_stays_ignored():
    code = (
        "import signal; from wraithon.support.interrupts import end_at_once, raise_them;"
        "signal.signal(signal.SIGINT, signal.SIG_IGN); end_at_once(); raise_them();"
        "assert signal.getsignal(signal.SIGINT) is signal.SIG_IGN"
    )
    subprocess.run([sys.executable, "-c", code], check=True, timeout=60)
