"""The proof of a hand-over: a list (JSON) of what every file was made from and what it is; and making it once more by
that list, to see whether every bit is the same.
"""

import json
import tempfile
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from lenskeep.core.problems import UserProblem, validation_words
from lenskeep.core.recipes.keys import content_key
from lenskeep.core.recipes.overrides import FrameOverride
from lenskeep.core.versions import DETECTOR, ENGINE
from lenskeep.files.reading.photo import Base
from lenskeep.store import findings, frames, recipes
from lenskeep.store.frames import FrameRow
from lenskeep.store.looks import Look, LookLayer
from lenskeep.store.recipes import KINDS, RecipeVersion
from lenskeep.studio.hand_over.making import task_of
from lenskeep.studio.hand_over.options import DeliveryOptions
from lenskeep.studio.hand_over.sheet import SheetRow
from lenskeep.studio.library import Library
from lenskeep.studio.tasks.deliver import DeliverTask, deliver_frame
from lenskeep.studio.wanting import Wanting

LIST = "what-was-delivered.json"
FORMAT = "lenskeep-list/1"
MOST_BYTES = 200_000_000
_STRICT = ConfigDict(extra="ignore", allow_inf_nan=False)


class Original(BaseModel):
    model_config = _STRICT
    name: str
    sha256: str = Field(pattern="^[0-9a-f]{64}$")
    raw_base: Base = ""
    turn: int = 0


class ListedLayer(BaseModel):
    """A recipe of the look; ``key`` is a hash of what is in it."""

    model_config = _STRICT
    id: int = 0
    recipe: str
    version: int
    key: str
    strength: float
    on: bool = True


class Listed(BaseModel):
    """One file, what it was made from and what was known of it then."""

    model_config = _STRICT
    file: str
    sha256: str
    bytes: int
    original: Original
    detectors: str
    look: list[ListedLayer] = []
    own: FrameOverride = FrameOverride()
    guards: list[list[Any]] = []
    doubts: list[str] = []
    accepted: bool = False
    checked: str = ""
    rating: int = 0
    missing: str = ""


class DeliveryList(BaseModel):
    """The whole list; ``options`` are those of the hand-over."""

    model_config = _STRICT
    format: Literal["lenskeep-list/1"] = "lenskeep-list/1"
    shoot: str
    queued_at: str
    engine: str
    options: DeliveryOptions
    files: list[Listed]


def list_of(shoot: str, queued_at: str, options: DeliveryOptions, rows: Iterable[SheetRow]) -> str:
    """The list as JSON."""
    made = DeliveryList(
        shoot=shoot,
        queued_at=queued_at,
        engine=ENGINE,
        options=options.model_copy(update={"folder": None}),
        files=[_listed(row) for row in rows],
    )
    return made.model_dump_json(indent=1) + "\n"


def _listed(row: SheetRow) -> Listed:
    f = row.frame
    layers = row.look.layers if row.look else ()
    return Listed(
        file=row.made.name,
        sha256=row.made.sha256,
        bytes=row.made.bytes,
        original=Original(name=f.file_name, sha256=f.sha256, raw_base=row.raw_base, turn=row.turn),
        detectors=f.found_by or DETECTOR,
        look=[
            ListedLayer(
                id=e.id,
                recipe=e.version.name,
                version=e.version.version,
                key=content_key(e.version.recipe),
                strength=e.strength,
                on=e.enabled,
            )
            for e in layers
        ],
        own=row.override,
        guards=[list(fault) for fault in f.faults],
        doubts=list(row.facts.reasons),
        accepted=f.accepted,
        checked=row.checked,
        rating=f.rating,
        missing=row.made.missing,
    )


def read_list(path: Path) -> DeliveryList:
    """Raises UserProblem with what is wrong with it."""
    try:
        if path.stat().st_size > MOST_BYTES:
            raise UserProblem(f"{path.name} is too large for a list of a hand-over.")
        return parsed_list(path.read_bytes(), path.name)
    except OSError as error:
        raise UserProblem(f"{path} can't be read: {error.strerror or error}.") from error


def parsed_list(data: bytes, name: str) -> DeliveryList:
    """The list in a file called ``name``. Raises UserProblem with what is wrong with it."""
    try:
        return DeliveryList.model_validate(_plain(data, name))
    except ValidationError as error:
        raise UserProblem(f"{name} can't be used: {validation_words(error, whole_place=True)}") from error


def plain_list(data: bytes, name: str) -> list[Any]:
    """The entries of a list, one a file, as they stand there. Raises UserProblem where it is no list at all."""
    files = _plain(data, name).get("files")
    if not isinstance(files, list):
        raise UserProblem(f"{name} can't be used: files: must be a list.")
    return files


def _plain(data: bytes, name: str) -> dict[str, Any]:
    if len(data) > MOST_BYTES:
        raise UserProblem(f"{name} is too large for a list of a hand-over.")
    try:
        held = json.loads(data.decode("utf-8-sig"))
    except (ValueError, RecursionError) as error:
        raise UserProblem(f"{name} is no JSON. Name the {LIST} of a hand-over.") from error
    if not isinstance(held, dict) or held.get("format") != FORMAT:
        raise UserProblem(f"{name} is no list of a hand-over. Name its {LIST}.")
    return held


@dataclass(frozen=True)
class Remade:
    """A file made once more: ``equal`` to the bit, or else why not, in words."""

    file: str
    equal: bool
    why: str = ""


def remake(library: Library, listed: DeliveryList) -> Iterator[Remade]:
    """Make every file of a list once more from the library, and hold it against its hash; nothing is kept."""
    by_key = _recipes(library)
    with tempfile.TemporaryDirectory(prefix="lenskeep-remake-") as scratch:
        for one in listed.files:
            try:
                task = _task(library, one, listed.options, by_key, Path(scratch))
                made = deliver_frame(task).made
                (Path(scratch) / made.name).unlink(missing_ok=True)
            except UserProblem as problem:
                yield Remade(one.file, False, str(problem))
                continue
            if made.sha256 == one.sha256:
                yield Remade(one.file, True)
            else:
                engine = "" if listed.engine == ENGINE else f" It was made by {listed.engine}; this is {ENGINE}."
                yield Remade(one.file, False, f"{one.file} comes out otherwise than it was delivered.{engine}")


def _recipes(library: Library) -> dict[str, RecipeVersion]:
    """Every readable version in the book by the hash of what is in it."""
    every = recipes.versions(library.db, None, *KINDS)
    return {content_key(v.recipe): v for v in every if not v.unreadable}


def _task(
    library: Library, one: Listed, options: DeliveryOptions, by_key: dict[str, RecipeVersion], out: Path
) -> DeliverTask:
    """Raises UserProblem when something that it needs is gone."""
    frame = _frame(library, one)
    layers = []
    for each in one.look:
        if each.key not in by_key:
            raise UserProblem(f"{one.file}: “{each.recipe}”, version {each.version}, is no longer in the book.")
        layers.append(LookLayer(each.id, by_key[each.key], each.strength, each.on))
    known = findings.facts_of(library.db, frame.content, one.detectors)
    computed = library.computed(frame.content, one.detectors)
    if known is None or not computed.holds(known[0]):
        raise UserProblem(f"{one.file}: the masks that it was made with are gone, or were found by other detectors.")
    plan = Wanting(Look(tuple(layers))).plan(one.own)
    return task_of(library, frame, known[0], computed, one.own, plan, options, Path(one.file).name, out)


def _frame(library: Library, one: Listed) -> FrameRow:
    """The frame that a file was made from, as it was called, turned and brought to a picture then. Raises
    UserProblem.
    """
    found = frames.with_original(library.db, one.original.sha256)
    if found is None:
        raise UserProblem(f"{one.file}: {one.original.name} is no longer in the library.")
    then = one.original
    return replace(found, file_name=then.name, raw_base=then.raw_base, turn=then.turn)
