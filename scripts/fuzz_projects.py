"""Opens, saves and plays many spoilt projects; prints each seed that did worse than a message.

Of every four, two are spoilt in their data and two have numbers at an end of what they may be, each
once of the demo project and once of one that has every kind. Run as
`.venv/bin/python scripts/fuzz_projects.py [FIRST] [COUNT]`; the tests run the first few of each.
"""

from __future__ import annotations

import json
import sys
import traceback
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from tests.bounds import at_bounds
from tests.test_attack import play, rich, spoilt

from wraithon.demo import DEMO_FOLDER
from wraithon.project.files import from_text, to_text
from wraithon.stage.loading import load
from wraithon.support.errors import WraithonError


def main(first: int, count: int) -> None:
    """Go through `count` seeds from `first` on."""
    demo = load(DEMO_FOLDER)
    character = next(iter(demo.characters.values()))
    refused = failed = 0
    wholes = None, json.loads(to_text(rich()))
    for seed in range(first, first + count):
        try:
            if seed % 4 < 2:
                text = spoilt(seed, wholes[seed % 2])
            else:
                text = json.dumps(at_bounds(rich() if seed % 2 else demo.project, seed))
            project = from_text(text).project
            saved = from_text(to_text(project)).project
            failed += saved != project
            play(project, {use.id: character for use in project.characters})
        except WraithonError:
            refused += 1
        except Exception:  # noqa: BLE001  # whatever it is, it is what is looked for
            failed += 1
            sys.stdout.write(f"seed {seed}:\n{traceback.format_exc(limit=-4)}\n")
    sys.stdout.write(f"{count} projects, {refused} refused, {failed} failed\n")


if __name__ == "__main__":
    numbers = [int(word) for word in sys.argv[1:]]
    main(*(numbers + [0, 1000][len(numbers) :]))
