"""The pages of a run's PDF: the whole bed, or a page for each piece; with what is cut."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from farbe.art.artwork import Pixels
from farbe.estimate.runs import Run
from farbe.files.pdf import PdfPage
from farbe.files.pdfmarks import CutLine, CutMarks, corner_marks
from farbe.layout.carrier import carrier_of
from farbe.layout.cutfile import cut_page
from farbe.layout.faced import Faced
from farbe.layout.laid import LaidPiece, printed
from farbe.model.job import Again
from farbe.plan.order import mirrored
from farbe.render.cutlines import cut_lines
from farbe.render.raster import ChannelInfo, Raster, some_channels
from farbe.render.shared import artwork_bed
from farbe.render.sources import Sources
from farbe.separate.grid import Grid


@dataclass(frozen=True, eq=False)
class Window:
    """A part of a raster, in its pixels; beyond its edges there is nothing."""

    whole: Raster
    left: int
    top: int
    width: int
    height: int

    @property
    def size(self) -> tuple[int, int]:
        return self.width, self.height

    @property
    def grid(self) -> Grid:
        return self.whole.grid

    @property
    def channels(self) -> tuple[ChannelInfo, ...]:
        return self.whole.channels

    def rows(self, start: int, stop: int) -> Pixels | None:
        """Rows of the part; see :class:`Raster`.

        Parameters
        ----------
        start : first row
        stop : row after the last
        """
        wide, high = self.whole.size
        first, last = max(0, self.top + start), min(high, self.top + stop)
        left, right = max(0, self.left), min(wide, self.left + self.width)
        rows = self.whole.rows(first, last) if first < last and left < right else None
        if rows is None:
            return None
        made = np.zeros((stop - start, self.width, len(self.channels)), np.uint8)
        at = first - self.top - start
        made[at : at + len(rows), left - self.left : right - self.left] = rows[:, left:right]
        return made if made.any() else None


def pdf_pages(
    run: Run, channels: tuple[ChannelInfo, ...], bed: Raster, sources: Sources
) -> tuple[PdfPage, ...]:
    """The pages that a run's receiver wants; none are wanted of a bed with nothing to cut.

    Parameters
    ----------
    run : artwork, or a guide, which is always the whole bed
    channels : of the file
    bed : of the run
    sources : pixels, fonts and profile
    """
    wanted = run.job.receiver.pdf
    if run.is_guide or not (wanted.pieces or wanted.cut):
        return ()
    lines = _lines(run, sources) if wanted.cut else {}
    if not wanted.pieces:
        width, height = (side * 25.4 / dpi for side, dpi in
                         zip(bed.size, (bed.grid.dpi_x, bed.grid.dpi_y), strict=True))  # fmt: skip
        every = [line for some in lines.values() for line in some]
        marks = corner_marks(every, width, height) if wanted.cutter_marks else ()
        return (PdfPage(some_channels(bed, channels), cut=CutMarks(every, marks)),)
    return _piece_pages(run, channels, lines, sources)


def _lines(run: Run, sources: Sources) -> dict[int, list[CutLine]]:
    """Closed lines around the pieces, by their shown numbers, mm from the file's lower left."""
    jobs = run.jobs
    page = cut_page(*jobs, shapes=[cut_lines(job, sources) for job in jobs])
    found: dict[int, list[CutLine]] = {}
    flips = run.job.receiver.mirrors and mirrored(run.job.reader)
    for name, line in page.lines:
        # Pockets are cut into the board; what is printed there was cut before.
        if name.startswith("piece-"):
            number = int(name.split("-")[1])
            own = np.array([page.width, 0.0]) + line * (-1.0, 1.0) if flips else line
            found.setdefault(number, []).append(own)
    return found


def _piece_pages(
    run: Run, channels: tuple[ChannelInfo, ...], lines: dict[int, list[CutLine]], sources: Sources
) -> tuple[PdfPage, ...]:
    """A page for each piece; those that print the same share their images."""
    found: list[PdfPage] = []
    for job in run.jobs:
        alike: dict[object, int] = {}
        for piece in printed(job):
            key = piece.form, piece.what, piece.turn
            if key in alike and not lines:
                at = alike[key]
                found[at] = replace(found[at], times=found[at].times + 1)
                continue
            alike[key] = len(found)
            found.append(_piece_page(job, piece, channels, lines.get(piece.shown, []), sources))
    return tuple(found)


def _piece_page(
    job: Faced,
    piece: LaidPiece,
    channels: tuple[ChannelInfo, ...],
    lines: list[CutLine],
    sources: Sources,
) -> PdfPage:
    alone = Faced(job.job.replace(again=Again(numbers=(piece.number,))), job.number)
    bed = some_channels(artwork_bed((alone,), sources), channels)
    marks = job.marks.distance + job.marks.length if job.marks.trim else 0.0
    margin = max(job.bleed, marks) + 1.0
    x, y = _in_file(job, piece)
    wide, high = piece.size
    across, up = bed.grid.dpi_x / 25.4, bed.grid.dpi_y / 25.4
    left = int(np.floor((x - wide / 2 - margin) * across))
    right = int(np.ceil((x + wide / 2 + margin) * across))
    tall = bed.size[1]
    top = int(np.floor(tall - (y + high / 2 + margin) * up))
    bottom = int(np.ceil(tall - (y - high / 2 - margin) * up))
    # Where the page's lower left corner is, in mm of the bed.
    at = left / across, (tall - bottom) / up
    trim = (x - wide / 2 - at[0], y - high / 2 - at[1], x + wide / 2 - at[0], y + high / 2 - at[1])
    cut = None
    if lines:
        own = [line - np.array(at) for line in lines]
        size = (right - left) / across, (bottom - top) / up
        wanted = job.receiver.pdf.cutter_marks
        cut = CutMarks(own, corner_marks(own, *size) if wanted else ())
    return PdfPage(
        Window(bed, left, top, right - left, bottom - top), trim=trim, bleed=job.bleed, cut=cut
    )


def _in_file(job: Faced, piece: LaidPiece) -> tuple[float, float]:
    """The middle of a piece in the file, mm from its lower left corner."""
    width, height = carrier_of(job).size(job)
    x, y = piece.x, piece.y
    if job.bed_turned:
        x, y = width - x, height - y
    if job.receiver.mirrors and mirrored(job.reader):
        x = width - x
    return x, y
