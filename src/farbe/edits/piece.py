"""Edits of the piece, each a function of the job."""

from __future__ import annotations

from farbe.edits.body import as_round_body, with_body
from farbe.edits.values import with_piece
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.model.piece import (
    Circle,
    Ellipse,
    Outline,
    Rectangle,
    RoundBody,
    Shape,
)
from farbe.said import say


def with_shape_kind(job: Faced, kind: str) -> Faced:
    """The same piece in another kind of shape, as large as before.

    Parameters
    ----------
    job : as one of its faces has it
    kind : ``circle``, ``ellipse``, ``rectangle``, ``outline`` or ``round body``

    Raises
    ------
    BadInput
        For an outline, which comes from a drawing.
    """
    shape = job.piece.shape
    if kind == shape.kind:
        return job
    width, height = shape.width, shape.height
    made: Shape
    if kind == "circle":
        made = Circle(diameter=max(width, height))
    elif kind == "ellipse":
        made = Ellipse(width=width, height=height)
    elif kind == "round body":
        return as_round_body(job)
    elif kind == "outline":
        raise BadInput(say("Choose the drawing with the button below."))
    else:
        made = Rectangle(width=width, height=height)
    return with_piece(job, shape=made)


def with_width(job: Faced, width: float) -> Faced:
    """The job whose piece is ``width`` mm wide; drawn outlines keep their shape.

    Parameters
    ----------
    job : as one of its faces has it
    width : mm, more than 0
    """
    shape = job.piece.shape
    if isinstance(shape, RoundBody):
        return with_body(job, seam=shape.seam + shape.wrap - width)
    if isinstance(shape, Outline):
        return with_piece(job, shape=scaled(shape, width / shape.width))
    field = "diameter" if isinstance(shape, Circle) else "width"
    return with_piece(job, shape=shape.replace(**{field: width}))


def with_height(job: Faced, height: float) -> Faced:
    """The job whose piece is ``height`` mm high; drawn outlines keep their shape.

    Parameters
    ----------
    job : as one of its faces has it
    height : mm, more than 0
    """
    shape = job.piece.shape
    if isinstance(shape, RoundBody):
        return with_body(job, zone=height)
    if isinstance(shape, Outline):
        return with_piece(job, shape=scaled(shape, height / shape.height))
    field = "diameter" if isinstance(shape, Circle) else "height"
    return with_piece(job, shape=shape.replace(**{field: height}))


def scaled(shape: Outline, by: float) -> Outline:
    """A drawn outline in another size; its proportions stay.

    Parameters
    ----------
    shape : a drawn outline
    by : factors along x and y

    Raises
    ------
    BadInput
        If that size cannot be.
    """
    rings = tuple(tuple((round(x * by, 4), round(y * by, 4)) for x, y in r) for r in shape.rings)
    return shape.replace(rings=rings)


def with_radius(job: Faced, radius: float) -> Faced:
    """The job whose piece has corners of ``radius`` mm.

    Parameters
    ----------
    job : as one of its faces has it
    radius : mm, 0 or more
    """
    return with_piece(job, shape=job.piece.shape.replace(corner_radius=radius))


def with_depth(job: Faced, height: float) -> Faced:
    """The job whose piece is ``height`` mm thick, from the table to what is printed.

    Parameters
    ----------
    job : as one of its faces has it
    height : mm, more than 0
    """
    return with_piece(job, height=height)
