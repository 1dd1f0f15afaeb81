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


def sentence_of(parts: Sequence[Part], invert: bool) -> str:
    """The parts as one sentence."""
    if not parts:
        return "nowhere" if invert else "whole frame"
    words = []
    for i, (part, name) in enumerate(zip(parts, part_names(parts), strict=True)):
        own = f"not {name}" if part.invert else name
        words.append(own if i == 0 else f"{_LINK[part.combine]} {own}")
    text = words[0] + "".join(_joined(words[1:]))
    return f"all but ({text})" if invert else text


def _joined(links: list[str]) -> list[str]:
    return [f" {w}" if w.startswith("and ") else f", {w}" for w in links]
