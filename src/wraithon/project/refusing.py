"""What a model refuses, in words: which field, what is allowed, and what came."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from pydantic import ValidationError


WORDS: dict[str, Callable[[Mapping[str, Any]], str]] = {
    "string_too_long": lambda told: f"may have {told['max_length']} characters at most",
    "string_too_short": lambda told: "must not be empty" if told["min_length"] == 1 else
        f"must have {told['min_length']} characters at least",
    "string_pattern_mismatch": lambda told: f"must be written as {told['pattern']}",
    "string_type": lambda _told: "must be text",
    "greater_than_equal": lambda told: f"must be {told['ge']:g} or more",
    "greater_than": lambda told: f"must be more than {told['gt']:g}",
    "less_than_equal": lambda told: f"must be {told['le']:g} or less",
    "less_than": lambda told: f"must be less than {told['lt']:g}",
    "finite_number": lambda _told: "must be a finite number",
    "too_long": lambda told: f"may have {told['max_length']:,} entries at most",
    "too_short": lambda told: f"must have {told['min_length']:,} entries at least",
    "float_type": lambda _told: "must be a number",
    "float_parsing": lambda _told: "must be a number",
    "int_type": lambda _told: "must be a whole number",
    "int_parsing": lambda _told: "must be a whole number",
    "int_from_float": lambda _told: "must be a whole number",
    "int_parsing_size": lambda _told: "is beyond what a whole number may be here",
    "bool_type": lambda _told: "must be true or false",
    "bool_parsing": lambda _told: "must be true or false",
    "tuple_type": lambda _told: "must be a list",
    "list_type": lambda _told: "must be a list",
    "dict_type": lambda _told: "must be an object",
    "model_type": lambda _told: "must be an object",
    "model_attributes_type": lambda _told: "must be an object",
    "missing": lambda _told: "is missing",
    "enum": lambda told: f"must be one of {told['expected']}",
    "literal_error": lambda told: f"must be {told['expected']}",
    "union_tag_invalid": lambda told: f"must be one of {told['expected_tags']}",
    "union_tag_not_found": lambda _told: "does not say of which kind it is",
}  # fmt: skip
"""Kind of what is wrong, as the library for models calls it, to our words for it."""


def what_is_wrong(problem: Mapping[str, Any]) -> str:
    """Return what is wrong with a value, of one entry of `ValidationError.errors`."""
    text = WORDS.get(problem["type"])
    if text is not None:
        return text(problem.get("ctx", {}))
    return str(problem["msg"]).removeprefix("Value error, ").removeprefix("Assertion failed, ")


def refusal(error: ValidationError) -> str:
    """Return what a model refuses first, and why."""
    problem = error.errors(include_url=False)[0]
    place = " ".join(str(part) for part in problem["loc"] if isinstance(part, str)).replace("_", " ")
    return f"{place} {what_is_wrong(problem)}".strip()
