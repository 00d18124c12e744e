"""How much of a piece is open to see through."""

from __future__ import annotations

import numpy as np

from farbe.layout.frame import sampling_grid
from farbe.model.job import Job
from farbe.render.piece import Canvas, ring_pixels
from farbe.separate.grid import Grid
from farbe.separate.outline import rasterise
from farbe.separate.treat import Ground, opened

#: Pixels along the piece's longer side.
SIDE = 900


def open_share(job: Job) -> float:
    """Share of the piece's area that its holes leave open, 0 to 1.

    The mean of the holes' own coverage, so that pixels larger than a hole do not matter.
    """
    if job.see_through is None:
        return 0.0
    grid: Grid = sampling_grid(job, SIDE)
    canvas = Canvas.of(job, grid)
    width, height = canvas.size
    piece = rasterise(ring_pixels(job.piece.shape, 0.0, canvas), width, 0, height)
    ground = Ground(
        grid, canvas.size, 0, lambda a, b: np.zeros((b - a, width), np.float32),
        lambda a, b: np.zeros((b - a, width), np.uint8), canvas.pixels,
    )  # fmt: skip
    left = opened(piece, job.see_through, ground)
    whole = float(piece.sum(dtype=np.int64))
    return 1.0 - float(left.sum(dtype=np.int64)) / whole if whole else 0.0
