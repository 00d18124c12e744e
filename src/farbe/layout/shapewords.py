"""Shapes in words."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from farbe.layout.figures import bare_length, measure, sizes, units
from farbe.model.piece import Circle, Ellipse, Outline, Piece, Rectangle, RoundBody, Shape
from farbe.registry import Methods
from farbe.said import say

#: What each kind of shape is called, with its size.
SHAPE_WORDS: Methods[Callable[[Any], str]] = Methods("words")


def shape_words(piece: Piece) -> str:
    """A piece's shape and size.

    Parameters
    ----------
    piece : its shape and surface
    """
    return SHAPE_WORDS.of(piece.shape)(piece.shape)


def shape_in_words(shape: Shape) -> str:
    """A shape and its size.

    Parameters
    ----------
    shape : of a piece, or of its pocket
    """
    return SHAPE_WORDS.of(shape)(shape)


def _body(body: RoundBody) -> str:
    taper = (
        say(" to {far_diameter}", far_diameter=bare_length(body.far_diameter)) if body.slope else ""
    )
    thick = f"{bare_length(body.diameter)}{taper} {units().value}"
    return say("round body {thick}, {zone} printed", thick=thick, zone=measure(body.zone))


def _sides(shape: Rectangle | Ellipse | Outline) -> str:
    return sizes(shape.width, shape.height)


SHAPE_WORDS.enter(Circle, lambda circle: say("round {diameter}", diameter=measure(circle.diameter)))
SHAPE_WORDS.enter(Ellipse, lambda ellipse: say("oval {sides}", sides=_sides(ellipse)))
SHAPE_WORDS.enter(Rectangle, _sides)
SHAPE_WORDS.enter(Outline, lambda drawn: say("outline {sides}", sides=_sides(drawn)))
SHAPE_WORDS.enter(RoundBody, _body)
