"""Outlines of pieces in millimetres."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from shapely import affinity
from shapely.geometry import Point, Polygon, box

from farbe.layout.body import print_outline
from farbe.model.piece import Circle, Ellipse, Outline, Rectangle, RoundBody, Shape

#: Straight parts in a quarter of an arc: under 0.002 mm from the arc at a radius of 100 mm.
ARC_PARTS = 128


def outline(shape: Shape, *, grow: float = 0.0) -> Polygon:
    """The outline around (0, 0), y up, grown outwards by ``grow`` mm at an even distance."""
    match shape:
        case Circle(diameter=diameter):
            return Point(0, 0).buffer(diameter / 2 + grow, quad_segs=ARC_PARTS)
        case Ellipse(width=width, height=height):
            unit = Point(0, 0).buffer(1.0, quad_segs=ARC_PARTS)
            plain = affinity.scale(unit, width / 2, height / 2)
        case Rectangle(width=width, height=height, corner_radius=radius):
            core = box(
                radius - width / 2, radius - height / 2, width / 2 - radius, height / 2 - radius
            )
            plain = core.buffer(radius, quad_segs=ARC_PARTS) if radius > 0 else core
        case RoundBody():
            plain = print_outline(shape)
        case Outline(rings=rings):
            plain = Polygon(rings[0], rings[1:])
    return plain.buffer(grow, quad_segs=ARC_PARTS, join_style="mitre") if grow else plain


def corners(polygon: Polygon) -> npt.NDArray[np.float64]:
    """Corners of the outer line in mm, shape (n, 2), the first not repeated."""
    return rings(polygon)[0]


def rings(polygon: Polygon) -> tuple[npt.NDArray[np.float64], ...]:
    """Corners of the outer line and of each hole in mm, the first not repeated."""
    lines = (polygon.exterior, *polygon.interiors)
    return tuple(np.asarray(line.coords, dtype=np.float64)[:-1] for line in lines)


def turned_quarter(polygon: Polygon) -> Polygon:
    """The outline after a quarter turn anticlockwise about (0, 0), exactly."""
    outer, *holes = ([(-y, x) for x, y in ring] for ring in rings(polygon))
    return Polygon(outer, holes)


def mirrored_across(polygon: Polygon) -> Polygon:
    """The outline with left and right exchanged: as it lies face down."""
    outer, *holes = ([(-x, y) for x, y in ring] for ring in rings(polygon))
    return Polygon(outer, holes)
