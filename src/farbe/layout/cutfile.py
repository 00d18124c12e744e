"""The cutting file of a jig: closed lines and figures on a page of the bed's size, in mm."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from farbe.layout.carrier import Base, carrier_of
from farbe.layout.faced import Faced
from farbe.layout.guide import cut_line, jig_code
from farbe.layout.laid import laid
from farbe.layout.outline import corners

FIGURES = 4.0
#: Corners in mm, float64 (n, 2); the last joins the first.
CutLine = npt.NDArray[np.float64]


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
    lines: tuple[tuple[str, CutLine], ...]
    texts: tuple[CutText, ...]


def cut_page(
    job: Faced, *others: Faced, shapes: Sequence[Mapping[str, tuple[CutLine, ...]]] = ()
) -> CutPage:
    """The board's edge, a line for each pocket that is on, its number, and the jig's code.

    Other jobs may share the bed; theirs are beside. ``shapes`` are for each job the lines along
    which artworks on its film are cut apart, by digest, in mm around the artwork's middle, y up,
    as it is printed; what is not in them is cut around its rectangle.

    Parameters
    ----------
    job : as one of its faces has it
    others : jobs that share the bed
    shapes : for each job its cut lines by digest, float64 (n, 2) in mm each

    Returns
    -------
    All in mm.
    """
    own = (*shapes, *({} for _ in (job, *others)))
    page = _job_page(job, own[0])
    for number, other in enumerate(others, start=2):
        more = _job_page(other, own[number - 1])
        lines = tuple((f"{name}-of-{number}", line) for name, line in more.lines)
        page = replace(page, lines=(*page.lines, *lines), texts=(*page.texts, *more.texts))
    return page


def turned_line(line: CutLine, degrees: float) -> CutLine:
    """A line turned anticlockwise around (0, 0).

    Parameters
    ----------
    line : corners in mm, float64 (n, 2)
    degrees : anticlockwise

    Returns
    -------
    float64 (n, 2), mm
    """
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    x, y = line.T
    return np.stack([x * c - y * s, x * s + y * c], axis=1)


def _edge(base: Base) -> CutLine:
    """The edge of what lies under the pieces."""
    right, top = base.x + base.width, base.y + base.height
    return np.array([(base.x, base.y), (right, base.y), (right, top), (base.x, top)], np.float64)


def _sheet_page(job: Faced, shapes: Mapping[str, tuple[CutLine, ...]]) -> CutPage:
    """The sheet's edge and that of every piece on it, to be cut apart; no clearance, no kerf."""
    one = carrier_of(job)
    width, height = one.size(job)
    lines = [(one.thing, _edge(one.base(job)))]
    uncut = dict[int, CutLine]()
    for piece in laid(job):
        art = piece.what.artwork if piece.what is not None else None
        if art is not None and art.key in shapes:
            turned = piece.what.turned or 0 if piece.what is not None else 0
            edges = [turned_line(line, turned) for line in shapes[art.key]]
        else:
            if piece.form not in uncut:
                uncut[piece.form] = corners(piece.outline)
            edges = [uncut[piece.form]]
        for part, edge in enumerate(edges):
            name = f"piece-{piece.shown}" + (f"-{part + 1}" if part else "")
            lines.append((name, edge + np.array((piece.x, piece.y))))
    return CutPage(job.name, width, height, tuple(lines), ())


def _job_page(job: Faced, shapes: Mapping[str, tuple[CutLine, ...]]) -> CutPage:
    one = carrier_of(job)
    if one.one_sheet:
        return _sheet_page(job, shapes)
    base, used = one.base(job), laid(job)
    cut: dict[int, CutLine] = {}
    for p in used:
        if p.form not in cut:
            cut[p.form] = corners(p.around(cut_line(job.cutting, p.straight)))
    texts = [
        CutText(str(p.shown), p.x + p.outline.bounds[0],
                p.y + p.outline.bounds[3] + job.cutting.clearance + 1.0, FIGURES)
        for p in used
        if job.guide.numbers
    ]  # fmt: skip
    code = CutText(f"{job.jig.name}  {jig_code(job)}", base.x + 4.0, base.y + 3.0, FIGURES)
    width, height = one.size(job)
    return CutPage(
        title=job.jig.name,
        width=width,
        height=height,
        lines=(
            ("board", _edge(base)),
            *((f"pocket-{p.shown}", cut[p.form] + np.array((p.x, p.y))) for p in used),
        ),
        texts=(*texts, code),
    )
