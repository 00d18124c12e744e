"""Edges of plates as lines in millimetres."""

from __future__ import annotations

import cv2
import numpy as np
import numpy.typing as npt
import shapely

from farbe.layout.outline import outline
from farbe.model.piece import Shape
from farbe.render.glimpse import Box
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid

Contour = npt.NDArray[np.float64]


def contours(plate: Plate, box: Box, grid: Grid) -> list[Contour]:
    """Closed lines around what a plate covers by half or more, mm around the piece's middle.

    Parameters
    ----------
    plate : coverage, uint8 (h, w)
    box : of the plate in mm
    grid : resolution

    Returns
    -------
    Closed lines in mm, float64 (n, 2) each.
    """
    solid = (plate >= 128).astype(np.uint8)
    found, _ = cv2.findContours(solid, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    scale = np.array((1 / grid.per_mm_x, -1 / grid.per_mm_y))
    corner = np.array((box.left, box.bottom + box.height))
    return [(line[:, 0, :].astype(np.float64) + 0.5) * scale + corner for line in found]


def margin(lines: list[Contour], shape: Shape) -> float | None:
    """The least distance in mm from any line to the piece's edge; negative if it lies beyond.

    None without lines.

    Parameters
    ----------
    lines : in mm
    shape : of the piece

    Returns
    -------
    Millimetres; negative beyond the piece; None without lines.
    """
    if not lines:
        return None
    piece = outline(shape)
    places = shapely.points(np.concatenate(lines))
    far = shapely.distance(places, piece.boundary)
    beyond = ~shapely.contains_properly(piece, places)
    return float(np.where(beyond, -far, far).min())
