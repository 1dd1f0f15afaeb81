"""Who was found by which witnesses, who was refused and why, in lines to be read."""

from collections.abc import Sequence

from lenskeep.core.detect.beings import Judged


def explained(judged: Sequence[Judged]) -> list[str]:
    """A line for each box: what it was taken for, how sure its finder was, where (x and y in pixels of the proxy), what
    came of it and why.
    """
    return [_line(one) for one in judged]


def _line(one: Judged) -> str:
    x0, y0, x1, y1 = (round(float(v)) for v in one.one.box)
    seen = f"{one.one.seen} {one.one.score:.2f} at {x0}–{x1}, {y0}–{y1}"
    if one.being is None:
        return f"{seen}: refused, {one.why}"
    what = "bystander" if one.being.bystander else one.being.kind
    return f"{seen}: {what}{'' if one.being.sure else ' (tells the kind only)'}, {one.why}"
