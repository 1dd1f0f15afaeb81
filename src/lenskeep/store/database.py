"""One SQLite file: readers of their own per thread, one writer at a time, numbered migrations."""

import logging
import sqlite3
import threading
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager
from importlib.resources import files
from pathlib import Path

from lenskeep.core.problems import UserProblem
from lenskeep.store.moves import AFTER

_FULL = ("disk is full", "disk full")
LONG_SECONDS = 0.05
"""Everybody who writes waits for a transaction; one that takes longer than this is logged with its place."""
_log = logging.getLogger("lenskeep.store")


def full_words(folder: Path) -> str:
    """What to do about a full disk."""
    return (
        f"The disk that {folder} is on is full. Make room on it; nothing is lost, and what was under way goes on by "
        "itself."
    )


class LibraryProblem(UserProblem):
    """The library as a whole can't be used; the message says why and what to do."""


def database_words(error: sqlite3.Error, path: Path) -> str:
    """What went wrong with a database file, and what to do."""
    text = str(error).lower()
    if any(words in text for words in _FULL):
        return full_words(path.parent)
    if "readonly" in text or "read-only" in text or "unable to open" in text:
        return (
            f"The library at {path.parent} can't be written to. Is the disk write-protected, or does the folder "
            "belong to somebody else? Allow writing there, or choose another folder with LENSKEEP_HOME."
        )
    if "locked" in text:
        return "The library is in use by another program for longer than a minute. Close that and try again."
    if "malformed" in text or "not a database" in text or "encrypted" in text or "disk i/o" in text:
        return (
            f"The library's database at {path} is damaged. Stop Lens Keep, keep a copy of the file, and bring back "
            "your last backup with 'lenskeep restore FOLDER'."
        )
    return f"The library's database at {path} does not answer: {error}."


def is_full(error: BaseException) -> bool:
    """Whether SQLite failed for want of room on the disk."""
    return isinstance(error, sqlite3.OperationalError) and any(words in str(error).lower() for words in _FULL)


class Database:
    """The library's database. Safe from several threads; other processes may open the same file.

    Raises LibraryProblem when the file is of a newer version, damaged or can't be written to.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self._local = threading.local()
        self._lock = threading.RLock()
        try:
            path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
            self._migrate()
        except sqlite3.Error as error:
            raise LibraryProblem(database_words(error, path)) from error
        except OSError as error:
            raise LibraryProblem(f"The library at {path.parent} can't be used: {error.strerror}.") from error

    def _connect(self) -> sqlite3.Connection:
        connection = sqlite3.connect(self.path, timeout=30, isolation_level=None, check_same_thread=False)
        connection.row_factory = sqlite3.Row
        connection.execute("PRAGMA journal_mode = WAL")
        connection.execute("PRAGMA synchronous = NORMAL")
        connection.execute("PRAGMA foreign_keys = ON")
        return connection

    @property
    def reader(self) -> sqlite3.Connection:
        """This thread's connection, for reading."""
        if not hasattr(self._local, "connection"):
            self._local.connection = self._connect()
        connection: sqlite3.Connection = self._local.connection
        return connection

    @contextmanager
    def writing(self, durable: bool = False) -> Iterator[sqlite3.Connection]:
        """A transaction: committed when the block ends well, undone when it raises. Blocks may be nested. A ``durable``
        one is on the disk when it ends, so that a power cut takes nothing that was acknowledged.
        """
        with self._lock:
            connection = self.reader
            if connection.in_transaction:
                yield connection
                return
            if durable:
                connection.execute("PRAGMA synchronous = FULL")
            connection.execute("BEGIN IMMEDIATE")
            began = time.perf_counter()
            try:
                yield connection
                connection.execute("COMMIT")
            except BaseException:
                if connection.in_transaction:  # a full disk ends the transaction by itself
                    connection.execute("ROLLBACK")
                raise
            finally:
                if durable:
                    connection.execute("PRAGMA synchronous = NORMAL")
                if (took := time.perf_counter() - began) > LONG_SECONDS:
                    _log.info("a transaction took %.0f ms", 1000.0 * took, stack_info=True)

    def copy_to(self, target: Path) -> None:
        """A consistent copy of the file as it is now, also while others write (SQLite's online backup)."""
        _copy(self.reader, target)

    def _migrate(self) -> None:
        with self._lock:
            connection = self.reader
            connection.execute("CREATE TABLE IF NOT EXISTS migrations (name TEXT PRIMARY KEY) STRICT, WITHOUT ROWID")
            known = migrations()
            done = {str(row["name"]) for row in connection.execute("SELECT name FROM migrations")}
            if not done <= {name for name, _ in known}:
                raise LibraryProblem(
                    f"The library at {self.path.parent} was last used by a newer Lens Keep. Use that version, or "
                    "choose another library with LENSKEEP_HOME; nothing was changed."
                )
            todo = [(name, script) for name, script in known if name not in done]
            if todo and done:
                self._keep_a_copy(max(done))
            for name, script in todo:
                self._run_migration(name, script)

    def _run_migration(self, name: str, script: str) -> None:
        """One migration in one transaction. Foreign keys are off meanwhile, so that tables can be built anew, and are
        checked before it is committed.
        """
        self.reader.execute("PRAGMA foreign_keys = OFF")
        try:
            with self.writing() as write:
                # another process may have been quicker
                if not write.execute("SELECT 1 FROM migrations WHERE name = ?", (name,)).fetchone():
                    for statement in statements(script):
                        write.execute(statement)
                    if name in AFTER:
                        AFTER[name](write, self.path.parent)
                    if broken := write.execute("PRAGMA foreign_key_check").fetchone():
                        raise LibraryProblem(
                            f"The library at {self.path.parent} can't be brought to this version: a row of {broken[0]} "
                            f"refers to a row of {broken[2]} that is gone. Nothing was changed; bring back a backup."
                        )
                    write.execute("INSERT INTO migrations VALUES (?)", (name,))
        finally:
            self.reader.execute("PRAGMA foreign_keys = ON")

    def _keep_a_copy(self, newest: str) -> None:
        """Before a migration: the database as it was, beside itself."""
        target = self.path.with_name(f"{self.path.stem}.as-of-{Path(newest).stem}{self.path.suffix}")
        if not target.exists():
            draft = target.with_name(f".{target.name}.part")
            draft.unlink(missing_ok=True)
            self.copy_to(draft)
            draft.replace(target)


def copy_database(source: Path, target: Path) -> None:
    """A copy of a database file that nobody has open. Raises LibraryProblem."""
    try:
        with closing(sqlite3.connect(source)) as connection:
            _copy(connection, target)
    except sqlite3.Error as error:
        raise LibraryProblem(database_words(error, source)) from error


def _copy(connection: sqlite3.Connection, target: Path) -> None:
    with closing(sqlite3.connect(target)) as copy:
        connection.backup(copy)


def migrations() -> list[tuple[str, str]]:
    """(name, SQL) of every migration, in order."""
    folder = files("lenskeep.store") / "schema"
    found = [(p.name, p.read_text("utf-8")) for p in folder.iterdir() if p.name.endswith(".sql")]
    return sorted(found)


def statements(script: str) -> list[str]:
    """A script cut into statements, so that a whole migration can run in one transaction."""
    out, current = [], ""
    for line in script.splitlines(keepends=True):
        current += line
        if sqlite3.complete_statement(current):
            out.append(current)
            current = ""
    return out
