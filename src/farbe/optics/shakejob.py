"""Shake of a job: its white against its colour, and its print against its pieces."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from farbe.layout.faced import Faced
from farbe.layout.frame import sampling_grid
from farbe.layout.laid import first_print
from farbe.layout.outline import outline, rings
from farbe.layout.prints import one_print
from farbe.model.layer import Layer
from farbe.model.printer import LayerKind
from farbe.model.source import ArtworkShape
from farbe.optics.shake import Edge, EdgePoints, Shaken, edge_of, moves, play_moves, shaken
from farbe.plan.readers import own_layers
from farbe.render.piece import piece_separation
from farbe.render.sources import Sources
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid

#: Pixels of the picture in which the artwork's edge is found, and places on an edge that are tried.
SIDE, MOST_PLACES = 700, 500


@dataclass(frozen=True)
class JobShake:
    """``white`` against the choke, None without white that is choked from the artwork's shape;
    ``piece`` against the bleed, None where no artwork reaches the piece's edge."""

    white: Shaken | None
    piece: Shaken | None


def choked_layer(job: Faced) -> Layer | None:
    """The white that ends inside the artwork's shape, the one with the least choke."""
    found = [
        layer for layer in own_layers(job)
        if layer.kind is LayerKind.WHITE and isinstance(layer.source, ArtworkShape)
    ]  # fmt: skip
    return min(found, key=lambda layer: layer.choke, default=None)


def job_shake(job: Faced, sources: Sources, chance: float) -> JobShake:
    """Shake a job's first print; ``chance`` is the share of prints that may show it.

    Parameters
    ----------
    job : the job as one of its faces has it
    sources : pixels, fonts and profile
    chance : share of prints that may show an edge, 0 to 1
    """
    first = first_print(job)
    of, grid = one_print(job, first), sampling_grid(job, SIDE)
    separation = piece_separation(of, sources, grid, layers=(), as_read=True)
    shape = separation.shape(0, separation.size[1])
    register, white = job.printer.misregister, choked_layer(job)
    edge = shape_edge(shape, grid)
    against_white = None
    if white is not None and edge is not None:
        against_white = shaken(moves(register, edge), white.choke, chance)
    border = _thinned(edge_of(list(rings(outline(job.piece.shape)))))
    against_piece = None
    if _reaches(shape, border, grid):
        off = moves(register, border) + play_moves(job.jig.play, border)
        against_piece = shaken(off, job.bleed, chance)
    return JobShake(against_white, against_piece)


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
    return _thinned(edge_of(lines)) if lines else None


def _thinned(edge: Edge) -> Edge:
    """At most so many places, spread evenly along the edge."""
    every = max(1, -(-len(edge.places) // MOST_PLACES))
    return Edge(edge.places[::every], edge.outward[::every])


def _reaches(shape: Plate, border: Edge, grid: Grid) -> bool:
    """Whether artwork lies on a tenth of the piece's edge or more."""
    inside = border.places - border.outward * 2.0 / min(grid.per_mm_x, grid.per_mm_y)
    columns = np.round(inside[:, 0] * grid.per_mm_x + shape.shape[1] / 2 - 0.5).astype(int)
    lines = np.round(shape.shape[0] / 2 - inside[:, 1] * grid.per_mm_y - 0.5).astype(int)
    columns, lines = columns.clip(0, shape.shape[1] - 1), lines.clip(0, shape.shape[0] - 1)
    return bool((shape[lines, columns] >= 128).mean() >= 0.1)
