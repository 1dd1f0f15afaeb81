"""Files written whole or not at all: to a temporary neighbour first, then renamed over."""

import os
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


@contextmanager
def written_whole(path: Path) -> Iterator[Path]:
    """A path to write to; it becomes ``path`` when the block ends well and vanishes when it doesn't."""
    path.parent.mkdir(parents=True, exist_ok=True)
    draft = path.with_name(f".{path.name}.{uuid.uuid4().hex[:8]}.part")
    try:
        yield draft
        with draft.open("rb") as handle:
            os.fsync(handle.fileno())
        draft.replace(path)
    finally:
        draft.unlink(missing_ok=True)


def write_whole(path: Path, data: bytes) -> None:
    """Write bytes whole or not at all."""
    with written_whole(path) as draft:
        draft.write_bytes(data)
