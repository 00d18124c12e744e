"""Recipes: used, kept, imported and exported."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QInputDialog

from farbe.desk.keptmenu import KeptMenu
from farbe.desk.preferences import Preferences
from farbe.files.document import library
from farbe.files.recipefile import SUFFIX, lent, read_recipe, with_profile
from farbe.folders import data_folder
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.plan.recipes import RECIPES, Recipe, recipe_of, with_recipe
from farbe.plan.recipes import recipe as shipped_recipe
from farbe.said import begun, say, shipped, spoken


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


class RecipeMenu(KeptMenu[Recipe]):
    """Applies to the job that is open; what is refused is said and changes nothing."""

    WORD, FOLDER, SUFFIX, DOCUMENT, WRAPPED = shipped("recipe"), "recipes", SUFFIX, Recipe, False
    KEEPS_FILES = True

    def shipped(self) -> tuple[Recipe, ...]:
        return RECIPES

    def of(self, job: Faced) -> Recipe:
        return with_profile(recipe_of(job, job.name), job, self._session.store)

    def used(self, job: Faced, thing: Recipe) -> Faced:
        return with_recipe(job, lent(thing, self._session.store))

    def _entry(self, thing: Recipe, job: Faced) -> None:
        self.addAction(begun(spoken(thing.name)), partial(self.use, thing))

    def _keep_entries(self, job: Faced) -> None:
        self.addAction(say("Keep how it is made as a recipe…"), self._ask_name)
        imports = self.addMenu(say("Take new artwork by"))
        for recipe in all_recipes():
            action = imports.addAction(
                begun(spoken(recipe.name)), partial(self.take_new_by, recipe.name)
            )
            action.setCheckable(True)
            action.setChecked(recipe.name == import_recipe().name)

    def take_new_by(self, name: str, *_: object) -> None:
        """Remember the recipe for artwork that is dropped without a job."""
        Preferences().recipe = name
        self._session.said.emit(say("New artwork begins with the recipe {name}.", name=name))

    def _ask_name(self) -> None:
        job = self._session.job
        if job is not None:
            name, well = QInputDialog.getText(
                self, say("Keep as a recipe"), say("Name"), text=job.name
            )
            if well and name.strip():
                self.keep_as(name.strip())

    def keep_as(self, name: str) -> None:
        """Keep the job's layers under a name."""
        job = self._session.job
        if job is None:
            return
        try:
            self.keep(with_profile(recipe_of(job, name[:80]), job, self._session.store))
        except BadInput as error:
            self._session.said.emit(str(error))
