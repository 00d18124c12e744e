"""One print, looked at strip by strip."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from farbe.optics.shake import Edge, telling
from farbe.render.raster import Report, unwatched
from farbe.separate.choke import Plate
from farbe.sidebyside import WORKERS, in_order
from farbe.survey.cells import Cells, cell_size, marks_of
from farbe.survey.edges import EdgeProbe, cut_off, edge_points
from farbe.survey.looks import LOOKS, halo_of
from farbe.survey.subject import Strip, Subject
from farbe.survey.survey import Matter, Survey

#: Pixels of a strip; what is looked at together is bounded by it.
STRIP_PIXELS = 2_600_000
#: Rows of a strip, fewest and most.
FEWEST, MOST = 64, 512
#: Area in mm² under which a matter is not worth a word.
LEAST_AREA = {
    Matter.WHITE_BARE: 0.02, Matter.WHITE_CHOKED: 0.02, Matter.COLOUR_BARE: 0.1,
    Matter.COLOUR_CHOKED: 0.05, Matter.HIDDEN: 0.5, Matter.LOOKS_OUT: 0.1,
    Matter.OVER_TOTAL: 0.1, Matter.OVER_FILM: 0.1, Matter.STROKE: 0.01, Matter.GAP: 0.01,
    Matter.BEYOND: 0.5, Matter.SOFT: 0.5, Matter.LIKE_SURFACE: 0.5,
}  # fmt: skip


@dataclass(frozen=True, eq=False)
class _Looked:
    """What a strip gave: sums of its plates and of what it shows, and marked cells."""

    sums: tuple[int, ...]
    shape: int
    white: int
    colour: int
    cells: tuple[Cells, ...]
    edge: npt.NDArray[np.float32]


def survey_of(
    of: Subject,
    report: Report = unwatched,
    *,
    threads: int = WORKERS,
    keep: Callable[[int, list[Plate]], None] | None = None,
) -> Survey:
    """Look at all of a print.

    Parameters
    ----------
    of : the print
    report : told the share that is done, 0 to 1; may raise Cancelled
    threads : that look at strips side by side
    keep : is given the plates of each strip and its first row, from any thread

    Returns
    -------
    What was found. It does not depend on how the print is cut into strips.

    Raises
    ------
    Cancelled
        If ``report`` does.
    BadInput
        If a file cannot be read.
    """
    width, height = of.separation.size
    if of.is_blank:
        sums = (0,) * of.separation.count
        return Survey(of.grid, (width, height), of.exact, sums, (), 0.0, 0.0, 0.0)
    step = _rows(of, width)
    halo, probe = halo_of(of), EdgeProbe(of)
    starts = range(0, height, step)

    done: list[_Looked] = []

    def told() -> None:
        report(len(done) / len(starts))

    def one(start: int) -> _Looked:
        strip = Strip(of, start, min(height, start + step), halo)
        looked = _look(strip, probe, told)
        if keep is not None:
            keep(start, [strip.own(plate) for plate in strip.plates])
        return looked

    with closing(in_order(one, starts, threads=threads if len(starts) > 1 else 1)) as parts:
        for part in parts:
            done.append(part)
            told()
    cells = [cell for part in done for cell in part.cells] + list(probe.cells())
    marks = marks_of(cells, of.grid, of.canvas.millimetres, lambda m: LEAST_AREA.get(m, 0.0))
    cut = cut_off(of)
    pixel = 1.0 / (255.0 * of.grid.per_mm_x * of.grid.per_mm_y)
    return Survey(
        grid=of.grid,
        size=(width, height),
        exact=of.exact,
        sums=tuple(map(sum, zip(*(part.sums for part in done), strict=True))),
        marks=(*marks, cut) if cut is not None else marks,
        shape=sum(part.shape for part in done) * pixel,
        white=sum(part.white for part in done) * pixel,
        colour=sum(part.colour for part in done) * pixel,
        on_edge=probe.on_edge,
        edge=_told(np.concatenate([part.edge for part in done])),
    )


def _told(table: npt.NDArray[np.float32]) -> npt.NDArray[np.float32]:
    if not len(table):
        return table
    kept = telling(Edge(table[:, :2].astype(np.float64), table[:, 2:].astype(np.float64)))
    return np.hstack([kept.places, kept.outward]).astype(np.float32)


def _rows(of: Subject, width: int) -> int:
    """Rows of a strip: whole cells, and as many as memory is given."""
    cell = cell_size(of.grid)[1]
    wanted = min(MOST, max(FEWEST, STRIP_PIXELS // max(1, width)))
    return cell * max(1, round(wanted / cell))


def _look(strip: Strip, probe: EdgeProbe, told: Callable[[], None]) -> _Looked:
    probe.look(strip)
    cells: list[Cells] = []
    for look in LOOKS:
        # Who no longer wants it need not wait for all of a strip.
        told()
        cells += (cell for cell in look(strip) if cell is not None)
    return _Looked(
        sums=tuple(int(cv2.sumElems(strip.own(plate))[0]) for plate in strip.plates),
        shape=int(cv2.sumElems(strip.own(strip.shape))[0]),
        white=int(cv2.sumElems(strip.own(strip.white))[0]),
        colour=int(cv2.sumElems(strip.own(strip.colour))[0]),
        cells=tuple(cells),
        edge=edge_points(strip),
    )
