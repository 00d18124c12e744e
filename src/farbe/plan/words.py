"""Words that are typed at the command line, as values."""

from __future__ import annotations

import re
from enum import StrEnum
from typing import TypeVar

from farbe.model.base import BadInput
from farbe.model.piece import Material, Surface

Choice = TypeVar("Choice", bound=StrEnum)


def choice(kind: type[Choice], text: str, what: str) -> Choice:
    """One of a closed list by its word; BadInput names them all."""
    try:
        return kind(text.casefold())
    except ValueError:
        known = ", ".join(item.value for item in kind)
        raise BadInput(f"There is no {what} {text}; there are: {known}.") from None


def surface_of(text: str) -> Surface:
    """A surface from ``clear`` or ``#rrggbb``; BadInput for other words."""
    if text.casefold() == "clear":
        return Surface(material=Material.CLEAR)
    if re.fullmatch(r"#[0-9a-fA-F]{6}", text):
        return Surface(colour=text.lower())
    raise BadInput(f"The surface {text} is neither clear nor a colour like #20302a.")
