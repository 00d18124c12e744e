"""Where artwork lies on its piece, in millimetres."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import shapely
from shapely import affinity, prepared
from shapely.geometry import box

from farbe.layout.body import artwork_room
from farbe.layout.faced import Faced
from farbe.layout.figures import measure
from farbe.layout.outline import outline
from farbe.model.base import BadInput
from farbe.model.piece import RoundBody, Shape
from farbe.model.placing import Across, Along, Fit
from farbe.said import say


@dataclass(frozen=True)
class ArtworkBox:
    """Artwork on a piece: middle from the piece's middle (y up), size before it is turned."""

    x: float
    y: float
    width: float
    height: float
    rotation: float
    mirror: bool


def turned_box(width: float, height: float, degrees: float) -> tuple[float, float]:
    """Width and height of the upright box around a turned rectangle.

    Parameters
    ----------
    width, height : mm
    degrees : of turn

    Returns
    -------
    Width and height in mm.
    """
    turn = math.radians(degrees)
    c, s = abs(math.cos(turn)), abs(math.sin(turn))
    return width * c + height * s, width * s + height * c


def printable(job: Faced) -> tuple[float, float]:
    """Width and height in mm of the box in which artwork is aligned.

    Parameters
    ----------
    job : whose piece and margin are meant

    Returns
    -------
    Width and height in mm.

    Raises
    ------
    BadInput
        If the margin leaves nothing.
    """
    margin, shape = job.placing.margin, job.piece.shape
    wide, high = (
        artwork_room(shape) if isinstance(shape, RoundBody) else (shape.width, shape.height)
    )
    width, height = wide - 2 * margin, high - 2 * margin
    if width <= 0 or height <= 0:
        raise BadInput(
            say(
                "A margin of {margin} leaves nothing to print on; make it smaller.",
                margin=measure(margin),
            )
        )
    return width, height


def _inside(job: Faced, width: float, height: float) -> ArtworkBox:
    """Artwork as large as its box goes into the piece's outline, less the margin."""
    placing = job.placing
    x, y, scale = largest_inside(
        job.piece.shape, placing.margin, width, height, placing.rotation % 180.0
    )
    scale *= placing.scale / 100.0
    return ArtworkBox(
        x=x + placing.offset_x,
        y=y + placing.offset_y,
        width=width * scale,
        height=height * scale,
        rotation=placing.rotation % 360.0,
        mirror=placing.mirror,
    )


@lru_cache(maxsize=256)
def largest_inside(
    shape: Shape, margin: float, width: float, height: float, turned: float
) -> tuple[float, float, float]:
    """Where a box goes into an outline largest, and how much it is enlarged.

    For a middle the scale is found by halving; the middle by steps that get smaller, from the
    piece's own middle, its centroid, and that of the largest circle in it.

    Parameters
    ----------
    shape : of the piece
    margin : mm that are kept free along its edge
    width, height : of the box in mm
    turned : degrees, anticlockwise

    Returns
    -------
    x and y of the box's middle in mm around the piece's, and the scale.

    Raises
    ------
    BadInput
        If the margin leaves nothing.
    """
    room = outline(shape).buffer(-margin) if margin else outline(shape)
    if room.is_empty:
        raise BadInput(
            say(
                "A margin of {margin} leaves nothing to print on; make it smaller.",
                margin=measure(margin),
            )
        )
    inside = prepared.prep(room)
    one = affinity.rotate(box(-width / 2, -height / 2, width / 2, height / 2), turned, (0, 0))
    left, bottom, right, top = room.bounds
    most = math.hypot(right - left, top - bottom) / min(width, height)

    def largest(x: float, y: float) -> float:
        low, high = 0.0, most
        for _ in range(26):
            middle = (low + high) / 2
            there = affinity.affine_transform(one, (middle, 0, 0, middle, x, y))
            low, high = (middle, high) if inside.contains(there) else (low, middle)
        return low

    circle = shapely.maximum_inscribed_circle(room).coords[0]
    starts = ((0.0, 0.0), (room.centroid.x, room.centroid.y), circle)
    best = max((largest(x, y), x, y) for x, y in starts)
    step = max(right - left, top - bottom) / 8
    while step > 0.02:
        ways = ((step, 0), (-step, 0), (0, step), (0, -step), (step, step), (-step, step),
                (step, -step), (-step, -step))  # fmt: skip
        found = max((largest(best[1] + x, best[2] + y), best[1] + x, best[2] + y) for x, y in ways)
        if found[0] > best[0] + 1e-6:
            best = found
        else:
            step /= 2
    return best[1], best[2], best[0]


def artwork_box(job: Faced) -> ArtworkBox | None:
    """Where the job's artwork lies; None without artwork.

    Parameters
    ----------
    job : whose first artwork is meant

    Returns
    -------
    Middle and size in mm, y up.

    Raises
    ------
    BadInput
        If the margin leaves nothing.
    """
    art, placing = job.artwork, job.placing
    if art is None:
        return None
    # Filled artwork reaches to the bleed; fitted artwork stays inside the margin.
    room_w, room_h = printable(job)
    grow = 2 * job.bleed if placing.fit is Fit.FILL and not placing.margin else 0.0
    own_w, own_h = art.cropped
    wide, high = turned_box(own_w, own_h, placing.rotation)
    ratios = ((room_w + grow) / wide, (room_h + grow) / high)
    if placing.fit is Fit.INSIDE:
        return _inside(job, own_w, own_h)
    scale = {Fit.ACTUAL: 1.0, Fit.FIT: min(ratios), Fit.FILL: max(ratios)}[placing.fit]
    scale *= placing.scale / 100.0
    free_x, free_y = (room_w - wide * scale) / 2, (room_h - high * scale) / 2
    across = {Across.LEFT: -1, Across.MIDDLE: 0, Across.RIGHT: 1}[placing.across]
    along = {Along.BOTTOM: -1, Along.MIDDLE: 0, Along.TOP: 1}[placing.along]
    return ArtworkBox(
        x=across * free_x + placing.offset_x,
        y=along * free_y + placing.offset_y,
        width=own_w * scale,
        height=own_h * scale,
        rotation=placing.rotation % 360.0,
        mirror=placing.mirror,
    )
