"""Edits of the piece, each a function of the job."""

from __future__ import annotations

from pathlib import Path

from farbe.desk.stations.base import Desk, with_piece
from farbe.desk.stations.bodyform import as_round_body, with_body
from farbe.files.outlinefile import read_outline
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.model.piece import (
    Circle,
    Ellipse,
    Outline,
    Rectangle,
    RoundBody,
    Shape,
)


def with_shape_kind(job: Job, kind: str) -> Job:
    """The same piece in another kind of shape, as large as before."""
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
        raise BadInput("Choose the drawing with the button below.")
    else:
        made = Rectangle(width=width, height=height)
    return with_piece(job, shape=made)


def with_width(job: Job, width: float) -> Job:
    shape = job.piece.shape
    if isinstance(shape, RoundBody):
        return with_body(job, seam=shape.seam + shape.wrap - width)
    if isinstance(shape, Outline):
        return with_piece(job, shape=scaled(shape, width / shape.width))
    field = "diameter" if isinstance(shape, Circle) else "width"
    return with_piece(job, shape=shape.replace(**{field: width}))


def with_height(job: Job, height: float) -> Job:
    shape = job.piece.shape
    if isinstance(shape, RoundBody):
        return with_body(job, zone=height)
    if isinstance(shape, Outline):
        return with_piece(job, shape=scaled(shape, height / shape.height))
    field = "diameter" if isinstance(shape, Circle) else "height"
    return with_piece(job, shape=shape.replace(**{field: height}))


def scaled(shape: Outline, by: float) -> Outline:
    """A drawn outline in another size; its proportions stay.

    Raises
    ------
    BadInput
        If that size cannot be.
    """
    rings = tuple(tuple((round(x * by, 4), round(y * by, 4)) for x, y in r) for r in shape.rings)
    return shape.replace(rings=rings)


def take_outline(desk: Desk, path: Path) -> None:
    """Read an outline from a drawing in a worker and make it the piece's shape."""
    desk.workers.start(
        "outline",
        lambda _: read_outline(path),
        lambda shape: desk.session.edit("Outline", lambda job: with_piece(job, shape=shape)),
        title=f"Reading {path.name}",
    )


def with_radius(job: Job, radius: float) -> Job:
    return with_piece(job, shape=job.piece.shape.replace(corner_radius=radius))


def with_depth(job: Job, height: float) -> Job:
    return with_piece(job, height=height)
