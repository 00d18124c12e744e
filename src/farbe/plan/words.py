"""Words that are typed at the command line, as values."""

from __future__ import annotations

import re
from enum import StrEnum
from typing import TypeVar

from farbe.model.base import BadInput
from farbe.model.piece import Circle, Material, Rectangle, Shape, Surface
from farbe.said import say, spoken

#: Millimetres that a side of a piece has at the most.
MOST = 10_000.0
Choice = TypeVar("Choice", bound=StrEnum)


def choice(kind: type[Choice], text: str, what: str) -> Choice:
    """One of a closed list by its word; BadInput names them all.

    Parameters
    ----------
    kind : an enumeration
    text : one word
    what : it is, for the refusal

    Raises
    ------
    BadInput
        With one sentence that says what is wrong.
    """
    try:
        return kind(text.casefold())
    except ValueError:
        known = ", ".join(item.value for item in kind)
        raise BadInput(
            say(
                "There is no {what} {text}; there are: {known}.",
                what=spoken(what),
                text=text,
                known=known,
            )
        ) from None


def shape_of(text: str) -> Shape:
    """A piece's shape from ``90x55``, ``90x55 r3`` or ``round 60``, in mm; BadInput for others.

    Parameters
    ----------
    text : as typed

    Raises
    ------
    BadInput
        If the words are no shape.
    """
    plain = text.strip().casefold().replace(",", ".")
    figure = r"(\d+(?:\.\d+)?)"
    box = re.fullmatch(rf"{figure}\s*[x×]\s*{figure}(?:\s*r\s*{figure})?", plain)
    if box is not None:
        wide, high, radius = (float(part or 0) for part in box.groups())
        if 0 < wide <= MOST and 0 < high <= MOST and 2 * radius <= min(wide, high):
            return Rectangle(width=wide, height=high, corner_radius=radius)
    disc = re.fullmatch(rf"round\s*{figure}", plain)
    if disc is not None and 0 < float(disc[1]) <= MOST:
        return Circle(diameter=float(disc[1]))
    raise BadInput(
        say("The piece {text} is neither like 90x55 nor like 'round 60', in mm.", text=text)
    )


def surface_of(text: str) -> Surface:
    """A surface from ``clear``, ``#rrggbb`` or ``textile #rrggbb``; BadInput for other words.

    Parameters
    ----------
    text : a colour, after the kind of surface if that is not opaque

    Raises
    ------
    BadInput
        With one sentence that says what is wrong.
    """
    if text.casefold() == "clear":
        return Surface(material=Material.CLEAR)
    kind, _, colour = text.rpartition(" ")
    known = [material.value for material in Material if material is not Material.CLEAR]
    if re.fullmatch(r"#[0-9a-fA-F]{6}", colour) and (kind or Material.OPAQUE).casefold() in known:
        return Surface(material=Material((kind or "opaque").casefold()), colour=colour.lower())
    raise BadInput(say("The surface {text} is neither clear nor a colour like #20302a.", text=text))
