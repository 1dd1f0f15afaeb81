"""What clean-up made of a photograph, as a task takes it along: the file of it, or all that it takes to make that."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from lenskeep.core.clean.applied import Numbers, Patch, cleaned
from lenskeep.core.clean.models import Mark
from lenskeep.files.patches import Cleaned, cleaned_bytes, cleaned_of, read_cleaned
from lenskeep.files.reading.photo import Base, Photo
from lenskeep.studio.tasks.originals import checked_original
from lenskeep.work.engines.carried import InFile, OutFolder


@dataclass(frozen=True)
class OriginalFiles:
    """An original and what it is called, was brought to a picture by, and turned by."""

    original: InFile
    name: str
    sha256: str
    raw_base: Base
    turn: int

    def opened(self) -> Photo:
        """Raises PhotoProblem."""
        return checked_original(self.original, self.name, self.sha256, self.raw_base, self.turn)


@dataclass(frozen=True)
class MakingFiles:
    """``marks`` are those that are to be done, upon ``before``, what earlier ones made; ``others`` are photographs that
    clones take from, by their content. The result, for a working copy of this ``side``, goes into ``out`` as ``name``.
    """

    original: OriginalFiles
    marks: tuple[Mark, ...]
    before: InFile | None
    others: dict[str, OriginalFiles]
    out: OutFolder
    name: str
    side: int

    def made(self, photo: Photo | None = None) -> bytes:
        """The file, which is kept. ``photo`` is the original where it is open already. Raises PhotoProblem."""
        photo = photo or self.original.opened()
        data = self.before.read() if self.before else None
        before: Sequence[Patch] = read_cleaned(data).patches if data else ()
        patches = cleaned(photo.pixels, self.marks, bool(photo.base), self._other, before)
        out = cleaned_bytes(cleaned_of(photo, patches, self.side))
        self.out.put(self.name, out)
        return out

    def _other(self, content: str) -> Numbers | None:
        other = self.others.get(content)
        return None if other is None else other.opened().pixels


@dataclass(frozen=True)
class CleanFiles:
    """``there`` is the file where it was made before; it may be gone by the time it is read."""

    there: InFile | None = None
    making: MakingFiles | None = field(default=None, repr=False)

    def read(self) -> Cleaned:
        """Raises PhotoProblem."""
        data = self.there.read() if self.there else None
        if data is None and self.making is not None:
            data = self.making.made()
        return read_cleaned(data or b"")
