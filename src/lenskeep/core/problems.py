"""What the photographer can mend: one class for it, and a validator's findings in words that say what to do."""

from typing import Any

from pydantic import ValidationError


class UserProblem(Exception):
    """Something the user can mend; the message says what to do. Everything else that is raised is a defect."""


_WORDS = {
    "missing": "is missing",
    "extra_forbidden": "is not known here",
    "finite_number": "must be a finite number",
    "string_too_short": "is empty or too short",
    "string_too_long": "is too long: at most {max_length} characters",
    "greater_than_equal": "must be at least {ge}",
    "greater_than": "must be more than {gt}",
    "less_than_equal": "must be at most {le}",
    "less_than": "must be less than {lt}",
    "too_long": "holds too many entries: at most {max_length}",
    "too_short": "holds too few entries: at least {min_length}",
    "literal_error": "must be {expected}",
    "string_pattern_mismatch": "is not written as it should be",
    "union_tag_invalid": "is of a kind that is not known here",
    "union_tag_not_found": "does not say its kind",
    "json_invalid": "it is no whole JSON",
}
_TYPES = {
    "float": "must be a number", "int": "must be a whole number", "bool": "must be on or off",
    "string": "must be text", "list": "must be a list", "dict": "must hold named values",
    "tuple": "must be a list", "model": "must hold named values",
}  # fmt: skip


def validation_words(error: ValidationError, whole_place: bool = False) -> str:
    """The first of a validator's findings as a sentence, with the field it is about, or the whole way to it."""
    return finding_words(error.errors(include_url=False)[0], whole_place)


def finding_words(found: Any, whole_place: bool = False) -> str:
    """One finding (pydantic's dict of it) as a sentence."""
    place = [str(part).replace("_", " ") for part in found.get("loc", ())]
    where = " → ".join(place if whole_place else place[-1:])
    what = _what(found)
    return f"{where}: {what}." if where else f"{what[:1].upper()}{what[1:]}."


def _what(found: Any) -> str:
    kind, context = str(found.get("type", "")), dict(found.get("ctx") or {})
    if kind == "value_error":
        return str(context.get("error", "not valid")).rstrip(".")
    for wanted, words in _TYPES.items():
        if kind in (f"{wanted}_type", f"{wanted}_parsing", f"{wanted}_from_float"):
            return words
    return _WORDS.get(kind, "is not valid").format(**context)
