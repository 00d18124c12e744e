"""The cutting file of a jig: closed lines and figures on a page of the bed's size, in mm."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
from shapely import STRtree
from shapely.geometry import LinearRing, Polygon, box

from farbe.layout.beside import share_a_board
from farbe.layout.carrier import Base, carrier_of
from farbe.layout.faced import Faced
from farbe.layout.guide import jig_code
from farbe.layout.laid import laid
from farbe.layout.lettering import set_line, shipped_font
from farbe.layout.outline import corners
from farbe.layout.pocketcuts import PocketCut, pin_holes, pocket_cuts
from farbe.model.text import TypeFace
from farbe.said import say

FIGURES = 4.0
#: Smaller ones, where pockets leave little room; and how far figures stand off, in mm.
HEIGHTS, STAND_OFF = (FIGURES, 2.4, 1.6), 0.5
#: Width of a figure in heights of it, about.
WIDE = 0.8
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
        if any(share_a_board(other, one) for one in (job, *others[: number - 2])):
            # All pockets of the board are there.
            continue
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
    base, cuts, pins = one.base(job), pocket_cuts(job), pin_holes(job)
    code = CutText(f"{job.jig.name}  {jig_code(job)}", base.x + 4.0, base.y + 3.0, FIGURES)
    texts = _numbers(job, cuts, pins, base) if job.guide.numbers else ()
    width, height = one.size(job)
    half = job.cutting.kerf / 2
    return CutPage(
        title=job.jig.name,
        width=width,
        height=height,
        lines=(
            ("board", _edge(base) + half * np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)])),
            *((f"pocket-{cut.number}", corners(cut.line)) for cut in cuts),
            *((f"pin-{number}", corners(pin)) for number, pin in enumerate(pins, start=1)),
        ),
        texts=(*texts, code),
    )


def _numbers(
    job: Faced, cuts: Sequence[PocketCut], pins: Sequence[Polygon], base: Base
) -> tuple[CutText, ...]:
    """Each pocket's number beside it, where nothing is cut; none where there is no such place."""
    board = box(base.x, base.y, base.x + base.width, base.y + base.height)
    bed = box(0, 0, *carrier_of(job).size(job))
    taken = [cut.opening for cut in cuts] + list(pins)
    tree, found, off = STRtree(taken), list[CutText](), STAND_OFF
    set_already: list[Polygon] = []
    for cut in cuts:
        text, (left, bottom, right, top) = str(cut.number), cut.opening.bounds
        # Jobs beside each other may share a board that is none of theirs.
        around = board if board.contains(cut.opening) else bed
        for high in HEIGHTS:
            wide = WIDE * high * len(text)
            places = (
                (left, top + off), (right - wide, top + off), (left, bottom - off - high),
                (right - wide, bottom - off - high), (left - off - wide, top - high),
                (right + off, top - high),
            )  # fmt: skip
            free = next(
                (
                    (x, y) for x, y in places
                    for there in (box(x, y, x + wide, y + high),)
                    if around.contains(there) and not len(tree.query(there, predicate="intersects"))
                    and not any(there.intersects(other) for other in set_already[-40:])
                ),
                None,
            )  # fmt: skip
            if free is not None:
                set_already.append(box(*free, free[0] + wide, free[1] + high))
                found.append(CutText(text, *free, high))
                break
    return tuple(found)


def figure_lines(text: CutText) -> tuple[CutLine, ...]:
    """Figures as closed outlines, so that no cutter needs a font.

    Parameters
    ----------
    text : its place and height in mm

    Returns
    -------
    Corners in mm, float64 (n, 2) each.
    """
    line = set_line(text.text, shipped_font(TypeFace.MEDIUM))
    rings = (ring for glyph in line.glyphs for ring in glyph)
    return tuple(ring * text.height + (text.x, text.y) for ring in rings)


def layer_of(name: str) -> str:
    """Which layer of a cutting file a line is on.

    Parameters
    ----------
    name : of the line
    """
    kind = name.split("-")[0]
    return {"pocket": "POCKETS", "pin": "PINS", "piece": "PIECES"}.get(kind, "BOARD")


def line_words(name: str) -> str:
    """What a line is called in a sentence.

    Parameters
    ----------
    name : of the line
    """
    kind, _, number = name.partition("-")
    if kind == "pocket":
        return say("pocket {number}", number=number)
    if kind == "pin":
        return say("pin {number}", number=number)
    return say("the board's edge")


def crossing(page: CutPage) -> tuple[str, str, float, float] | None:
    """The first two lines of a page that cross, and where, in mm; None if none do.

    Parameters
    ----------
    page : of a jig
    """
    lines = [LinearRing(line) for _, line in page.lines]
    tree = STRtree(lines)
    pairs = tree.query(lines, predicate="intersects").T
    for one, other in sorted((a, b) for a, b in pairs.tolist() if a < b):
        place = lines[one].intersection(lines[other]).representative_point()
        return page.lines[one][0], page.lines[other][0], place.x, place.y
    return None
