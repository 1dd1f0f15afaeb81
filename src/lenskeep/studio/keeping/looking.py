"""A library to look at or to copy from, also where it can't be written to, such as on a write-protected disk."""

import os
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from lenskeep.core.problems import UserProblem
from lenskeep.store.database import Database
from lenskeep.studio.keeping.backup import DATABASE
from lenskeep.studio.library import Library


@contextmanager
def to_look_at(home: Path) -> Iterator[Library]:
    """The library in ``home``. Where that can't be written to, its database is opened as a copy, which a migration may
    change. Raises UserProblem.
    """
    library, path = Library(home), home / DATABASE
    if not path.is_file() or (os.access(home, os.W_OK) and os.access(path, os.W_OK)):
        _ = library.db
        yield library
        return
    with tempfile.TemporaryDirectory(prefix="lenskeep-look-") as scratch:
        for name in (DATABASE, f"{DATABASE}-wal"):  # what was written last may still be in its journal
            try:
                if (home / name).is_file():
                    shutil.copyfile(home / name, Path(scratch) / name)
            except OSError as error:
                raise UserProblem(f"{home / name} can't be read: {error.strerror or error}.") from error
        library.db = Database(Path(scratch) / DATABASE)
        yield library
