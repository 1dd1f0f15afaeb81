"""Taking recipe files into the book, and giving them out, with the pictures and tables they refer to."""

from lenskeep.files.recipes import RecipeFile, effect_to_json, recipe_to_json
from lenskeep.store import assets, recipes
from lenskeep.store.recipes import RecipeVersion
from lenskeep.studio.library import Library


def take_in(library: Library, file: RecipeFile) -> RecipeVersion:
    """A recipe's or an effect's file as a new version of the one of its name. Raises UserProblem."""
    assets.keep_assets(library.db, file.assets)
    return recipes.save_recipe(library.db, file.recipe, file.kind)


def file_of(library: Library, version: RecipeVersion) -> str:
    """A version as a file, whole. Raises UnreadableRecipe, RecipeProblem."""
    to_json = effect_to_json if version.kind == "effect" else recipe_to_json
    return to_json(version.recipe, assets.assets_of(library.db, version.recipe))
