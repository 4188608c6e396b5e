"""What every model of the project shares: frozen, checked on the way in, and nothing dropped."""

from __future__ import annotations

import secrets
from typing import Annotated, Any, Self

from pydantic import AliasChoices, BaseModel, ConfigDict, Field

Id = Annotated[str, Field(min_length=1, max_length=64)]
LONGEST_NAME = 120
Name = Annotated[str, Field(min_length=1, max_length=LONGEST_NAME)]
Finite = Annotated[float, Field(allow_inf_nan=False, ge=-1e6, le=1e6)]
Unsigned = Annotated[float, Field(allow_inf_nan=False, ge=0.0, le=1e6)]
Positive = Annotated[float, Field(allow_inf_nan=False, gt=0.0, le=1e6)]
Share = Annotated[float, Field(allow_inf_nan=False, ge=0.0, le=1.0)]
Vec3 = tuple[Finite, Finite, Finite]


def new_id() -> str:
    """Return a fresh identity; names may be changed freely because nothing refers to them."""
    return secrets.token_hex(5)


EARLIER = {"muted": "disabled", "off": "disabled", "course": "curve", "words": "text"}
"""What fields were called in files of earlier versions, and what they are called now."""


def once(before: str) -> Any:
    """Declare a field that files of earlier versions call `before`; it is written under its present name."""
    return Field(validation_alias=AliasChoices(EARLIER[before], before))


class Model(BaseModel):
    """A frozen piece of a project.

    Fields this version does not know are kept and written back, so that a project made by a newer
    version survives being saved by this one.
    """

    model_config = ConfigDict(
        frozen=True, extra="allow", validate_default=False, validate_by_name=True, validate_by_alias=True,
        serialize_by_alias=True,
    )  # fmt: skip

    def evolve(self, **changes: Any) -> Self:
        """Return a checked copy with `changes`; everything else is shared with this one.

        Raises
        ------
        pydantic.ValidationError
            When a new value is outside what its field allows.
        """
        fields = {name: getattr(self, name) for name in type(self).model_fields}
        extra = self.model_extra or {}
        return type(self).model_validate({**fields, **extra, **changes})
