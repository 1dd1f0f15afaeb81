"""A library brought back from its copy, as it was."""

import shutil
import tempfile
from pathlib import Path

from lenskeep.core.problems import UserProblem
from lenskeep.files.written import copy_faithfully, written_whole
from lenskeep.store import finished, frames, references, shoots
from lenskeep.store.database import Database, LibraryProblem
from lenskeep.store.salvage import damages, salvage
from lenskeep.studio import applying
from lenskeep.studio import find as finding
from lenskeep.studio.keeping.backup import BEFORE, DATABASE, MARK, copy_assets, sums_in
from lenskeep.studio.keeping.copies import Copied, Say, copy_original
from lenskeep.studio.library import Library
from lenskeep.studio.space import check_room


def restore(folder: Path, library: Library, say: Say = lambda _: None) -> Copied:
    """Bring a library back where there is none yet. Every file that is bad is passed over and told; the database is put
    in its place last, so that whoever is stopped before can begin anew, and goes on from there. Looks, and everything
    else in it, are as they were; finished pictures are queued, and masks that the copy lacks. Raises UserProblem.
    """
    folder = folder.expanduser().resolve()
    if not (folder / MARK).is_file() or not ((folder / DATABASE).is_file() or (folder / BEFORE).is_file()):
        raise UserProblem(f"{folder} is not a backup that 'lenskeep backup' has made to its end.")
    if (library.home / DATABASE).exists():
        raise UserProblem(
            f"There is a library at {library.home} already. Move it aside, or choose another place with LENSKEEP_HOME."
        )
    done = Copied()
    try:
        library.home.mkdir(parents=True, exist_ok=True)
        # within the library, since migrations bring files of recipes to where their database lies
        draft = library.home / ".restored.sqlite"
        for old in library.home.glob(".restored.sqlite*"):
            old.unlink()
        _bring_database(folder, draft, done)
        wanted = references.originals_in(draft)
        source = Library(folder)
        sizes = (source.original(*w[:2]) for w in wanted)
        check_room(library.home, sum(p.stat().st_size for p in sizes if p.is_file()), "bringing the library back")
        _bring_originals(source, library, wanted, done, say)
        copy_assets(draft, folder, library.home, done)
        for name, sha256 in sums_in(folder).items():
            if (folder / name).is_file() and copy_faithfully(folder / name, library.home / name, sha256):
                (library.home / name).chmod(0o644)
        opened = Library(library.home)
        opened.db = Database(draft)
        _queue(opened)
        with written_whole(library.home / DATABASE) as whole:
            opened.db.copy_to(whole)
        for old in library.home.glob(".restored.sqlite*"):
            old.unlink()
    except OSError as error:
        raise UserProblem(f"{library.home} can't be written to: {error.strerror or error}.") from error
    return done


def _bring_database(folder: Path, draft: Path, done: Copied) -> None:
    """The newest copy of the database that can be read, mended where it is damaged."""
    problem: LibraryProblem | None = None
    for name in (DATABASE, BEFORE):
        if not (folder / name).is_file():
            continue
        with tempfile.TemporaryDirectory(prefix="lenskeep-restore-") as scratch:
            copy = Path(scratch) / DATABASE
            shutil.copyfile(folder / name, copy)  # what is opened may be written to; a backup is not
            if not damages(copy):
                shutil.copyfile(copy, draft)
            else:
                try:
                    lost = salvage(copy, draft)
                except LibraryProblem as error:
                    problem = error
                    draft.unlink(missing_ok=True)
                    done.wrong.append(f"The backup's database ({name}) can't be read.")
                    continue
                done.wrong.append(f"The backup's database is damaged. {' '.join(lost)}")
                _tell_orphans(folder, draft, done)
        if name == BEFORE:
            done.wrong.append("The database is the one of the backup before; what was done since is not in it.")
        return
    raise problem or LibraryProblem(f"There is no database in {folder}.")


def _tell_orphans(folder: Path, draft: Path, done: Copied) -> None:
    """Originals whose frames were lost with a damaged database."""
    known = {sha256 for sha256, _, _ in references.originals_in(draft)}
    lost = [p for p in sorted((folder / "originals").glob("??/*")) if p.name[:64] not in known]
    if lost:
        names = ", ".join(str(p) for p in lost[:20])
        done.wrong.append(f"{len(lost)} originals belong to no frame that could be read. Bring them in again: {names}.")


def _bring_originals(
    source: Library, library: Library, wanted: list[tuple[str, str, str]], done: Copied, say: Say
) -> None:
    for count, (sha256, suffix, name) in enumerate(wanted, 1):
        copy_original(source, library, sha256, suffix, name, done)
        say(f"{count} of {len(wanted)} originals brought back")


def _queue(library: Library) -> None:
    """Queue what can be made again: masks that are not there, by the way they were found, and finished pictures."""
    for shoot in shoots.shoots(library.db):
        finished.drop_results(library.db, shoot.id)
        finding.queue_finding(library, shoot.id)
        wanting = [f.id for f in frames.summaries(library.db, shoot.id) if f.wanted_key]
        if wanting:
            applying.queue_frames(library, shoot.id, wanting)
