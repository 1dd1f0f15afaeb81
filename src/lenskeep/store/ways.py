"""Named ways of delivery, as JSON."""

from lenskeep.store.clock import now
from lenskeep.store.database import Database


def ways(db: Database) -> dict[str, str]:
    """Every way's options by its name, in the order of names."""
    return {
        str(r["name"]): str(r["options"]) for r in db.reader.execute("SELECT name, options FROM ways ORDER BY name")
    }


def keep(db: Database, name: str, options: str) -> None:
    """Keep a way, in place of one of the same name."""
    with db.writing() as write:
        write.execute("INSERT OR REPLACE INTO ways (name, options, at) VALUES (?, ?, ?)", (name, options, now()))


def forget(db: Database, name: str) -> None:
    with db.writing() as write:
        write.execute("DELETE FROM ways WHERE name = ?", (name,))
