"""The cutting file of a jig: closed lines and figures on a page of the bed's size, in mm."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from farbe.layout.bedframe import board_on_bed
from farbe.layout.faced import Faced
from farbe.layout.frame import printer_frame
from farbe.layout.guide import cut_line, jig_code
from farbe.layout.outline import corners
from farbe.layout.pockets import piece_on_bed, used_pockets
from farbe.layout.prints import alone

FIGURES = 4.0
#: Corners in mm, float64 (n, 2); the last joins the first.
Line = npt.NDArray[np.float64]


@dataclass(frozen=True)
class CutText:
    """Figures to engrave, their lower left corner and height in mm."""

    text: str
    x: float
    y: float
    height: float


@dataclass(frozen=True)
class CutPage:
    """What every cutting file shows: y up, (0, 0) at the bed's near left corner.

    Attributes
    ----------
    lines : name and corners, float64 (n, 2), of closed lines to cut
    """

    title: str
    width: float
    height: float
    lines: tuple[tuple[str, Line], ...]
    texts: tuple[CutText, ...]


def cut_page(
    job: Faced, *others: Faced, shapes: Mapping[str, tuple[Line, ...]] | None = None
) -> CutPage:
    """The board's edge, a line for each pocket that is on, its number, and the jig's code.

    Other jobs may share the bed; theirs are beside. ``shapes`` are the lines along which artworks
    on a film are cut apart, by digest, in mm around the artwork's middle, y up, as it is printed;
    what is not in them is cut around its rectangle.
    """
    page = _job_page(job, shapes or {})
    for number, other in enumerate(others, start=2):
        more = _job_page(other, {})
        lines = tuple((f"{name}-of-{number}", line) for name, line in more.lines)
        page = replace(page, lines=(*page.lines, *lines), texts=(*page.texts, *more.texts))
    return page


def turned_line(line: Line, degrees: float) -> Line:
    """A line turned anticlockwise around (0, 0)."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    x, y = line.T
    return np.stack([x * c - y * s, x * s + y * c], axis=1)


def _film_page(job: Faced, shapes: Mapping[str, tuple[Line, ...]]) -> CutPage:
    """The film's edge and the edge of every piece on it, to be cut apart; no clearance, no kerf."""
    frame = printer_frame(job)
    film = np.array([(0, 0), (frame.width, 0), (frame.width, frame.height), (0, frame.height)])
    lines = [("film", film.astype(np.float64))]
    for place in used_pockets(job):
        lies = job.roll.places[place.number - 1] if job.roll is not None else None
        if lies is not None and lies.artwork in shapes:
            edges = [turned_line(line, lies.turned) for line in shapes[lies.artwork]]
        else:
            edges = [corners(piece_on_bed(alone(job, place.number)))]
        for part, edge in enumerate(edges):
            name = f"piece-{place.number}" + (f"-{part + 1}" if part else "")
            lines.append((name, edge + np.array((place.x, place.y))))
    return CutPage(job.name, frame.width, frame.height, tuple(lines), ())


def _job_page(job: Faced, shapes: Mapping[str, tuple[Line, ...]]) -> CutPage:
    if job.roll is not None:
        return _film_page(job, shapes)
    piece = piece_on_bed(job)
    line = corners(cut_line(job.cutting, piece))
    left, bottom, right, top = board_on_bed(job.jig.board, job.jig.datum, job.printer)
    board = np.array([(left, bottom), (right, bottom), (right, top), (left, top)])
    used = used_pockets(job)
    wide, _, _, high = piece.bounds
    texts = [
        CutText(str(p.number), p.x + wide, p.y + high + job.cutting.clearance + 1.0, FIGURES)
        for p in used
        if job.guide.numbers
    ]
    code = CutText(f"{job.jig.name}  {jig_code(job)}", left + 4.0, bottom + 3.0, FIGURES)
    return CutPage(
        title=job.jig.name,
        width=job.printer.bed_width,
        height=job.printer.bed_height,
        lines=(
            ("board", board),
            *((f"pocket-{p.number}", line + np.array((p.x, p.y))) for p in used),
        ),
        texts=(*texts, code),
    )
