"""Files that tasks read and write, wherever they run: by their path where that is seen, else as bytes along with it."""

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field, fields, is_dataclass, replace
from pathlib import Path
from typing import Any, TypeVar

from lenskeep.files.written import write_whole

T = TypeVar("T")


@dataclass(frozen=True)
class InFile:
    """A file to be read. ``data`` holds its bytes once it was taken along."""

    path: Path
    data: bytes | None = field(default=None, repr=False)

    def taken_along(self) -> "InFile":
        """Raises FileNotFoundError."""
        return self if self.data is not None else InFile(self.path, self.path.read_bytes())

    def read(self) -> bytes | None:
        """Its bytes; None when it is not there."""
        if self.data is not None:
            return self.data
        try:
            return self.path.read_bytes()
        except FileNotFoundError:
            return None

    @contextmanager
    def on_disk(self) -> Iterator[Path]:
        """A path to read it from; it may not be there."""
        if self.data is None:
            yield self.path
            return
        with tempfile.TemporaryDirectory(prefix="lenskeep-") as folder:
            path = Path(folder) / f"in{self.path.suffix}"
            path.write_bytes(self.data)
            yield path


@dataclass
class OutFolder:
    """Where what a task makes goes: into a folder, or, without one, back to whoever asked, in ``made`` by name."""

    folder: Path | None
    made: dict[str, bytes] = field(default_factory=dict, repr=False)

    def put(self, name: str, data: bytes) -> None:
        """Write a file, whole or not at all."""
        if self.folder is None:
            self.made[name] = data
        else:
            write_whole(self.folder / name, data)

    def has(self, name: str) -> bool:
        return name in self.made if self.folder is None else (self.folder / name).is_file()


def land(made: dict[str, bytes], folder: Path) -> None:
    """Write what came back into the folder it was meant for."""
    for name, data in made.items():
        write_whole(folder / name, data)


def packed(task: T) -> T:
    """A task with all its files taken along, and nothing written where it runs. Raises FileNotFoundError."""
    return replace(task, **{f.name: _packed(getattr(task, f.name)) for f in fields(task)})  # type: ignore[type-var, arg-type, return-value]


def _packed(value: Any) -> Any:
    if isinstance(value, InFile):
        return value.taken_along()
    if isinstance(value, OutFolder):
        return OutFolder(None)
    if isinstance(value, dict):
        return {key: _packed(each) for key, each in value.items()}
    if isinstance(value, tuple):
        return tuple(_packed(each) for each in value)
    if is_dataclass(value) and not isinstance(value, type) and type(value).__name__.endswith("Files"):
        return packed(value)
    return value
