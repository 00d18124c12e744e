"""Named starting points in the shop's words."""

from __future__ import annotations

from dataclasses import dataclass

from farbe.model.base import BadInput
from farbe.model.layer import COLOUR, VARNISH_OVER, Layer
from farbe.model.piece import Material, Reader, Surface
from farbe.plan.order import default_stack


@dataclass(frozen=True)
class Recipe:
    """A surface, a reader and the stack for them."""

    name: str
    surface: Surface
    reader: Reader
    stack: tuple[Layer, ...]


_CLEAR = Surface(material=Material.CLEAR, name="clear")
_DARK = Surface(colour="#20302a", name="dark")

RECIPES = (
    Recipe("light opaque piece", Surface(name="white"), Reader.FACE, (COLOUR,)),
    Recipe("dark opaque piece", _DARK, Reader.FACE, default_stack(Reader.FACE)),
    Recipe("clear, read from the face", _CLEAR, Reader.FACE, default_stack(Reader.FACE)),
    Recipe("clear, read through", _CLEAR, Reader.THROUGH, default_stack(Reader.THROUGH)),
    Recipe(
        "transfer on dark",
        Surface(material=Material.TEXTILE, colour="#23262e", name="dark cotton"),
        Reader.TRANSFER,
        default_stack(Reader.TRANSFER),
    ),
    Recipe("varnish only", Surface(name="white"), Reader.FACE, (VARNISH_OVER,)),
)


def recipe(name: str) -> Recipe:
    """The recipe of a name; case and commas do not matter.

    Raises
    ------
    BadInput
        If there is none.
    """

    def plain(text: str) -> str:
        return " ".join(text.replace(",", " ").casefold().split())

    for found in RECIPES:
        if plain(found.name) == plain(name):
            return found
    known = "; ".join(r.name for r in RECIPES)
    raise BadInput(f"There is no recipe named {name}; there are: {known}.")
