"""Where artwork lies on its piece, in millimetres."""

from __future__ import annotations

import math
from dataclasses import dataclass

from farbe.layout.body import artwork_room
from farbe.layout.faced import Faced
from farbe.layout.figures import measure
from farbe.model.base import BadInput
from farbe.model.piece import RoundBody
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
