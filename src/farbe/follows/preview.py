"""The picture of one print, as it follows from a job."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from functools import lru_cache, partial
from typing import Any

import numpy as np

from farbe.apart.ahead import ahead
from farbe.apart.leisure import at_leisure
from farbe.art.artwork import Artwork, Pixels
from farbe.checks.check import CheckPlace
from farbe.files.store import ArtStore
from farbe.follows.foresight import foresee
from farbe.layout.faced import Faced
from farbe.layout.forplates import PrintForPlates, print_for_plates
from farbe.layout.frame import sampling_grid
from farbe.layout.laid import allotted
from farbe.layout.prints import PocketPrint, one_print
from farbe.model.artwork import PageBox
from farbe.optics.view import look_of
from farbe.render.glimpse import Box, Glimpse, PrintPart, glimpse, part_of
from farbe.render.piece import piece_separation
from farbe.render.raster import Report
from farbe.separate.grid import Grid

#: Pixels along the longer side of the piece's picture.
PREVIEW = 900
#: The same of the picture that comes first.
COARSE = 220


@dataclass(frozen=True)
class FileOffers:
    """What an artwork's file offers to choose from."""

    pages: int = 1
    boxes: tuple[PageBox, ...] = ()
    layers: tuple[tuple[str, bool], ...] = ()
    groups: tuple[str, ...] = ()
    is_page: bool = False

    @staticmethod
    def of(art: Artwork) -> FileOffers:
        """What a file offers from which an artwork was read.

        Parameters
        ----------
        art : that was read
        """
        return FileOffers(art.pages, art.boxes, art.layers, art.groups, bool(art.boxes))


@dataclass(frozen=True)
class WantedPrint:
    """The print of a job's pocket that is to be shown.

    Attributes
    ----------
    what : is printed
    of : the job as if all its pockets printed that
    plates : all that its plates depend on
    """

    job: Faced
    what: PocketPrint
    of: Faced
    plates: PrintForPlates


@dataclass(frozen=True, eq=False, kw_only=True)
class Drawn(PrintPart):
    """A whole piece on a grid for the screen; ``coarse`` ones are soon followed by a finer."""

    coarse: bool


@dataclass(frozen=True, eq=False, kw_only=True)
class Picture(Drawn):
    """The same with its look.

    Attributes
    ----------
    look : how it looks to its reader by day, sRGB uint8 (h, w, 3), not to be written to
    offers : what the file of its artwork offers
    """

    look: Pixels
    offers: FileOffers

    def of(self, wanted: WantedPrint) -> Preview:
        """The same with the jobs that it shows, which need not come with it.

        Parameters
        ----------
        wanted : what it is the picture of
        """
        return Preview(**_parts(self, Picture), job=wanted.of, made_for=wanted.plates)


@dataclass(frozen=True, eq=False, kw_only=True)
class Preview(Picture, Glimpse):
    """A picture, and what it was made for: it holds for all jobs that print this."""

    made_for: PrintForPlates


def _parts(of: PrintPart, kind: type[PrintPart]) -> dict[str, Any]:
    return {part.name: getattr(of, part.name) for part in fields(kind)}


#: The last one, and the last coarse one, with its look: the next one mostly differs little from it.
_FORMER: dict[bool, tuple[Glimpse, Pixels]] = {}


@lru_cache(maxsize=8)
def wanted_print(job: Faced, pocket: int) -> WantedPrint:
    """What a pocket prints, or the first one if it prints nothing.

    Parameters
    ----------
    job : as one of its faces has it
    pocket : its number
    """
    what = print_at(job, pocket)
    return WantedPrint(job, what, one_print(job, what), print_for_plates(job, what))


def print_at(job: Faced, pocket: int) -> PocketPrint:
    """The print of a pocket; the first one's, if it prints nothing.

    Parameters
    ----------
    job : as one of its faces has it
    pocket : its number
    """
    prints = allotted(job).prints
    first = next(iter(prints.values()), PocketPrint(job.artwork, job.placing, ()))
    return prints.get(pocket, first)


def preview_of(
    job: Faced, pocket: int, store: ArtStore, report: Report, *, coarse: bool = False
) -> Picture:
    """The picture of what a pocket prints; see :func:`wanted_print`.

    Parameters
    ----------
    job : as one of its faces has it
    pocket : its number
    store : of the job's files
    report : is told how far it is
    coarse : the small one that comes first

    Raises
    ------
    BadInput
        If a file cannot be read.
    """
    of = one_print(job, print_at(job, pocket))
    grid = sampling_grid(of, COARSE if coarse else PREVIEW)
    separation = piece_separation(of, store, grid, as_read=True)
    former = _FORMER.get(coarse)
    rows = _LooksOfRows(former)
    whole = part_of(
        of, store, replace(separation, kept=True), None, exact=not coarse, take=rows.take
    )
    report(0.5)
    drawn = Drawn(**_parts(whole, PrintPart), coarse=coarse)
    if not coarse:
        # While its look is made.
        ahead(drawn)
    look = rows.look(whole)
    if not coarse and former is not None:
        at_leisure(partial(foresee, of, former[0].job, store, (grid, sampling_grid(of, COARSE))))
    _FORMER[coarse] = whole, look
    offers = FileOffers.of(separation.placed.artwork)
    return Picture(**_parts(drawn, Drawn), look=look, offers=offers)


class _LooksOfRows:
    """The look of a print, made by rows as soon as their plates are there.

    Where the artwork is another, most plates are, too: to send them takes longer than their look,
    which is made meanwhile.

    Parameters
    ----------
    before : another print with its look, which mostly differs little
    """

    def __init__(self, before: tuple[Glimpse, Pixels] | None) -> None:
        self._before, self._made = before, dict[int, tuple[Pixels, bool]]()

    def take(self, top: int, part: Glimpse) -> None:
        """Rows with all their plates; any thread may bring them."""
        if self._before is None:
            return
        before, shown = _rows(*self._before, top, len(part.artwork))
        if part.artwork.ctypes.data == before.artwork.ctypes.data:
            look = look_of(part, (before, shown))
            self._made[top] = look, look is shown

    def look(self, whole: Glimpse) -> Pixels:
        """Of the whole, whose rows may have been brought."""
        if self._before is None or not self._made:
            return look_of(whole, self._before)
        if all(same for _, same in self._made.values()):
            return self._before[1]
        looks = [look for _, (look, _) in sorted(self._made.items())]
        return looks[0] if len(looks) == 1 else np.concatenate(looks)


def _rows(part: Glimpse, look: Pixels, top: int, count: int) -> tuple[Glimpse, Pixels]:
    """Rows of a part and its look."""
    own, (x, y) = slice(top, top + count), part.corner
    plates, artwork = [plate[own] for plate in part.plates], part.artwork[own]
    return replace(part, plates=plates, artwork=artwork, corner=(x, y - top)), look[own]


def part_near(job: Faced, box: Box, grid: Grid, store: ArtStore, report: Report) -> Glimpse:
    """A part of the first artwork's print on a finer grid than the picture's.

    Parameters
    ----------
    job : as one of its faces has it
    box : of the part
    grid : on which it is seen
    store : of the job's files
    report : is told how far it is

    Raises
    ------
    BadInput
        If a file cannot be read.
    """
    report(0.0)
    return glimpse(job, store, grid, box)


def detail_of(
    job: Faced, what: PocketPrint, store: ArtStore, place: CheckPlace, report: Report
) -> Glimpse:
    """The output pixels around a place of a finding.

    Parameters
    ----------
    job : as one of its faces has it
    what : the pocket prints
    store : of the job's files
    place : of the finding
    report : is told how far it is

    Raises
    ------
    BadInput
        If a file cannot be read.
    """
    grid = Grid(job.printer.dpi_x, job.printer.dpi_y)
    return part_near(one_print(job, what), around(place, grid), grid, store, report)


#: Output pixels along a side of what is shown around a place, fewest and most.
FEWEST_PIXELS, MOST_PIXELS = 60, 150


def around(place: CheckPlace, grid: Grid) -> Box:
    """A place with some room around it, so that its output pixels can be told.

    Parameters
    ----------
    place : of a finding
    grid : of the output
    """
    least, most = FEWEST_PIXELS / grid.per_mm_x, MOST_PIXELS / grid.per_mm_x
    width = min(most, max(least, 1.6 * place.width))
    height = min(most, max(least, 1.6 * place.height))
    x, y = place.left + place.width / 2, place.bottom + place.height / 2
    if width < place.width or height < place.height:
        # Of a large place, where most of it is.
        x, y = place.x, place.y
    return Box(x - width / 2, y - height / 2, width, height)
