"""Outlines that are the same shape, whatever their turn."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon

from farbe.layout.outline import outline
from farbe.model.piece import Circle, Outline, Rectangle, Shape

#: How far outlines of one shape may be off each other, mean square in mm.
TOLERANCE = 0.08
#: Points along an outline by which unlike corners are compared, and how often they are refined.
SAMPLES, ROUNDS = 1024, 6
#: Circle of the same area by area of its hull, least; and rectangles likewise.
_ROUND = 0.9985

Points = npt.NDArray[np.complex128]


@dataclass(frozen=True)
class Lies:
    """How a piece of a known shape lies: its middle in mm, and degrees anticlockwise."""

    x: float
    y: float
    turn: float


def lies_as(found: Polygon, known: Polygon, near: float = 0.0) -> Lies | None:
    """How a known outline is turned and moved to lie on another; mirrored ones are not alike.

    Corners in the same order are compared as they are, others by points along the outlines. For
    every shift of the order, the best turn is the angle of the two outlines' complex correlation,
    and their distance follows from its size (least squares for a rigid motion in the plane); all
    shifts are worked out at once by the Fourier transform.

    Parameters
    ----------
    found : outline in mm
    known : outline in mm, around its own middle
    near : degrees; of several turns that fit, as of a square, that nearest to this is taken

    Returns
    -------
    None if they are unlike.
    """
    if abs(found.area - known.area) > TOLERANCE * 2 * known.length:
        return None
    one, two = _corners(found), _corners(known)
    if len(one) == len(two):
        best = _best(one, two, near)
        if best is not None:
            return best
    return _refined(found, known, near)


def _corners(polygon: Polygon) -> Points:
    ring = np.asarray(polygon.exterior.coords)[:-1]
    points = ring[:, 0] + 1j * ring[:, 1]
    return points if polygon.exterior.is_ccw else points[::-1]


def _along(polygon: Polygon) -> Points:
    """Points at even distances along an outline, anticlockwise."""
    ring = polygon.exterior if polygon.exterior.is_ccw else polygon.exterior.reverse()
    steps = np.arange(SAMPLES) / SAMPLES * ring.length
    places = shapely.get_coordinates(shapely.line_interpolate_point(ring, steps))
    points: Points = places[:, 0] + 1j * places[:, 1]
    return points


def _best(one: Points, two: Points, near: float, slack: float = TOLERANCE) -> Lies | None:
    """The motion that takes ``two`` to ``one``, whichever corner begins; None if none fits."""
    middle, own = one.mean(), two.mean()
    p, q = one - middle, two - own
    correlation = np.fft.ifft(np.fft.fft(p) * np.conj(np.fft.fft(q)))
    off = (np.sum(np.abs(p) ** 2) + np.sum(np.abs(q) ** 2) - 2 * np.abs(correlation)) / len(p)
    fits = np.flatnonzero(np.sqrt(np.maximum(off, 0)) <= slack)
    if not len(fits):
        return None
    turns = np.degrees(np.angle(correlation[fits]))
    # Among neighbours along a curve the closest one, among turns that fit alike the nearest.
    apart = np.abs((turns - near + 180) % 360 - 180)
    chosen = fits[np.lexsort((np.sqrt(np.maximum(off[fits], 0)), np.round(apart / 2)))[0]]
    turn = float(np.degrees(np.angle(correlation[chosen])))
    at = middle - own * np.exp(1j * math.radians(turn))
    return Lies(float(at.real), float(at.imag), turn)


def _refined(found: Polygon, known: Polygon, near: float) -> Lies | None:
    """By points along both; the steps between them are then taken out by nearest places."""
    one, two = _along(found), _along(known)
    step = known.length / SAMPLES
    first = _best(one, two, near, slack=TOLERANCE + step)
    if first is None:
        return None
    turn, at = first.turn, complex(first.x, first.y)
    edge = found.exterior
    # Places on it are then found by an index of its parts.
    shapely.prepare(edge)
    for _ in range(ROUNDS):
        laid = two * np.exp(1j * math.radians(turn)) + at
        ways = shapely.shortest_line(edge, shapely.points(laid.real, laid.imag))
        nearest = shapely.get_coordinates(ways)[::2]
        goal = nearest[:, 0] + 1j * nearest[:, 1]
        middle, own = goal.mean(), two.mean()
        turn = math.degrees(float(np.angle(np.sum((goal - middle) * np.conj(two - own)))))
        at = complex(middle - own * np.exp(1j * math.radians(turn)))
    laid = two * np.exp(1j * math.radians(turn)) + at
    off = shapely.distance(edge, shapely.points(laid.real, laid.imag))
    if math.sqrt(float(np.mean(np.square(off)))) > TOLERANCE:
        return None
    return Lies(float(at.real), float(at.imag), turn)


def as_shape(polygon: Polygon, turned: float = 0.0) -> tuple[Shape, Lies]:
    """What a drawn outline is: a circle, a rectangle with round corners, or an outline of its own.

    Parameters
    ----------
    polygon : in mm
    turned : degrees by which it is known to be turned, as a block of a drawing is

    Returns
    -------
    The shape, and how it lies.
    """
    area = float(polygon.area)
    hull = math.pi * (polygon.length / math.tau) ** 2
    if area / hull > _ROUND:
        middle = polygon.centroid
        # Corners lie on the circle, the lines between them inside it.
        corners = _corners(polygon)
        radius = float(np.abs(corners - complex(middle.x, middle.y)).mean())
        return Circle(diameter=round(2 * radius, 2)), Lies(middle.x, middle.y, turned % 360.0)
    plain = _rectangle(polygon, turned)
    if plain is not None:
        return plain
    # Upright as the block that it comes from, else as it is drawn.
    back = np.exp(-1j * math.radians(turned))
    corners = _corners(polygon) * back
    middle_ = complex(
        (corners.real.min() + corners.real.max()) / 2, (corners.imag.min() + corners.imag.max()) / 2
    )
    ring = tuple((round(z.real, 4), round(z.imag, 4)) for z in corners - middle_)
    at = middle_ / back
    return Outline(rings=(ring,)), Lies(float(at.real), float(at.imag), turned % 360.0)


def _rectangle(polygon: Polygon, turned: float) -> tuple[Shape, Lies] | None:
    """A rectangle, its corners round or not, if a drawn outline is one."""
    around = polygon.minimum_rotated_rectangle
    corners = _corners(around)
    side, other = corners[1] - corners[0], corners[2] - corners[1]
    wide, high = abs(side), abs(other)
    lost = wide * high - float(polygon.area)
    radius = math.sqrt(max(0.0, lost) / (4 - math.pi))
    if 2 * radius > min(wide, high) or min(wide, high) <= 0:
        return None
    turn = math.degrees(math.atan2(side.imag, side.real))
    quarters = round((turned - turn) / 90)
    if quarters % 2:
        wide, high = high, wide
    shape = Rectangle(
        width=round(wide, 3), height=round(high, 3),
        corner_radius=round(radius, 1) if radius > TOLERANCE else 0.0,
    )  # fmt: skip
    middle = corners.mean()
    lies = Lies(float(middle.real), float(middle.imag), (turn + 90 * quarters) % 360.0)
    fits = lies_as(polygon, outline(shape), lies.turn)
    return None if fits is None else (shape, lies)
