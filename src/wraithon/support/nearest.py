"""What to say of a name that is not there."""

from __future__ import annotations

import difflib
from collections.abc import Collection, Mapping

LISTED = 8
"""Names that are listed where none is alike."""


def no_such(kind: str, name: str, known: Collection[str], called: Mapping[str, str] | None = None) -> str:
    """Return the text of an error: which name is missing, and the nearest ones that exist.

    Parameters
    ----------
    kind
        The noun of what is missing, as in "effect".
    name
        The name that was given.
    known
        The names, or ids, that exist.
    called
        Labels by id, for ids that people do not choose: a label that was given names its id.
    """
    labels = called or {}
    by_label = [each for each in known if labels.get(each) == name]
    near = by_label or difflib.get_close_matches(name, known, 3, 0.4)
    shown = [
        f'"{each}" ({labels[each]})' if each in labels else f'"{each}"' for each in near or sorted(known)[:LISTED]
    ]
    if near:
        return f'there is no {kind} "{name}"; did you mean {" or ".join(shown)}?'
    return f'there is no {kind} "{name}"; {"it is one of " + ", ".join(shown) if shown else "there is none at all"}'
