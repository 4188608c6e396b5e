"""What the numbers of models measure, in one place for forms, master values, findings and the documents.

A field says it in its annotation: `pull: Annotated[Finite, Quantity("Acceleration downwards", M_PER_S2)]`.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import Any

from pydantic import BaseModel


@dataclass(frozen=True)
class Unit:
    """A unit as it is shown, what it is a power of, and how numbers in it are edited."""

    symbol: str
    metres: int = 0
    """Power of length."""
    seconds: int = 0
    """Power of time."""
    factor: float = 1.0
    """How many of it the file's own unit (metres, seconds, degrees, shares) is."""
    step: float = 0.1
    """What one press of an arrow key adds."""
    decimals: int = 3


NUMBER = Unit("")
COUNT = Unit("", step=1)
TIMES = Unit("×", step=0.05)
PERCENT = Unit("%", factor=100, step=5, decimals=0)
DEGREES = Unit("°", step=1, decimals=1)
METRES = Unit("m", metres=1, step=0.05)
CENTIMETRES = Unit("cm", metres=1, factor=100, step=0.5, decimals=1)
PER_METRE = Unit("/m", metres=-1, step=1, decimals=1)
SECONDS = Unit("s", seconds=1, step=0.05)
MILLISECONDS = Unit("ms", seconds=1, factor=1000, step=1, decimals=1)
PER_SECOND = Unit("/s", seconds=-1)
M_PER_S = Unit("m/s", metres=1, seconds=-1)
M_PER_S2 = Unit("m/s²", metres=1, seconds=-2)
DEGREES_PER_S = Unit("°/s", seconds=-1, step=10, decimals=0)


@dataclass(frozen=True)
class Label:
    """What a field is, as one plain sentence: the tool tip, and the description in the schema."""

    label: str

    def __get_pydantic_json_schema__(self, core_schema: Any, handler: Any) -> dict[str, Any]:
        """Describe the field in the schema."""
        described: dict[str, Any] = handler(core_schema)
        return described | {"description": self.label}


@dataclass(frozen=True)
class Quantity(Label):
    """What a field measures.

    Parameters
    ----------
    label
        What it is (see `Label`).
    unit
        In which unit it is shown, which says how it scales with size and time.
    step, decimals
        How it is edited, where that differs from what is usual in the unit.
    word
        What stands behind the number in place of the unit's symbol.
    """

    unit: Unit = NUMBER
    step: float | None = None
    decimals: int | None = None
    word: str = ""

    @property
    def symbol(self) -> str:
        """What stands behind the number."""
        return self.word or self.unit.symbol

    @property
    def arrow_step(self) -> float:
        """What one press of an arrow key adds."""
        return self.unit.step if self.step is None else self.step

    @property
    def shown_decimals(self) -> int:
        """How many decimals are shown at most."""
        return self.unit.decimals if self.decimals is None else self.decimals

    def scale(self, size: float, tempo: float) -> float:
        """Return by how much a value of it grows when all is `size` times as large and `tempo` times as quick."""
        return float(size**self.unit.metres / tempo**self.unit.seconds)

    def __get_pydantic_json_schema__(self, core_schema: Any, handler: Any) -> dict[str, Any]:
        """Describe the field in the schema, with the unit that the file has."""
        described = super().__get_pydantic_json_schema__(core_schema, handler)
        power = {"m": self.unit.metres, "s": self.unit.seconds}
        unit = " ".join(f"{name}^{by}" if by != 1 else name for name, by in power.items() if by)
        return described | ({"x-unit": unit} if unit else {})


@cache
def labels_of(kind: type[BaseModel]) -> dict[str, Label]:
    """Return the fields of a model that say what they are, and what; numbers say what they measure."""
    noted = {
        name: [note for note in field.metadata if isinstance(note, Label)]
        for name, field in kind.model_fields.items()
    }
    return {name: notes[0] for name, notes in noted.items() if notes}


@cache
def quantities_of(kind: type[BaseModel]) -> dict[str, Quantity]:
    """Return the fields of a model that say what they measure, and what."""
    return {name: label for name, label in labels_of(kind).items() if isinstance(label, Quantity)}
