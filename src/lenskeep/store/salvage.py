"""What can still be read of a damaged database, brought into a sound one."""

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

from lenskeep.store.database import LibraryProblem, database_words

_MOST_PROBED = 1_000_000
"""Row ids between two readable rows that are tried one by one."""


def damages(path: Path) -> list[str]:
    """What SQLite's own check of a database file finds, a line each; empty when it is sound."""
    try:
        with closing(sqlite3.connect(path)) as connection:
            return [str(row[0]) for row in connection.execute("PRAGMA integrity_check(20)") if row[0] != "ok"]
    except sqlite3.Error as error:
        return [str(error)]


def salvage(source: Path, target: Path) -> list[str]:
    """Copy every row of ``source`` that can be read into the fresh database ``target``: tables first, then indexes and
    triggers. Rows that refer to what is lost go too, or lose that reference, as the schema says of what is removed.
    Returns what is lost, in words. Raises LibraryProblem when nothing can be read.
    """
    with closing(sqlite3.connect(source)) as old, closing(sqlite3.connect(target, isolation_level=None)) as new:
        try:
            schema = old.execute("SELECT type, name, sql FROM sqlite_master WHERE sql IS NOT NULL").fetchall()
        except sqlite3.Error as error:
            raise LibraryProblem(database_words(error, source)) from error
        lost: list[str] = []
        new.execute("BEGIN")
        tables = [(name, sql) for kind, name, sql in schema if kind == "table" and not name.startswith("sqlite_")]
        for _, sql in tables:
            new.execute(sql)
        for name, sql in tables:
            if _copy_rows(old, new, name, rowid="WITHOUT ROWID" not in sql.upper()):
                lost.append(f"Some rows of “{name}” could not be read.")
        _copy_sequences(old, new, lost)
        for kind, name, sql in schema:
            if kind != "table":
                try:
                    new.execute(sql)
                except sqlite3.Error as error:
                    lost.append(f"The {kind} “{name}” could not be made again: {error}.")
        lost += _drop_dangling(new, [name for name, _ in tables])
        new.execute("COMMIT")
        return lost


def _columns(connection: sqlite3.Connection, table: str) -> list[str]:
    """A table's columns but for those that are worked out from others."""
    return [str(row[1]) for row in connection.execute(f"PRAGMA table_xinfo({table})") if row[6] in (0, 1)]


def _copy_rows(old: sqlite3.Connection, new: sqlite3.Connection, table: str, rowid: bool) -> bool:
    """Returns whether some could not be read."""
    names = _columns(new, table)
    chosen = ", ".join(f'"{name}"' for name in names)
    into = f"INSERT OR IGNORE INTO {table} ({chosen}) VALUES ({', '.join('?' * len(names))})"
    if not rowid:
        return _from_both_ends(old, new, table, chosen, into)
    into = f"INSERT OR IGNORE INTO {table} (rowid, {chosen}) VALUES ({', '.join('?' * (len(names) + 1))})"
    first, last = _walk(old, new, f"SELECT rowid, {chosen} FROM {table} ORDER BY rowid", into)
    if first is None:
        return False
    _, end = _walk(old, new, f"SELECT rowid, {chosen} FROM {table} ORDER BY rowid DESC", into)
    if last is not None and end is not None:
        for number in range(last + 1, min(end, last + _MOST_PROBED)):
            one = f"SELECT rowid, {chosen} FROM {table} WHERE rowid = {number}"
            _walk(old, new, one, into)
    return True


def _walk(
    old: sqlite3.Connection, new: sqlite3.Connection, select: str, into: str
) -> tuple[sqlite3.Error | None, int | None]:
    """Copy rows until one can't be read; returns what was wrong, and the first number of the last row that could."""
    last: int | None = None
    try:
        for row in old.execute(select):
            new.execute(into, row)
            last = row[0] if isinstance(row[0], int) else None
    except sqlite3.Error as error:
        return error, last
    return None, last


def _from_both_ends(old: sqlite3.Connection, new: sqlite3.Connection, table: str, chosen: str, into: str) -> bool:
    """Tables without row ids: what can be read forwards, and what can be read backwards."""
    keys = [str(r[1]) for r in sorted(new.execute(f"PRAGMA table_info({table})"), key=lambda r: int(r[5])) if r[5]]
    forwards, backwards = ", ".join(keys), ", ".join(f"{key} DESC" for key in keys)
    if _walk(old, new, f"SELECT {chosen} FROM {table} ORDER BY {forwards}", into)[0] is None:
        return False
    _walk(old, new, f"SELECT {chosen} FROM {table} ORDER BY {backwards}", into)
    return True


def _copy_sequences(old: sqlite3.Connection, new: sqlite3.Connection, lost: list[str]) -> None:
    """The numbers up to which ids were given."""
    try:
        rows = old.execute("SELECT name, seq FROM sqlite_sequence").fetchall()
    except sqlite3.Error:
        lost.append("Which ids were given could not be read.")
        return
    for name, number in rows:
        if not new.execute("UPDATE sqlite_sequence SET seq = max(seq, ?) WHERE name = ?", (number, name)).rowcount:
            new.execute("INSERT INTO sqlite_sequence VALUES (?, ?)", (name, number))


def _drop_dangling(new: sqlite3.Connection, tables: list[str]) -> list[str]:
    """Take away what refers to rows that are gone, until nothing does."""
    dropped: dict[str, int] = {}
    going = True
    while going:
        going = False
        for table, clause, empty in _references(new, tables):
            change = f"UPDATE {table} SET {empty} = NULL" if empty else f"DELETE FROM {table}"
            count = new.execute(f"{change} WHERE {clause}").rowcount
            if count:
                going = True
                dropped[table] = dropped.get(table, 0) + count
    return [f"{count} rows of “{table}” referred to something that is lost." for table, count in dropped.items()]


def _references(new: sqlite3.Connection, tables: list[str]) -> Iterator[tuple[str, str, str]]:
    """(table, when a row of it dangles, the column that is emptied then or "") of every reference."""
    for table in tables:
        for _, _, parent, column, to, _, on_delete, _ in new.execute(f"PRAGMA foreign_key_list({table})").fetchall():
            own = to or "id"
            gone = f"NOT EXISTS (SELECT 1 FROM {parent} p WHERE p.{own} = {table}.{column})"
            yield table, f"{column} IS NOT NULL AND {gone}", column if on_delete == "SET NULL" else ""
