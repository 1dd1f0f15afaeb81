"""Names that people give, made fit to be shown and to be file names."""

import re
import unicodedata

MOST_STEM_BYTES = 180
"""Of a file's name without its ending, so that a number and an ending still fit into the 255 that file systems take."""
_TURNING = {*"\u061c\u200e\u200f\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069"}
"""Marks that turn the direction of writing: a name that holds some is read as another."""
_BLANK = {"\u2800", "\u3164", "\u115f", "\u1160", "\uffa0"}
"""Letters by their class that show nothing."""


def shown_name(text: str) -> str:
    """The name without control characters and marks of direction, its white space folded; "" when nothing of it could
    be seen.
    """
    kept = (c for c in text if c not in _TURNING)
    plain = " ".join("".join(c if unicodedata.category(c) not in ("Cc", "Cs") else " " for c in kept).split())
    seen = any(unicodedata.category(c)[0] not in "ZC" and c not in _BLANK for c in plain)
    return plain if seen else ""


def shown_text(text: str) -> str:
    """The same of a text of several lines, which keeps them; what is empty at its end is no line."""
    lines = (
        "".join(c for c in line if c not in _TURNING and unicodedata.category(c) not in ("Cc", "Cs"))
        for line in text.splitlines()
    )
    return "\n".join(lines).rstrip("\n")


def file_stem(text: str, otherwise: str) -> str:
    """A safe name for a file, without ending: no separators, no formula for a spreadsheet, at most so many bytes."""
    stem = re.sub(r"[^\w .()+-]", "_", unicodedata.normalize("NFC", text)).strip(" .").lstrip("+-. ")
    stem = stem.encode("utf-8", "ignore")[:MOST_STEM_BYTES].decode("utf-8", "ignore").rstrip(" .")
    return stem or otherwise
