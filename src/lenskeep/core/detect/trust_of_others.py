"""Trust in the masks beside subject and sky: kinds of subject, ground covers, skin."""

from collections.abc import Mapping

from lenskeep.core.detect.beings import Being
from lenskeep.core.detect.trust import Sign, beings_values, finding, fragments, undecided_share
from lenskeep.core.facts import COVERS, SUBJECT_KINDS, Face, Finding
from lenskeep.core.types import Alpha

KIND_START, COVER_START = 1.75, 2.6
KIND_SIGNS = [
    Sign("subject", 1.08, 1.68, 0.2, 0.6, "The subject itself is doubtful."),
    Sign("boxes", 0.11, 1.61, 0.1, 0.4, "The mask does not reach as far as those seen."),
    Sign("faint_box", 0.02, 0.00, 0.4, 0.4, "Who is there is told only faintly."),
    Sign("unboxed", 0.99, 1.03, 0.0, 1.0, "What is there is told by its shape alone."),
    Sign("soft_border", 0.43, 1.62, 0.05, 0.4, "Much of the outline is soft."),
]
"""Fitted by tools/trust/fit.py, as those of subject and sky are."""
COVER_SIGNS = [
    Sign("undecided", 0.80, 1.60, 0.35, 0.9, "Much of it is undecided."),
    Sign("pieces", 0.30, 0.50, 8.0, 12.0, "It falls into many pieces."),
    Sign("small", 0.40, 0.40, 0.3, 0.7, "Only a little of it was found."),
]
"""Set by hand: no render tells what ground covers truly are."""
SKIN_BY_FACE, SKIN_ALONE = 0.9, 0.6


def kind_values(mask: Alpha, beings: list[Being], subject_trust: float) -> dict[str, float]:
    """What can be seen of the mask of one kind of subject; ``beings`` are those of that kind."""
    own = beings_values(mask, beings)
    share = float((mask > 0.5).mean())
    return {
        "subject": 1.0 - subject_trust,
        "boxes": own["boxes"],
        "faint_box": own["faint_box"],
        "unboxed": own["outside"] if beings else 1.0,
        "soft_border": min(undecided_share(mask, share), 3.0),
    }


def kind_trust(values: dict[str, float], share: float) -> Finding:
    return finding(values, KIND_SIGNS, KIND_START, share)


def cover_trust(mask: Alpha) -> Finding:
    """Trust in a ground cover's mask."""
    share = float((mask > 0.5).mean())
    values = {
        "undecided": min(undecided_share(mask, share), 3.0),
        "pieces": float(fragments(mask)),
        "small": max(0.0, 0.02 - share) / 0.02,
    }
    return finding(values, COVER_SIGNS, COVER_START, share)


def skin_trust(mask: Alpha, faces: list[Face]) -> Finding:
    """Skin is found by the colour of the faces; without one it is a guess by hue."""
    share = round(float((mask > 0.5).mean()), 5)
    if faces:
        return Finding(trust=SKIN_BY_FACE, area=share)
    return Finding(trust=SKIN_ALONE, area=share, reasons=["No face shows which colour the skin has."])


def others_trust(
    masks: Mapping[str, Alpha], beings: list[Being], faces: list[Face], subject_trust: float
) -> tuple[dict[str, Finding], dict[str, dict[str, float]]]:
    """(trust in each further mask that was found, what that of the kinds was computed from)."""
    out: dict[str, Finding] = {}
    signs: dict[str, dict[str, float]] = {}
    for name, mask in masks.items():
        if name in SUBJECT_KINDS:
            own = [b for b in beings if b.kind == SUBJECT_KINDS[name]]
            signs[name] = kind_values(mask, own, subject_trust)
            out[name] = kind_trust(signs[name], float((mask > 0.5).mean()))
        elif name in COVERS:
            out[name] = cover_trust(mask)
        elif name == "skin":
            out[name] = skin_trust(mask, faces)
    return out, signs
