"""Recipes as JSON files."""

from __future__ import annotations

from pathlib import Path

from farbe.files.document import read_document, write_document
from farbe.plan.recipes import Recipe

SUFFIX = ".recipe.json"


def write_recipe(recipe: Recipe, path: Path) -> None:
    """Write a recipe; BadInput if it cannot be written."""
    write_document(recipe, path)


def read_recipe(path: Path) -> Recipe:
    """Read a recipe; BadInput if the file is missing or holds none."""
    return read_document(path, Recipe, "recipe")
