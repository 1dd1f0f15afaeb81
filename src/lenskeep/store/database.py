"""One SQLite file: readers of their own per thread, one writer at a time, numbered migrations."""

import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from importlib.resources import files
from pathlib import Path


class Database:
    """The library's database. Safe from several threads; other processes may open the same file."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._local = threading.local()
        self._lock = threading.RLock()
        path.parent.mkdir(parents=True, exist_ok=True)
        self._migrate()

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
    def writing(self) -> Iterator[sqlite3.Connection]:
        """A transaction: committed when the block ends well, undone when it raises. Blocks may be nested."""
        with self._lock:
            connection = self.reader
            if connection.in_transaction:
                yield connection
                return
            connection.execute("BEGIN IMMEDIATE")
            try:
                yield connection
            except BaseException:
                connection.execute("ROLLBACK")
                raise
            connection.execute("COMMIT")

    def _migrate(self) -> None:
        with self._lock:
            connection = self.reader
            connection.execute("CREATE TABLE IF NOT EXISTS migrations (name TEXT PRIMARY KEY) STRICT, WITHOUT ROWID")
            for name, script in migrations():
                connection.execute("BEGIN IMMEDIATE")
                try:
                    done = connection.execute("SELECT 1 FROM migrations WHERE name = ?", (name,)).fetchone()
                    if not done:
                        for statement in statements(script):
                            connection.execute(statement)
                        connection.execute("INSERT INTO migrations VALUES (?)", (name,))
                except BaseException:
                    connection.execute("ROLLBACK")
                    raise
                connection.execute("COMMIT")


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
