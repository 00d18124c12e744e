"""Outlines of pieces in millimetres."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from typing import Any, TypeVar

import numpy as np
import numpy.typing as npt
import shapely
from shapely import affinity
from shapely.geometry import Point, Polygon, box
from shapely.validation import explain_validity

from farbe.layout.body import print_outline
from farbe.model.base import BadInput
from farbe.model.piece import Circle, Ellipse, Outline, Rectangle, RoundBody, Shape, ShapeValue
from farbe.registry import Methods
from farbe.said import say

Drawn = TypeVar("Drawn", bound=Callable[..., Polygon])

#: Straight parts in a quarter of an arc: under 0.002 mm from the arc at a radius of 100 mm.
ARC_PARTS = 128


#: The outline of each kind of shape, before it is grown.
OUTLINES: Methods[Callable[[Any], Polygon]] = Methods("outline")


def outlines(kind: type[ShapeValue]) -> Callable[[Drawn], Drawn]:
    """Enter how a kind of shape is drawn around (0, 0), y up; used as a decorator.

    Parameters
    ----------
    kind : of shape

    Returns
    -------
    The decorator, which gives the function back as it is.
    """

    def enter(drawn: Drawn) -> Drawn:
        OUTLINES.enter(kind, drawn)
        return drawn

    return enter


def check_outline(shape: Shape) -> None:
    """Refuse an outline whose lines cross themselves or each other.

    Parameters
    ----------
    shape : of a piece; those with a formula are always right

    Raises
    ------
    BadInput
        With the place where they cross.
    """
    if not isinstance(shape, Outline):
        return
    drawn = Polygon(shape.rings[0], shape.rings[1:])
    if drawn.is_valid:
        return
    where = explain_validity(drawn).split("[")[-1].rstrip("]").split()
    raise BadInput(
        say(
            "The outline of the piece crosses itself at {where} mm; take it from its "
            "drawing again.",
            where=", ".join(w[:8] for w in where[:2]),
        )
    )


# Asked for by many at each edit; polygons do not change.
@lru_cache(maxsize=64)
def outline(shape: Shape, *, grow: float = 0.0) -> Polygon:
    """The outline around (0, 0), y up, grown outwards by ``grow`` mm at an even distance.

    Parameters
    ----------
    shape : any registered one
    grow : mm, negative to make it smaller

    Returns
    -------
    A polygon in mm; empty where nothing is left of it.

    Raises
    ------
    TypeError
        If the shape is not entered.
    """
    if isinstance(shape, Circle):
        # Grown exactly, rather than from its corners.
        return Point(0, 0).buffer(shape.diameter / 2 + grow, quad_segs=ARC_PARTS)
    plain = OUTLINES.of(shape)(shape)
    return plain.buffer(grow, quad_segs=ARC_PARTS, join_style="mitre") if grow else plain


@outlines(Circle)
def _circle(shape: Circle) -> Polygon:
    return Point(0, 0).buffer(shape.diameter / 2, quad_segs=ARC_PARTS)


@outlines(Ellipse)
def _ellipse(shape: Ellipse) -> Polygon:
    unit = Point(0, 0).buffer(1.0, quad_segs=ARC_PARTS)
    return affinity.scale(unit, shape.width / 2, shape.height / 2)


@outlines(Rectangle)
def _rectangle(shape: Rectangle) -> Polygon:
    radius, right, top = shape.corner_radius, shape.width / 2, shape.height / 2
    core = box(radius - right, radius - top, right - radius, top - radius)
    return core.buffer(radius, quad_segs=ARC_PARTS) if radius > 0 else core


@outlines(RoundBody)
def _body(shape: RoundBody) -> Polygon:
    return print_outline(shape)


@outlines(Outline)
def _drawn(shape: Outline) -> Polygon:
    return Polygon(shape.rings[0], shape.rings[1:])


def corners(polygon: Polygon) -> npt.NDArray[np.float64]:
    """Corners of the outer line in mm, shape (n, 2), the first not repeated.

    Parameters
    ----------
    polygon : in mm

    Returns
    -------
    float64
    """
    return rings(polygon)[0]


def rings(polygon: Polygon) -> tuple[npt.NDArray[np.float64], ...]:
    """Corners of the outer line and of each hole in mm, the first not repeated.

    Parameters
    ----------
    polygon : in mm

    Returns
    -------
    float64 (n, 2) for each ring, x and y.
    """
    lines = (polygon.exterior, *polygon.interiors)
    return tuple(np.asarray(line.coords, dtype=np.float64)[:-1] for line in lines)


def turned_quarter(polygon: Polygon) -> Polygon:
    """The outline after a quarter turn anticlockwise about (0, 0), exactly.

    Parameters
    ----------
    polygon : in mm around (0, 0)

    Returns
    -------
    Its corners are exactly those of ``polygon``, turned.
    """
    turned: Polygon = shapely.transform(polygon, lambda at: np.column_stack((-at[:, 1], at[:, 0])))
    return turned


def mirrored_across(polygon: Polygon) -> Polygon:
    """The outline with left and right exchanged: as it lies face down.

    Parameters
    ----------
    polygon : in mm around (0, 0)

    Returns
    -------
    Its corners are exactly those of ``polygon``, mirrored.
    """
    mirrored: Polygon = shapely.transform(polygon, lambda at: at * (-1.0, 1.0))
    return mirrored
