"""Whose piece lies where: rows of the run sheet, and labels for pieces."""

from __future__ import annotations

import io
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from farbe.art.artwork import Pixels
from farbe.atomic import whole_file
from farbe.files.pagepath import path_of
from farbe.files.paper import Paper
from farbe.layout.faced import Faced
from farbe.layout.laid import different, laid
from farbe.layout.lettering import in_one_line, set_box, shipped_font
from farbe.layout.prints import one_print
from farbe.model.placing import Across
from farbe.model.text import CodeKind, TextBox, TypeFace
from farbe.optics.proof import proof_picture
from farbe.render.raster import Report, unwatched
from farbe.render.sources import Sources
from farbe.said import say

MM = 72 / 25.4
PLAIN, BOLD = "Helvetica", "Helvetica-Bold"
#: Pixels of a small picture's longer side.
SMALL = 160
#: Mm of a label, and of what stays free in it.
LABEL_WIDE, LABEL_HIGH, LABEL_FREE = 63.0, 33.0, 2.5


@dataclass(frozen=True)
class PickRow:
    """Whose piece a place has.

    Attributes
    ----------
    number : of the place, as guide and ticket say it
    place : its own number, from 1
    order : the order's number
    note : what is to be told with it
    words : that are printed on it
    """

    number: int
    place: int
    order: str
    note: str
    words: str


def pick_rows(job: Faced) -> tuple[PickRow, ...]:
    """Whose piece lies in each place of a job that prints for several orders.

    Parameters
    ----------
    job : as one of its faces has it

    Returns
    -------
    In the order of the places; none for a job of one order.
    """
    picks = {pick.number: pick for pick in job.job.picks}
    return tuple(
        PickRow(
            piece.shown, piece.number, picks[piece.number].order, picks[piece.number].note,
            "; ".join(in_one_line(box.text) for box in piece.what.texts) if piece.what else "",
        )
        for piece in laid(job)
        if piece.number in picks
    )  # fmt: skip


def small_pictures(
    job: Faced, sources: Sources, report: Report = unwatched
) -> Mapping[int, Pixels]:
    """A small picture of what each place prints.

    Parameters
    ----------
    job : as one of its faces has it
    sources : pixels, fonts and profiles
    report : told the share that is done, 0 to 1

    Returns
    -------
    sRGB uint8 (h, w, 3) by the place's own number; places that print the same have the same.
    """
    found: dict[int, Pixels] = {}
    prints = different(job)
    for at, (what, numbers) in enumerate(prints):
        picture = proof_picture(one_print(job, what), sources, pixels=SMALL)
        found |= dict.fromkeys(numbers, picture)
        report((at + 1) / len(prints))
    return found


def draw_words(
    page: Canvas, x: float, y: float, words: str, size: float, *, font: str = PLAIN,
    wide: float = 1e4,
) -> None:  # fmt: skip
    """Words at a place of a page; those that its plain fonts lack are drawn as outlines.

    Parameters
    ----------
    page : that is drawn on
    x, y : where the first letter stands, in points
    words : in any language
    size : of the letters, in points
    font : one of those that every PDF reader has
    wide : points that they may take; they are drawn smaller if they need more
    """
    try:
        words.encode("cp1252")
    except UnicodeEncodeError:
        face = TypeFace.BOLD if font == BOLD else TypeFace.REGULAR
        high = size * 0.72
        box = TextBox(
            text=words, x=min(wide, 1e4) / 2, y=high / 2, width=min(wide, 1e4), height=high,
            size=high, across=Across.LEFT, face=face,
        )  # fmt: skip
        _draw_rings(page, x, y, box)
        return
    taken = page.stringWidth(words, font, size)
    page.setFont(font, size * min(1.0, wide / taken) if taken else size)
    page.drawString(x, y, words)


def draw_code(page: Canvas, x: float, y: float, side: float, words: str) -> None:
    """A QR code with its quiet zone.

    Parameters
    ----------
    page : that is drawn on
    x, y : its lower left corner, in points
    side : in points
    words : that it says
    """
    box = TextBox(text=words, x=side / 2, y=side / 2, width=side, height=side, code=CodeKind.QR)
    _draw_rings(page, x, y, box)


def _draw_rings(page: Canvas, x: float, y: float, box: TextBox) -> None:
    face = box.face if box.code is None else TypeFace.MEDIUM
    rings = (ring for part in set_box(box, shipped_font(face)) for ring in part)
    page.drawPath(path_of(page, rings, x, y), stroke=0, fill=1, fillMode=0)


def draw_picture(page: Canvas, x: float, y: float, side: float, picture: Pixels) -> None:
    """A picture in the middle of a square.

    Parameters
    ----------
    page : that is drawn on
    x, y : the square's lower left corner, in points
    side : of the square, in points
    picture : sRGB uint8 (h, w, 3)
    """
    high, wide = picture.shape[:2]
    scale = side / max(high, wide)
    page.drawImage(
        ImageReader(Image.fromarray(picture)), x + (side - wide * scale) / 2,
        y + (side - high * scale) / 2, wide * scale, high * scale,
    )  # fmt: skip


def write_labels(
    job: Faced, pictures: Mapping[int, Pixels], path: Path, paper: Paper = Paper.A4
) -> int:
    """Write a label for each piece of a load: whose it is, in words and as a code.

    Parameters
    ----------
    job : as one of its faces has it
    pictures : of what places print, by their own numbers
    path : of the new PDF
    paper : on which labels lie in three columns

    Returns
    -------
    How many there are.

    Raises
    ------
    BadInput
        If the file cannot be written.
    """
    out = io.BytesIO()
    page = Canvas(out, pagesize=paper.points, invariant=True)
    page.setTitle(say("Labels: {job}", job=job.name))
    columns = int(paper.points[0] // (LABEL_WIDE * MM))
    rows = int((paper.points[1] - 10 * MM) // (LABEL_HIGH * MM))
    left = (paper.points[0] - columns * LABEL_WIDE * MM) / 2
    top = (paper.points[1] + rows * LABEL_HIGH * MM) / 2
    listed = pick_rows(job)
    for at, row in enumerate(listed):
        if at and at % (columns * rows) == 0:
            page.showPage()
        line, column = divmod(at % (columns * rows), columns)
        x, y = left + column * LABEL_WIDE * MM, top - (line + 1) * LABEL_HIGH * MM
        _label(page, x, y, row, job.name, pictures.get(row.place))
    page.save()
    with whole_file(path) as file:
        file.write(out.getvalue())
    return len(listed)


def _label(
    page: Canvas, x: float, y: float, row: PickRow, job: str, picture: Pixels | None
) -> None:
    free, high = LABEL_FREE * MM, LABEL_HIGH * MM
    side = high - 2 * free
    if picture is not None:
        draw_picture(page, x + free, y + high - free - 0.6 * side, 0.6 * side, picture)
    draw_code(page, x + free, y + free, 0.4 * side, row.order)
    left = x + free + 0.6 * side + free
    wide = x + LABEL_WIDE * MM - free - left
    draw_words(page, left, y + high - free - 11, row.order, 13, font=BOLD, wide=wide)
    lines = [(row.words, 9.0), (row.note, 8.0), (job, 7.0), (say("Place {number}",
             number=row.number), 7.0)]  # fmt: skip
    at = y + high - free - 25
    for words, size in lines:
        if words:
            draw_words(page, left, at, words, size, wide=wide)
            at -= size + 4
