"""Names that people give, made fit to be shown and to be file names."""

import re
import unicodedata

MOST_STEM_BYTES = 180
"""Of a file's name without its ending, so that a number and an ending still fit into the 255 that file systems take."""
_BLANK = {"\u2800", "\u3164", "\u115f", "\u1160", "\uffa0"}
"""Letters by their class that show nothing."""


def shown_name(text: str) -> str:
    """The name without control characters, its white space folded; "" when nothing of it could be seen."""
    plain = " ".join("".join(c if unicodedata.category(c) not in ("Cc", "Cs") else " " for c in text).split())
    seen = any(unicodedata.category(c)[0] not in "ZC" and c not in _BLANK for c in plain)
    return plain if seen else ""


def file_stem(text: str, otherwise: str) -> str:
    """A safe name for a file, without ending: no separators, no formula for a spreadsheet, at most so many bytes."""
    stem = re.sub(r"[^\w .()+-]", "_", unicodedata.normalize("NFC", text)).strip(" .").lstrip("+-. ")
    stem = stem.encode("utf-8", "ignore")[:MOST_STEM_BYTES].decode("utf-8", "ignore").rstrip(" .")
    return stem or otherwise
