"""What lists show of a frame, in columns: a summary of its facts, written in the transactions that change them."""

import json
from collections.abc import Collection
from typing import Any

from lenskeep.core.facts import MAIN_MASKS, Box, Facts, Skyline

BROUGHT = "f.sha256 || CASE WHEN f.raw_base IN ('', 'soft') THEN '' ELSE '-' || f.raw_base END"
CONTENT = f"{BROUGHT} || CASE f.turn WHEN 0 THEN '' ELSE '-turn' || f.turn END"
"""What a frame's picture is, in SQL (``frames.content_of``)."""


def summary_of(facts: Facts, found_at: str, used: Collection[str] = MAIN_MASKS) -> dict[str, Any]:
    """The columns of ``frames`` that say what was found, where a look uses these masks."""
    kept = json.dumps({name: [one.trust, one.reasons] for name, one in facts.doubts().items()})
    doubt, trust, reason = doubt_of(kept, used)
    box, line = facts.subject_box, facts.skyline
    return {
        "found_by": facts.detector,
        "found_at": found_at,
        "trust": trust,
        "doubt": doubt,
        "reason": reason,
        "doubts": kept,
        "box": f"{box.x0} {box.y0} {box.x1} {box.y1}" if box else "",
        "skyline": f"{line.left} {line.right}" if line else "",
        "subject_area": facts.area("subject"),
        "sky_area": facts.sky.area,
        "areas": " ".join(facts.areas),
    }


NOT_FOUND: dict[str, Any] = {
    "found_by": "", "found_at": "", "trust": 1.0, "doubt": 0, "reason": "", "doubts": "{}", "box": "", "skyline": "",
    "subject_area": 0.0, "sky_area": 0.0, "areas": "",
}  # fmt: skip
"""The same of a frame on which nothing was found yet."""


def doubt_of(doubts: str, used: Collection[str]) -> tuple[int, float, str]:
    """(doubt, trust, reason) of a frame from the masks that are doubtful on it, where a look uses these. Trust is that
    of the worst of them, 1 without any.
    """
    own = [one for name, one in json.loads(doubts).items() if name in used]
    reasons = [reason for _, every in own for reason in every]
    return int(bool(own)), min((trust for trust, _ in own), default=1.0), next(iter(reasons), "")


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
