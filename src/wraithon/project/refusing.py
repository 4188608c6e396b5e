"""What a model refuses, in words: which field, what is allowed, and what came."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from pydantic import ValidationError


WORDS: dict[str, Callable[[Mapping[str, Any]], str]] = {
    "string_too_long": lambda context: f"may have {context['max_length']} characters at most",
    "string_too_short": lambda context: "must not be empty" if context["min_length"] == 1 else
        f"must have {context['min_length']} characters at least",
    "string_pattern_mismatch": lambda context: f"must be written as {context['pattern']}",
    "string_type": lambda _context: "must be text",
    "greater_than_equal": lambda context: f"must be {context['ge']:g} or more",
    "greater_than": lambda context: f"must be more than {context['gt']:g}",
    "less_than_equal": lambda context: f"must be {context['le']:g} or less",
    "less_than": lambda context: f"must be less than {context['lt']:g}",
    "finite_number": lambda _context: "must be a finite number",
    "too_long": lambda context: f"may have {context['max_length']:,} entries at most",
    "too_short": lambda context: f"must have {context['min_length']:,} entries at least",
    "float_type": lambda _context: "must be a number",
    "float_parsing": lambda _context: "must be a number",
    "int_type": lambda _context: "must be a whole number",
    "int_parsing": lambda _context: "must be a whole number",
    "int_from_float": lambda _context: "must be a whole number",
    "int_parsing_size": lambda _context: "is beyond what a whole number may be here",
    "bool_type": lambda _context: "must be true or false",
    "bool_parsing": lambda _context: "must be true or false",
    "tuple_type": lambda _context: "must be a list",
    "list_type": lambda _context: "must be a list",
    "dict_type": lambda _context: "must be an object",
    "model_type": lambda _context: "must be an object",
    "model_attributes_type": lambda _context: "must be an object",
    "missing": lambda _context: "is missing",
    "enum": lambda context: f"must be one of {context['expected']}",
    "literal_error": lambda context: f"must be {context['expected']}",
    "union_tag_invalid": lambda context: f"must be one of {context['expected_tags']}",
    "union_tag_not_found": lambda _context: "does not say of which kind it is",
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
    location = " ".join(str(part) for part in problem["loc"] if isinstance(part, str)).replace("_", " ")
    return f"{location} {what_is_wrong(problem)}".strip()
