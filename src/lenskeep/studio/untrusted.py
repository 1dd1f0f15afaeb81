"""Files that nobody has looked at yet, decoded in a process that may die: a photograph, a picture to lay over, a mask,
a table, a recipe. Whatever is in them becomes an answer or a problem in words.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

from lenskeep.core.problems import UserProblem
from lenskeep.files.assets import packed_grey
from lenskeep.files.cube import read_cube
from lenskeep.files.masks import mask_of_upload
from lenskeep.files.problems import PhotoProblem
from lenskeep.files.reading.photo import FORMATS, Base, read_photo
from lenskeep.files.recipes import RecipeFile, recipe_from_bytes
from lenskeep.files.sets import SetFile, is_set, set_from_json
from lenskeep.files.written import sum_of
from lenskeep.store.frames import content_of
from lenskeep.studio.library import THUMB, Library
from lenskeep.studio.overlays import overlay_of_upload
from lenskeep.studio.tasks.find import thumb_of
from lenskeep.work.apart import Apart, Lost, wait_seconds
from lenskeep.work.defects import defect
from lenskeep.work.engines.carried import land

if TYPE_CHECKING:
    from lenskeep.studio.hand_over.coming_back import ComingBack

PRELOAD = ["lenskeep.studio.tasks.find", "lenskeep.studio.tasks.deliver", "lenskeep.studio.card"]
T = TypeVar("T")


@dataclass(frozen=True)
class Examined:
    """A photograph that was read whole, to the last pixel."""

    sha256: str
    suffix: str
    size: int
    width: int
    height: int
    taken_at: str | None
    base: Base


@lru_cache(maxsize=1)
def apart() -> Apart:
    """The helper processes of this program."""
    return Apart(PRELOAD)


def examined(library: Library, path: Path, name: str, base: Base, sha256: str = "") -> Examined:
    """Read a photograph to the last pixel, so that a truncated one is found now, and write its small picture.

    Raises PhotoProblem.
    """
    return _careful(name, path.stat().st_size, _examine, path, name, base, Library(library.home), sha256)


def table_fields(path: Path, name: str) -> tuple[dict[str, Any], bytes]:
    """Fields of a colour table, which works in full at once, and its asset. Raises UserProblem."""
    return _careful(name, path.stat().st_size, _table, path, name)


def overlay_fields(path: Path, name: str) -> tuple[dict[str, Any], bytes]:
    """Fields of a PNG or JPEG to lay over, and its asset. Raises UserProblem."""
    return _careful(name, path.stat().st_size, _overlay, path, name)


def mask_asset(path: Path, name: str) -> bytes:
    """A grey PNG as the asset of an image part. Raises UserProblem."""
    return _careful(name, path.stat().st_size, _mask, path, name)


def recipe_of_upload(path: Path, name: str) -> RecipeFile | SetFile:
    """Of a recipe file, or of a set's. Raises UserProblem."""
    return _careful(name, path.stat().st_size, _recipe, path, name)


def list_of_upload(path: Path, name: str) -> "ComingBack":
    """What came back to a shoot: a gallery's favourites, or a hand-over's list. Raises UserProblem."""
    return _careful(name, path.stat().st_size, _coming_back, path, name)


def _coming_back(path: Path, name: str) -> "ComingBack":
    from lenskeep.studio.hand_over.coming_back import read

    return read(path.read_bytes(), name)


def _careful(name: str, size: int, run: Callable[..., T], *args: Any) -> T:
    try:
        return apart().call(run, *args, seconds=wait_seconds(size))
    except (UserProblem, OSError):
        raise
    except Lost as lost:
        how = "takes too long to read" if lost.slow else "can't be read: the decoder breaks down on it"
        raise PhotoProblem(f"{name} {how}. It is damaged or made in an unusual way; export it anew.") from lost
    except MemoryError as error:
        raise PhotoProblem(f"{name} needs more memory than there is. Export it smaller.") from error
    except Exception as error:
        raise PhotoProblem(f"{name} is damaged and can't be read ({defect(name, error)}). Export it anew.") from error


def _examine(path: Path, name: str, base: Base, library: Library, sha256: str) -> Examined:
    seen, thumb = examine(path, name, base, sha256)
    land({THUMB: thumb}, library.computed(content_of(seen.sha256, seen.base)).folder)
    return seen


def examine(path: Path, name: str, base: Base, sha256: str = "") -> tuple[Examined, bytes]:
    """Read a photograph to the last pixel; returns what it is and its small picture as JPEG. Raises PhotoProblem."""
    photo = read_photo(path, name, base)
    suffix = FORMATS.get(photo.format) or Path(name).suffix.lower()[:8]
    taken = photo.taken.isoformat() if photo.taken else None
    size, total = path.stat().st_size, sha256 or sum_of(path)
    return Examined(total, suffix, size, photo.width, photo.height, taken, photo.base), thumb_of(photo)


def _table(path: Path, name: str) -> tuple[dict[str, Any], bytes]:
    fields, asset = read_cube(path.read_bytes().decode("utf-8", "replace"), name).fields(name)
    return fields | {"share": 100.0}, asset


def _overlay(path: Path, name: str) -> tuple[dict[str, Any], bytes]:
    return overlay_of_upload(path.read_bytes(), name)


def _mask(path: Path, name: str) -> bytes:
    return packed_grey(mask_of_upload(path.read_bytes(), name))


def _recipe(path: Path, name: str) -> RecipeFile | SetFile:
    data = path.read_bytes()
    text = data[:8000].decode("utf-8-sig", "replace")
    return set_from_json(data.decode("utf-8-sig", "replace"), name) if is_set(text) else recipe_from_bytes(data, name)
