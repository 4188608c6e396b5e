"""Triggers as sentences."""

import pytest

from wraithon.numeric.arithmetic import ordinal
from wraithon.project.character import Anchor, CharacterUse, Event
from wraithon.project.effect import Effect
from wraithon.project.project import Project
from wraithon.project.staging.actions import LogLine, StartEffect
from wraithon.project.staging.trigger_kinds import AtStart, EveryMetres, EverySeconds, Never, OnEvent
from wraithon.project.trigger import Often, Only, Trigger
from wraithon.studio.sentence import sentence

USE = CharacterUse(
    id="c", file="c.glb", anchors=(Anchor(id="a", name="left toe"),), events=(Event(id="e", name="step"),)
)
PROJECT = Project(characters=(USE,), effects=(Effect(id="d", name="dust"),))
DUST = StartEffect(effect="d", anchor="a", after=0.25)
END = ": start dust at left toe after 0.25 s."


@pytest.mark.parametrize(
    ("changes", "text"),
    [
        ({}, f"When a clip reaches step{END}"),
        ({"when": OnEvent()}, f"When a clip reaches an event that is not chosen yet{END}"),
        ({"when": AtStart(), "response": ()}, "When the show starts: nothing yet."),
        (
            {"when": EverySeconds(seconds=2), "response": (StartEffect(),)},
            "Every 2 s: start an effect that is not chosen yet.",
        ),
        (
            {"when": EveryMetres(metres=0.5), "response": (StartEffect(effect="d"),)},
            "Every 0.5 m of the way: start dust.",
        ),
        ({"when": Never(), "response": (StartEffect(effect="d"), DUST)}, f"Never by itself: start dust; {END[2:]}"),
        (
            {"only": Only(clips=("walk", "run", "leap"), slowest=1, fastest=2.5, chance=0.4)},
            f"When a clip reaches step, while walk, run or leap plays, at 1 to 2.5 m/s, by a chance of 40%{END}",
        ),
        (
            {"only": Only(clips=("walk",), slowest=1)},
            f"When a clip reaches step, while walk plays, at 1 m/s or more{END}",
        ),
        ({"only": Only(fastest=2)}, f"When a clip reaches step, at 2 m/s or less{END}"),
        (
            {"often": Often(every=2, cool_down=1, jitter=0.2, times=1)},
            f"When a clip reaches step, every 2nd time, no sooner than 1 s after the last (± 20%), once{END}",
        ),
        ({"often": Often(alive=3)}, f"When a clip reaches step, while fewer than 3 of its own live{END}"),
        (
            {"often": Often(cool_down=1, times=7)},
            f"When a clip reaches step, no sooner than 1 s after the last, 7 times in all{END}",
        ),
    ],
)
def test_a_trigger_reads_as_a_sentence(changes, text):
    trigger = Trigger(**{"when": OnEvent(event="e"), "response": (DUST,), **changes})
    assert sentence(PROJECT, trigger) == text


def test_which_one_it_is():
    told = [ordinal(number) for number in (1, 2, 3, 4, 11, 12, 13, 21, 22, 101, 111, 112)]
    assert told == ["1st", "2nd", "3rd", "4th", "11th", "12th", "13th", "21st", "22nd", "101st", "111th", "112th"]


def test_a_log_line_is_read_under_its_earlier_names_and_written_under_its_own():
    old = {"id": "t", "response": [{"kind": "say", "words": "now", "after": 0.5}]}
    trigger = Trigger.model_validate(old)
    assert trigger.response == (LogLine(text="now", after=0.5),)
    (written,) = trigger.model_dump()["response"]
    assert (written["kind"], written["text"]) == ("log line", "now")
    assert "words" not in written
    assert Trigger.model_validate(trigger.model_dump()) == trigger
