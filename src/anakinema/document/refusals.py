"""What is wrong with data that the model refuses, in words."""

from __future__ import annotations

from pydantic import ValidationError


def refusal_words(error: ValidationError) -> str:
    """The first thing that is wrong, as a sentence."""
    first = error.errors(include_url=False)[0]
    place = next((str(step) for step in reversed(first["loc"]) if isinstance(step, str)), "it")
    place = place.replace("_", " ")
    limits = first.get("ctx", {})
    if first["type"] == "too_long":
        return f"there can be at most {limits['max_length']:,} {place}."
    if first["type"] == "too_short":
        return f"there must be at least {limits['min_length']} {place}."
    if first["type"] == "string_too_long":
        return f"{place} can have at most {limits['max_length']:,} characters."
    if first["type"] == "extra_forbidden":
        return "this name is not known here."
    if first["type"] == "string_pattern_mismatch":
        if str(limits["pattern"]).startswith("^[^"):
            return f"{place} holds a character that is no text."
        return f"{place} “{str(first['input'])[:40]}” is not made of a-z, 0-9 and _."
    if first["type"] == "string_unicode":
        return f"{place} holds a character that is no text."
    message = str(first["msg"]).removeprefix("Value error, ").rstrip(".")
    return f"{message[:1].lower()}{message[1:]}."
