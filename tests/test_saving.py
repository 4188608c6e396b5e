"""Saving whole or not at all: killed at any moment, on a full disk, over links; and journals that lose nothing."""

import json
import os
import shutil
import signal
import subprocess
import sys
import time

import pytest

from wraithon.interchange.folders import save_whole
from wraithon.interchange.journal import Journal
from wraithon.project.character import CharacterUse
from wraithon.project.files import open_project, write_atomic
from wraithon.project.project import Project
from wraithon.support.errors import ProjectError
from wraithon.support.saving import READY, SAVING, Staging, settle

CALLS = ("fsync", "rename", "replace", "mkdir", "open")


def state_of(folder):
    """Return everything in a folder: names and bytes."""
    return {p.relative_to(folder).as_posix(): p.read_bytes() for p in sorted(folder.rglob("*")) if p.is_file()}


@pytest.fixture
def homes(tmp_path):
    """Return a folder with one project, and a folder with another whose files have the same names."""
    for name in ("one", "two"):
        folder = tmp_path / name
        (folder / "characters").mkdir(parents=True)
        (folder / "textures").mkdir()
        (folder / "characters" / "body.glb").write_bytes(name.encode() * 50_000)
        (folder / "textures" / "spark.png").write_bytes(name.encode() * 10)
        project = Project(name=name, characters=(CharacterUse(file="characters/body.glb"),))
        save_whole(project, folder, folder)
    return tmp_path / "one", tmp_path / "two"


def killed_at(call, turn, act):
    """Run something in a process of its own that dies at the `turn`-th use of a system call; tell whether it did."""
    pid = os.fork()
    if not pid:
        real, left = getattr(os, call), [turn]

        def dying(*arguments, **text):
            left[0] -= 1
            if left[0] < 0:
                os.kill(os.getpid(), signal.SIGKILL)
            return real(*arguments, **text)

        setattr(os, call, dying)
        try:
            act()
        finally:
            os._exit(0)
    return os.waitstatus_to_exitcode(os.waitpid(pid, 0)[1]) == -signal.SIGKILL


@pytest.mark.parametrize("call", CALLS)
def test_a_save_killed_anywhere_is_the_old_project_or_the_new_one(homes, tmp_path, call):
    one, two = homes
    project = open_project(one).project
    before, after = state_of(two), state_of(one)
    seen = set()
    for turn in range(200):
        there = tmp_path / f"{call} {turn}"
        shutil.copytree(two, there)
        killed = killed_at(call, turn, lambda there=there: save_whole(project, one, there))
        open_project(there)
        state = state_of(there)
        assert state in (before, after)
        assert not list(there.glob(".*"))
        seen.add(state == after)
        if not killed:
            break
    else:
        pytest.fail("it never came to its end")
    assert state == after
    assert seen == ({True} if call == "replace" else {False, True})  # moves come when it has happened


def test_a_full_disk_leaves_everything_as_it_was(homes, monkeypatch):
    one, two = homes
    before = state_of(two)

    def full(*_arguments):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(shutil, "copyfile", full)
    with pytest.raises(ProjectError, match="No space left on device"):
        save_whole(open_project(one).project, one, two)
    assert state_of(two) == before
    assert not list(two.glob(".*"))


def test_a_folder_that_is_gone_is_not_made_anew_without_its_files(homes):
    one, _ = homes
    project = open_project(one).project
    shutil.rmtree(one)
    with pytest.raises(ProjectError, match="the folder is gone; save somewhere else"):
        save_whole(project, one, one)
    assert not one.exists()


def test_a_folder_that_cannot_be_written_is_told(tmp_path):
    (tmp_path / "file").write_text("in the way")
    with pytest.raises(ProjectError, match="save somewhere else"):
        save_whole(Project(), None, tmp_path / "file" / "folder")


def test_a_project_file_that_is_a_link_stays_one(homes, tmp_path):
    one, _ = homes
    real = tmp_path / "kept elsewhere.json"
    (one / "project.json").rename(real)
    (one / "project.json").symlink_to(real)
    save_whole(open_project(one).project.evolve(name="new"), one, one)
    assert (one / "project.json").is_symlink()
    assert json.loads(real.read_text())["name"] == "new"


def test_a_link_is_written_through_by_itself_too(tmp_path):
    (tmp_path / "real").write_bytes(b"old")
    (tmp_path / "link").symlink_to(tmp_path / "real")
    write_atomic(tmp_path / "link", b"new")
    assert (tmp_path / "link").is_symlink()
    assert (tmp_path / "real").read_bytes() == b"new"


def test_leftovers_are_cleared_but_not_those_of_a_save_under_way(homes):
    one, _ = homes
    (one / f"{SAVING}old").mkdir()
    with Staging(one) as staging:
        staging.write("project.json", b"half")
        settle(one)
        assert [path.name.startswith(SAVING) for path in one.glob(".*")] == [True]
    assert not list(one.glob(".*"))
    assert open_project(one).project.name == "one"


@pytest.mark.parametrize("way", ["link in a link's folder", "linked project file", "link as leftover"])
def test_what_a_folder_brings_along_never_writes_outside_of_it(homes, tmp_path, way):
    one, _ = homes
    outside = tmp_path / "outside"
    outside.mkdir()
    (outside / "mine").write_text("mine")
    ready = one / f"{READY}bad"
    if way == "link as leftover":
        (outside / "project.json").write_text("{}")
        ready.symlink_to(outside)
    elif way == "linked project file":
        ready.mkdir()
        (ready / "project.json").write_text("bad")
        (one / "project.json").unlink()
        (one / "project.json").symlink_to(outside / "mine")
    else:
        (ready / "linked").mkdir(parents=True)
        (ready / "linked" / "mine").write_text("bad")
        (one / "linked").symlink_to(outside)
    settle(one)
    assert (outside / "mine").read_text() == "mine"


def test_a_save_that_stopped_half_way_through_its_moves_is_finished_on_opening(homes):
    one, _ = homes
    ready = one / f"{READY}left"
    (ready / "characters").mkdir(parents=True)
    (ready / "characters" / "body.glb").write_bytes(b"new")
    (ready / "project.json").write_text((one / "project.json").read_text().replace('"one"', '"new"'))
    assert open_project(one).project.name == "new"
    assert (one / "characters" / "body.glb").read_bytes() == b"new"
    assert not ready.exists()


# ---- the journal ----------------------------------------------------------------------------------


def leave(folder, opened, name):
    """Have a program that is killed leave its journal behind."""
    program = (
        "import sys, os, signal; from pathlib import Path\n"
        "from wraithon.interchange.journal import Journal; from wraithon.project.project import Project\n"
        "Journal(sys.argv[1], Path(sys.argv[2])).write(Project(name=sys.argv[3]))\n"
        "os.kill(os.getpid(), signal.SIGKILL)"
    )
    subprocess.run([sys.executable, "-c", program, opened, str(folder), name], check=False)


def test_work_is_found_by_the_real_path_whichever_way_it_is_opened(tmp_path, monkeypatch):
    (tmp_path / "real").mkdir()
    (tmp_path / "link").symlink_to(tmp_path / "real")
    leave(tmp_path / "journal", str(tmp_path / "link"), "lost")
    monkeypatch.chdir(tmp_path)
    for way in (str(tmp_path / "real"), "real", "link/", "./real/../real"):
        assert Journal(way, tmp_path / "journal").left_behind().project.name == "lost"


def test_work_is_never_offered_in_another_project(tmp_path):
    leave(tmp_path, "/here", "lost")
    (path,) = tmp_path.glob("*.json")
    other = Journal("/there", tmp_path)
    # Even under the other's name it still says whose it is.
    path.rename(path.with_name(path.name.replace(path.name.split(".")[0], other._stem)))
    assert other.left_behind() is None
    assert Journal("", tmp_path).left_behind() is None


def test_a_process_number_that_was_given_out_again_hides_nothing(tmp_path):
    leave(tmp_path, "/here", "lost")
    (path,) = tmp_path.glob("*.json")
    data = json.loads(path.read_text())
    path.write_text(json.dumps({**data, "pid": os.getpid()}))
    assert Journal("/here", tmp_path).left_behind().project.name == "lost"


@pytest.mark.parametrize("text", ["", "{", "[" * 100_000, "\0", '{"opened": "/here", "project": "{}"}', '"text"'])
def test_a_corrupt_journal_neither_stops_nor_hides(tmp_path, text):
    leave(tmp_path, "/here", "lost")
    own = Journal("/here", tmp_path)
    bad = tmp_path / f"{own._stem}.999-zz.json"
    bad.write_text(text)
    os.utime(bad, (time.time() + 100,) * 2)
    assert own.left_behind().project.name == "lost"


def test_a_pipe_among_the_journals_is_not_waited_for(tmp_path):
    own = Journal("/here", tmp_path)
    os.mkfifo(tmp_path / f"{own._stem}.1-a.json")
    assert own.left_behind() is None


def test_who_works_on_the_same_thing_is_known_while_he_does(tmp_path):
    one, two = Journal("/here", tmp_path), Journal("/here", tmp_path)
    assert one.open_elsewhere()
    assert two.open_elsewhere()
    assert not Journal("/there", tmp_path).open_elsewhere()
    two.close()
    assert not one.open_elsewhere()
    assert not Journal("", tmp_path).open_elsewhere()


def test_closing_leaves_nothing_behind(tmp_path):
    journal = Journal("/here", tmp_path / "journal")
    journal.write(Project())
    journal.close()
    journal.close()
    assert list((tmp_path / "journal").iterdir()) == []
