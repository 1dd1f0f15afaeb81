"""The look a scene was given: pinned versions of recipes as layers, the bottom first."""

from collections.abc import Sequence
from dataclasses import dataclass

from lenskeep.core.recipes.layers import Layer
from lenskeep.store.clock import now
from lenskeep.store.database import Database
from lenskeep.store.recipes import RecipeVersion, version


@dataclass(frozen=True)
class LookLayer:
    """One layer: a version of a recipe, on or off, at a strength 0…2."""

    id: int
    version: RecipeVersion
    strength: float = 1.0
    enabled: bool = True

    @property
    def name(self) -> str:
        """How a frame's own changes name it."""
        return f"l{self.id}"

    def layer(self) -> Layer:
        """Raises UnreadableRecipe."""
        return Layer(self.version.recipe, self.name, self.enabled, self.strength)


@dataclass(frozen=True)
class Look:
    """What a scene was given; at least one layer (``NO_LOOK`` aside)."""

    layers: tuple[LookLayer, ...]

    @property
    def version(self) -> RecipeVersion:
        """Of the layer at the bottom."""
        return self.layers[0].version

    @property
    def strength(self) -> float:
        """Of the layer at the bottom."""
        return self.layers[0].strength

    @property
    def unreadable(self) -> str:
        """Why a layer can't be read; "" when all can."""
        return next((each.version.unreadable for each in self.layers if each.version.unreadable), "")

    @property
    def given(self) -> list[tuple[int, float, bool]]:
        """(version, strength, whether it is on) of each layer, as looks are given."""
        return [(each.version.id, each.strength, each.enabled) for each in self.layers]

    def stack(self) -> list[Layer]:
        """Raises UnreadableRecipe."""
        return [each.layer() for each in self.layers]


NO_LOOK = Look(())
"""What frames without a look are made with that have a base."""


def give_look(db: Database, scene_id: int, layers: Sequence[tuple[int, float] | tuple[int, float, bool]]) -> None:
    """Give a scene layers of (version, strength, maybe whether it is on), the bottom first, in place of what it had.

    A layer of a recipe that was among them keeps its id, wherever it stands now, and with it what frames changed of it.
    """
    with db.writing() as write:
        sql = """
            SELECT l.id, l.place, v.recipe_id FROM layers l JOIN recipe_versions v ON v.id = l.version_id
            WHERE l.scene_id = ? ORDER BY l.place
        """
        before = [(int(row["id"]), int(row["recipe_id"])) for row in write.execute(sql, (scene_id,))]
        write.execute("DELETE FROM layers WHERE scene_id = ?", (scene_id,))
        for place, (version_id, strength, *more) in enumerate(layers, 1):
            found = version(db, version_id)
            kept = next((i for i, recipe in before if found and recipe == found.recipe_id), None)
            before = [one for one in before if one[0] != kept]
            sql = """
                INSERT INTO layers (id, scene_id, place, version_id, strength, enabled, given_at)
                VALUES (?, ?, ?, ?, ?, ?, ?)
            """
            enabled = int(more[0]) if more else 1
            write.execute(sql, (kept, scene_id, place, version_id, strength, enabled, now()))


def look(db: Database, scene_id: int) -> Look | None:
    """A scene's look; None without one."""
    sql = "SELECT id, version_id, strength, enabled FROM layers WHERE scene_id = ? ORDER BY place"
    layers = []
    for row in db.reader.execute(sql, (scene_id,)).fetchall():
        found = version(db, int(row["version_id"]))
        if found:
            layers.append(LookLayer(int(row["id"]), found, float(row["strength"]), bool(row["enabled"])))
    return Look(tuple(layers)) if layers else None
