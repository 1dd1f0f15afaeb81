"""A region as a sentence."""

from collections.abc import Sequence

from lenskeep.core.regions.base import Part

_LINK = {"add": "and", "take away": "without", "only within": "only within"}


def part_names(parts: Sequence[Part]) -> list[str]:
    """Each part in words; drawn parts are numbered where there are several, as they are on the picture."""
    several = sum(part.drawn for part in parts) > 1
    names, count = [], 0
    for part in parts:
        words = part.words()
        if part.drawn:
            count += 1
            if several:
                head, _, rest = words.partition(" ")
                words = f"{head} {count} {rest}".strip()
        names.append(words)
    return names


def linked(parts: Sequence[Part]) -> list[str]:
    """Each part in words with how it is combined: "background", "only within ramp 1", "without subject"."""
    words = []
    for i, (part, name) in enumerate(zip(parts, part_names(parts), strict=True)):
        own = f"not {name}" if part.invert else name
        words.append(own if i == 0 else f"{_LINK[part.combine]} {own}")
    return words


def sentence_of(parts: Sequence[Part], invert: bool) -> str:
    """The parts as one sentence."""
    if not parts:
        return "nowhere" if invert else "whole frame"
    words = linked(parts)
    text = words[0] + "".join(_joined(words[1:]))
    if not invert:
        return text
    return f"all but {text}" if len(parts) == 1 and not parts[0].invert else f"all but ({text})"


def shaping_words(grow: float, snap: float, feather: float, ceiling: float) -> str:
    """What is done to a region's edges as a whole: only what is not neutral, such as "feathered 2 %"."""
    done = [
        f"{'grown' if grow > 0 else 'shrunk'} {_per_cent(abs(grow))}" if grow else "",
        f"snapped {_per_cent(snap)}" if snap else "",
        f"feathered {_per_cent(feather)}" if feather else "",
        f"at most {_per_cent(ceiling)}" if ceiling != 1.0 else "",
    ]
    return ", ".join(word for word in done if word) or "edges as found"


def _per_cent(share: float) -> str:
    return f"{100 * share:.3g} %"


def _joined(links: list[str]) -> list[str]:
    return [f" {w}" if w.startswith("and ") else f", {w}" for w in links]
