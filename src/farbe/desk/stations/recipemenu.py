"""Recipes: used, kept, imported and exported."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QInputDialog, QMenu, QWidget

from farbe.desk.preferences import Preferences
from farbe.desk.session import Session
from farbe.files.document import keep, library
from farbe.files.recipefile import SUFFIX, read_recipe, write_recipe
from farbe.folders import data_folder
from farbe.model.base import BadInput
from farbe.plan.recipes import RECIPES, Recipe, recipe_of, with_recipe
from farbe.plan.recipes import recipe as shipped_recipe


def recipe_folder() -> Path:
    return data_folder() / "recipes"


def all_recipes() -> tuple[Recipe, ...]:
    """Kept recipes, then those that ship; a kept one takes the place of its namesake."""
    kept, _ = library(recipe_folder(), SUFFIX, read_recipe)
    names = {recipe.name.casefold() for recipe in kept}
    return (*kept, *(r for r in RECIPES if r.name.casefold() not in names))


def import_recipe() -> Recipe:
    """The recipe for artwork that is dropped without a job; for a dark piece if none is chosen."""
    wanted = Preferences().recipe
    return next((r for r in all_recipes() if r.name == wanted), shipped_recipe("dark opaque piece"))


class RecipeMenu(QMenu):
    """Applies to the job that is open; what is refused is said and changes nothing."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._session = session
        self.aboutToShow.connect(self._fill)

    def _fill(self) -> None:
        self.clear()
        for recipe in all_recipes():
            self.addAction(recipe.name.capitalize(), partial(self.use, recipe))
        self.addSeparator()
        self.addAction("Keep these layers as a recipe…", self._ask_name)
        imports = self.addMenu("Take new artwork by")
        for recipe in all_recipes():
            action = imports.addAction(
                recipe.name.capitalize(), partial(self.take_new_by, recipe.name)
            )
            action.setCheckable(True)
            action.setChecked(recipe.name == import_recipe().name)
        self.addAction("Import a recipe…", self._import)
        self.addAction("Export this one…", self._export)

    def use(self, recipe: Recipe, *_: object) -> None:
        """Make the open job by a recipe; its surface stays."""
        self._session.edit(f"Recipe {recipe.name}", lambda job: with_recipe(job, recipe))

    def take_new_by(self, name: str, *_: object) -> None:
        """Remember the recipe for artwork that is dropped without a job."""
        Preferences().recipe = name
        self._session.said.emit(f"New artwork begins with the recipe {name}.")

    def _ask_name(self) -> None:
        job = self._session.job
        if job is not None:
            name, well = QInputDialog.getText(self, "Keep as a recipe", "Name", text=job.name)
            if well and name.strip():
                self.keep(name.strip())

    def keep(self, name: str) -> None:
        """Keep the job's layers under a name; an older recipe of that name gives way."""
        job = self._session.job
        if job is None:
            return
        try:
            made = recipe_of(job, name[:80])
            keep(made, made.name, recipe_folder(), SUFFIX)
        except BadInput as error:
            self._session.said.emit(str(error))
            return
        self._session.said.emit(f"The recipe {name} is kept.")

    def _import(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Recipe", "", f"Recipes (*{SUFFIX})")
        if name:
            self.take_file(Path(name))

    def take_file(self, path: Path) -> None:
        """Keep a recipe from a file, and make the job by it."""
        try:
            recipe = read_recipe(path)
            keep(recipe, recipe.name, recipe_folder(), SUFFIX)
        except BadInput as error:
            self._session.said.emit(str(error))
            return
        self.use(recipe)

    def _export(self) -> None:
        job = self._session.job
        name, _ = QFileDialog.getSaveFileName(
            self, "Recipe", f"recipe{SUFFIX}", f"Recipes (*{SUFFIX})"
        )
        if job is not None and name:
            try:
                write_recipe(recipe_of(job, job.name), Path(name))
            except BadInput as error:
                self._session.said.emit(str(error))
