"""Recipes as JSON files."""

from __future__ import annotations

import base64
from pathlib import Path

from farbe.files.document import library, read_document, write_document
from farbe.files.profilebytes import MOST_BYTES, packed, unpacked
from farbe.files.store import ArtStore
from farbe.folders import data_folder
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.model.condition import MOST_LETTERS
from farbe.plan.recipes import Recipe, recipe
from farbe.said import say, shipped
from farbe.separate.colour import check_cmyk_profile

SUFFIX = ".recipe.json"


def write_recipe(recipe: Recipe, path: Path) -> None:
    """Write a recipe; BadInput if it cannot be written.

    Parameters
    ----------
    recipe : to be written
    path : of the file

    Raises
    ------
    BadInput
        With one sentence that says what is wrong.
    """
    write_document(recipe, path)


def read_recipe(path: Path) -> Recipe:
    """Read a recipe; BadInput if the file is missing or holds none.

    Parameters
    ----------
    path : of the file

    Returns
    -------
    The recipe that the file describes.

    Raises
    ------
    BadInput
        With one sentence that says what is wrong.
    """
    return read_document(path, Recipe, shipped("recipe"), most=MOST_BYTES)


def with_profile(recipe: Recipe, job: Faced, store: ArtStore) -> Recipe:
    """A recipe that brings the printer's profile of the job that it is of, if that has its own.

    Parameters
    ----------
    recipe : of the job
    job : that names the profile
    store : that holds it

    Raises
    ------
    BadInput
        If the profile is too large to go with a recipe.
    """
    if recipe.printer is not None:
        needed = (digest for one in recipe.printer.conditions for digest in one.profiles)
        recipe = recipe.replace(profiles=packed(needed, store))
    if job.conversion.profile is None:
        return recipe
    words = base64.b64encode(store.profile_bytes(job.conversion.profile)).decode("ascii")
    if len(words) > MOST_LETTERS:
        raise BadInput(say("The profile is too large to go with a recipe; choose it in each job."))
    return recipe.replace(profile=words)


def lent(recipe: Recipe, store: ArtStore) -> Recipe:
    """A recipe whose profile is in a store, where jobs look for it.

    Parameters
    ----------
    recipe : that may bring a profile
    store : that gets it

    Raises
    ------
    BadInput
        If what it brings is no CMYK profile.
    """
    if recipe.profiles:
        unpacked(recipe.profiles, store, recipe.name)
        recipe = recipe.replace(profiles=())
    if not recipe.profile:
        return recipe
    try:
        icc = base64.b64decode(recipe.profile, validate=True)
    except ValueError:
        raise BadInput(
            say("The recipe {recipe} brings a profile that is damaged.", recipe=recipe.name)
        ) from None
    check_cmyk_profile(icc, recipe.name)
    digest = store.add_bytes(icc)
    return recipe.replace(profile="", conversion=recipe.conversion.replace(profile=digest))


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
