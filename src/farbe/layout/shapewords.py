"""Shapes in words."""

from __future__ import annotations

from farbe.layout.figures import number
from farbe.model.piece import Circle, Ellipse, Outline, Piece, Rectangle, RoundBody


def shape_words(piece: Piece) -> str:
    """A piece's shape and size."""
    match piece.shape:
        case Circle(diameter=diameter):
            return f"round {number(diameter)} mm"
        case Ellipse(width=width, height=height):
            return f"oval {number(width)} × {number(height)} mm"
        case Rectangle(width=width, height=height):
            return f"{number(width)} × {number(height)} mm"
        case RoundBody():
            taper = f" to {number(piece.shape.far_diameter)}" if piece.shape.slope else ""
            return (
                f"round body {number(piece.shape.diameter)}{taper} mm,"
                f" {number(piece.shape.zone)} mm printed"
            )
        case Outline():
            return f"outline {number(piece.shape.width)} × {number(piece.shape.height)} mm"
