"""A round body with its print, seen from the side and turned."""

from __future__ import annotations

import math

import cv2
import numpy as np

from farbe.art.artwork import Pixels
from farbe.layout.body import print_of_surface, radius_at
from farbe.model.base import rgb
from farbe.model.piece import RoundBody
from farbe.separate.grid import Grid

#: How much darker a surface is that falls away to the side.
EDGE_LIGHT = 0.35
#: Pixels along either axis of which one of the picture is the mean.
OVER = 2


def body_picture(
    body: RoundBody, look: Pixels, grid: Grid, *, turn: float, height: int, bare: str
) -> Pixels:
    """The printed zone of a body from the side.

    It is drawn with :data:`OVER` pixels in one along either axis, and their means are taken, so
    that the body's edges and the print's are smooth.

    Parameters
    ----------
    body : its zone and its diameters
    look : of the print as it is read, sRGB uint8 (h, w, 3) on ``grid``, around its middle
    grid : pixels of ``look`` to the inch
    turn : degrees by which the body is turned to the left; at 0 the print's middle is in front
    height : of the picture, in pixels
    bare : colour of the body where nothing may be printed, ``#rrggbb``

    Returns
    -------
    Straight sRGB and alpha, uint8 (height, w, 4).
    """
    wide = math.ceil(body.widest * height / body.zone)
    fine = _fine_picture(body, look, grid, turn=turn, height=height * OVER, bare=bare)
    return np.asarray(cv2.resize(fine, (wide, height), interpolation=cv2.INTER_AREA), np.uint8)


def _fine_picture(
    body: RoundBody, look: Pixels, grid: Grid, *, turn: float, height: int, bare: str
) -> Pixels:
    """The picture with hard edges."""
    per_mm = height / body.zone
    width = math.ceil(body.widest * per_mm)
    x = ((np.arange(width) + 0.5) - width / 2) / per_mm
    up = body.slant * (1.0 - (np.arange(height) + 0.5) / height)
    radius = radius_at(body, up)[:, None]
    across = x[None, :] / radius
    inside = np.abs(across) <= 1.0
    front = np.arcsin(np.clip(across, -1.0, 1.0))
    # Angles from the print's middle, half a turn to either side of it.
    angle = (front + math.radians(turn) + math.pi) % (2 * math.pi) - math.pi
    along = np.broadcast_to(up[:, None], angle.shape)
    places = print_of_surface(body, angle, along)
    columns = (places[..., 0] * grid.per_mm_x + look.shape[1] / 2).astype(np.float32)
    rows = (look.shape[0] / 2 - places[..., 1] * grid.per_mm_y).astype(np.float32)
    printed = (
        (np.abs(angle) <= body.wrap_angle / 2)
        & (columns >= 0) & (columns < look.shape[1]) & (rows >= 0) & (rows < look.shape[0])
    )  # fmt: skip
    # Middles of pixels are at whole numbers there.
    seen = cv2.remap(
        look, columns - 0.5, rows - 0.5, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    shown = np.where(printed[..., None], seen, np.array(rgb(bare), np.uint8))
    light = EDGE_LIGHT + (1.0 - EDGE_LIGHT) * np.cos(front)[..., None]
    lit = np.rint(shown * light).astype(np.uint8)
    return np.dstack([lit, np.where(inside, 255, 0).astype(np.uint8)])
