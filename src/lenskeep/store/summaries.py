"""What lists show of a frame, in columns: a summary of its facts, written in the transactions that change them."""

from typing import Any

from lenskeep.core.facts import Box, Facts, Skyline


def summary_of(facts: Facts, found_at: str) -> dict[str, Any]:
    """The columns of ``frames`` that say what was found."""
    box, line = facts.subject_box, facts.skyline
    return {
        "found_by": facts.detector,
        "found_at": found_at,
        "trust": facts.trust,
        "doubt": int(facts.doubtful),
        "reason": next(iter(facts.reasons), ""),
        "box": f"{box.x0} {box.y0} {box.x1} {box.y1}" if box else "",
        "skyline": f"{line.left} {line.right}" if line else "",
        "subject_area": facts.area("subject"),
        "sky_area": facts.sky.area,
        "areas": " ".join(facts.areas),
    }


NOT_FOUND: dict[str, Any] = {
    "found_by": "", "found_at": "", "trust": 1.0, "doubt": 0, "reason": "", "box": "", "skyline": "",
    "subject_area": 0.0, "sky_area": 0.0, "areas": "",
}  # fmt: skip
"""The same of a frame on which nothing was found yet."""


def box_of(text: str) -> Box | None:
    if not text:
        return None
    x0, y0, x1, y1 = map(float, text.split())
    return Box(x0=x0, y0=y0, x1=x1, y1=y1)


def skyline_of(text: str) -> Skyline | None:
    if not text:
        return None
    left, right = map(float, text.split())
    return Skyline(left=left, right=right)
