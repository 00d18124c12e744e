"""What a choke leaves at the edges of the colour, in output pixels."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.frame import sampling_grid
from farbe.layout.prints import PocketPrint, one_print
from farbe.model.printer import LayerKind
from farbe.optics.plateedge import shape_edge
from farbe.plan.order import printing_layers
from farbe.render.piece import piece_separation
from farbe.render.raster import Report, unwatched
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid
from farbe.separate.plates import Separation

#: Pixels of the picture in which edges are found, and how many of them are tried.
EDGE_SIDE, EDGES_TRIED = 400, 24
#: Output pixels along a side of the picture of an edge.
EDGE = 22
#: Stands for the share of white where there is hardly any colour.
NO_SHARE = 2.0


@dataclass(frozen=True, eq=False)
class EdgePixels:
    """Output pixels at one edge of the colour: where it is, the plates, size of a pixel in mm."""

    x: float
    y: float
    colour: Plate
    white: Plate
    pixel: tuple[float, float]


@dataclass(frozen=True, eq=False)
class Edges:
    """Where the colour has the least white left beside its edge, and where it has the most."""

    worst: EdgePixels
    solid: EdgePixels


def edges_of(
    job: Faced, what: PocketPrint, store: ArtStore, report: Report = unwatched
) -> Edges | None:
    """The worst edge of the colour and a solid one, at output resolution.

    Parameters
    ----------
    job : as one of its faces has it
    what : the print
    store : of its artworks
    report : is told how far it is

    Returns
    -------
    None without artwork or white.
    """
    report(0.0)
    job = one_print(job, what)
    white = next((la for la in printing_layers(job.stack) if la.kind is LayerKind.WHITE), None)
    if job.artwork is None or white is None:
        return None
    coarse = sampling_grid(job, EDGE_SIDE)
    seen_coarsely = piece_separation(job, store, coarse, layers=(), as_read=True)
    found = shape_edge(seen_coarsely.shape(0, seen_coarsely.size[1]), coarse)
    if found is None:
        return None
    grid = Grid(job.printer.dpi_x, job.printer.dpi_y)
    separation = piece_separation(job, store, grid, layers=(white,), as_read=True)
    every = max(1, len(found.places) // EDGES_TRIED)
    places = [(x, y) for x, y in found.places[::every].tolist()]
    windows = _windows(replace(separation, kept=True), places)
    return Edges(
        min(windows, key=_white_share),
        max(windows, key=lambda window: _white_share(window) % NO_SHARE),
    )


def _windows(separation: Separation, places: list[tuple[float, float]]) -> list[EdgePixels]:
    """Output pixels around places in mm from the piece's middle, from the top down."""
    (width, height), grid = separation.size, separation.grid

    def corner(x: float, y: float) -> tuple[int, int]:
        row, column = height / 2 - y * grid.per_mm_y, width / 2 + x * grid.per_mm_x
        return (max(0, min(height - EDGE, int(row) - EDGE // 2)),
                max(0, min(width - EDGE, int(column) - EDGE // 2)))  # fmt: skip

    waiting = sorted((*corner(x, y), x, y) for x, y in places)
    found: list[EdgePixels] = []
    while waiting:
        # Rows of windows that lie side by side are made once.
        first, stop = waiting[0][0], waiting[0][0] + EDGE
        together: list[tuple[int, int, float, float]] = []
        while waiting and waiting[0][0] < stop + EDGE and len(together) < EDGES_TRIED:
            together.append(waiting.pop(0))
            stop = together[-1][0] + EDGE
        colour, white = separation.shape(first, stop), separation.plates(first, stop)[0]
        for start, left, x, y in together:
            here = slice(start - first, start - first + EDGE), slice(left, left + EDGE)
            found.append(EdgePixels(
                x=x, y=y, colour=np.ascontiguousarray(colour[here]),
                white=np.ascontiguousarray(white[here]),
                pixel=(1 / grid.per_mm_x, 1 / grid.per_mm_y),
            ))  # fmt: skip
    return found


def _white_share(edge: EdgePixels) -> float:
    """How much of the colour in a window has white; hardly any colour tells nothing."""
    colour = float(edge.colour.sum(dtype="int64"))
    enough = colour > 0.03 * 255 * edge.colour.size
    return float(edge.white.sum(dtype="int64")) / colour if enough else NO_SHARE
