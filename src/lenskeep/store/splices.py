"""What changed between two texts that are nearly the same: kept instead of the second one."""

import json


def splice(text: str, other: str) -> str:
    """What turns ``text`` into ``other``: how much of its beginning and end stays, and what stands between."""
    most = min(len(text), len(other))
    head = _alike(text, other, most)
    tail = _alike(text[::-1], other[::-1], most - head) if head < most else 0
    return json.dumps([head, tail, other[head : len(other) - tail]], ensure_ascii=False)


def spliced(text: str, change: str) -> str:
    """``text`` after a change made by ``splice``."""
    head, tail, middle = json.loads(change)
    return f"{text[:head]}{middle}{text[len(text) - tail :]}"


def _alike(a: str, b: str, most: int) -> int:
    """How many characters from the start are the same, up to ``most``; by halves, which compares in C."""
    low, high = 0, most
    while low < high:
        middle = (low + high + 1) // 2
        if a[low:middle] == b[low:middle]:
            low = middle
        else:
            high = middle - 1
    return low


def unwound(newest: str, changes: list[str]) -> str:
    """The text that lies ``changes`` (the newest first) before ``newest``."""
    text = newest
    for change in changes:
        text = spliced(text, change)
    return text
