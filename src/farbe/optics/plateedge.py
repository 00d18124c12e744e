"""The edge of a plate, as places with directions out of it."""

from __future__ import annotations

import cv2
import numpy as np

from farbe.optics.shake import Edge, EdgePoints, edge_of
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid


def shape_edge(shape: Plate, grid: Grid) -> Edge | None:
    """The edge of a plate around its canvas's middle; None without any.

    Parameters
    ----------
    shape : coverage, uint8 (h, w)
    grid : resolution

    Returns
    -------
    None where nothing is covered.
    """
    solid = (shape >= 128).astype(np.uint8)
    contours, order = cv2.findContours(solid, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_SIMPLE)
    lines: list[EdgePoints] = []
    for index, contour in enumerate(contours):
        if len(contour) < 3:
            continue
        ring = contour[:, 0, :].astype(np.float64) + 0.5 - np.array(shape.shape[::-1]) / 2
        ring *= (1 / grid.per_mm_x, -1 / grid.per_mm_y)
        x, y = ring.T
        area = float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1)))
        # Outer lines run anticlockwise and holes clockwise, so that outwards is to the right.
        hole = order[0, index, 3] != -1
        lines.append(ring if (area > 0) is not hole else ring[::-1])
    if not lines:
        return None
    # Of each side the middle: at its ends an edge has two directions.
    places, outward = [], []
    for line in lines:
        ends = edge_of([line])
        first, second = np.split(ends.places, 2)
        places.append((first + second) / 2)
        outward.append(ends.outward[: len(first)])
    return Edge(np.concatenate(places), np.concatenate(outward))
