"""Ids that are never given twice, also after the row that had the newest one is gone."""

import sqlite3
from typing import Literal

Table = Literal["shoots", "scenes", "frames", "jobs", "recipes", "recipe_versions"]


def fresh(write: sqlite3.Connection, table: Table) -> int:
    """The id for the next row of a table, within the transaction that adds it."""
    sql = f"""
        UPDATE counters SET n = 1 + max(n, (SELECT coalesce(max(id), 0) FROM {table})) WHERE name = ? RETURNING n
    """
    return int(write.execute(sql, (f"id of {table}",)).fetchone()["n"])
