"""Recipes as JSON files."""

from __future__ import annotations

from pathlib import Path

from farbe.files.document import library, read_document, write_document
from farbe.folders import data_folder
from farbe.plan.recipes import Recipe, recipe

SUFFIX = ".recipe.json"


def write_recipe(recipe: Recipe, path: Path) -> None:
    """Write a recipe; BadInput if it cannot be written."""
    write_document(recipe, path)


def read_recipe(path: Path) -> Recipe:
    """Read a recipe; BadInput if the file is missing or holds none."""
    return read_document(path, Recipe, "recipe")


def recipe_by(name: str) -> Recipe:
    """A recipe as it is named at the command line: a file's, a kept one, or one that ships.

    Parameters
    ----------
    name : of a recipe, in any case, or of a file that ends in ``.recipe.json``

    Raises
    ------
    BadInput
        If there is none.
    """
    if name.endswith(SUFFIX):
        return read_recipe(Path(name))
    kept, _ = library(data_folder() / "recipes", SUFFIX, read_recipe)
    own = next((one for one in kept if one.name.casefold() == name.casefold()), None)
    return own or recipe(name)
