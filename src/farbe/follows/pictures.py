"""Pictures of the prints and artworks of a job, as fine as they are shown."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any

import cv2
import numpy as np

from farbe.art.artwork import CHANNELS, MM_PER_INCH, Artwork, Pixels
from farbe.files.store import ArtStore
from farbe.kept import Kept
from farbe.layout.faced import Faced
from farbe.layout.forplates import PrintForPlates, print_for_plates
from farbe.layout.frame import sampling_grid
from farbe.layout.laid import allotted
from farbe.layout.prints import PocketPrint, one_print
from farbe.model.artwork import ArtworkFile
from farbe.model.job import Conversion
from farbe.optics.view import View, seen_as
from farbe.render.cutlines import CutShape, cut_shapes
from farbe.render.glimpse import glimpse, shown_rgba
from farbe.render.raster import Report
from farbe.separate.grid import Grid

#: Pixels along the longer side of all stamps together, of a thumb, of a stamp that is made anew.
WHOLE, THUMB, LARGEST = 900, 200, 2000
#: Pixels that finer pictures may have together.
MOST_PIXELS = 24e6
#: A picture is fine enough with so many of the pixels that are shown of it.
ENOUGH = 0.87


@dataclass(frozen=True, eq=False)
class Stamp:
    """What the pieces with one print look like, sRGB, and its size in mm."""

    look: Pixels
    size: tuple[float, float]

    @property
    def per_mm(self) -> float:
        """Pixels to the millimetre."""
        return float(self.look.shape[1] / self.size[0])


@dataclass(frozen=True)
class Pictures:
    """What is kept of prints and artworks.

    Attributes
    ----------
    stamps : of each different print, without its texts
    thumbs : of the artworks by their keys, straight RGBA
    widths : of the artworks in pixels
    pages : of the artworks' files
    cuts : where artworks on a film are cut apart along their shapes
    """

    stamps: dict[PocketPrint, Stamp]
    thumbs: dict[str, Pixels]
    widths: dict[str, int]
    pages: dict[str, int]
    cuts: dict[str, CutShape]

    def of(self, job: Faced) -> Pictures:
        """The same, of an equal job: told by the prints of that, which are found at once.

        Parameters
        ----------
        job : that is held, in place of a copy of it
        """
        stamps = dict(zip(_plain(job), self.stamps.values(), strict=True))
        return replace(self, stamps=stamps)


@dataclass(frozen=True)
class Closer:
    """Pictures that are too coarse for how they are shown: with so many pixels they are not."""

    per_mm: float
    prints: frozenset[PocketPrint]
    thumbs: tuple[tuple[str, int], ...]


@dataclass(frozen=True)
class Finer:
    """Finer pictures in place of those that were too coarse."""

    stamps: dict[PocketPrint, Stamp]
    thumbs: dict[str, Pixels]


def pictures_of(job: Faced, store: ArtStore, report: Report) -> Pictures:
    """A picture of each different print and artwork; those of many prints are made smaller.

    Parameters
    ----------
    job : as one of its faces has it
    store : of its artworks
    report : is told how far it is
    """
    plain = _plain(job)
    grid = sampling_grid(job, max(90, round(WHOLE / max(1, len(plain)) ** 0.5)))
    found = {}
    for index, what in enumerate(plain):
        report(index / len(plain))
        found[what] = _stamp(job, store, what, grid)
    thumbs = {file.key: _small(file, job, store) for file in job.artworks}
    stated = {file.key: store.stated(file, job) for file in job.artworks}
    widths = {key: art.width for key, art in stated.items()}
    pages = {key: art.pages for key, art in stated.items()}
    cuts = cut_shapes(job, store)
    for shape in cuts.values():
        # Here, so that the window need not wait for it.
        shape.within(math.inf)
    return Pictures(found, thumbs, widths, pages, cuts)


def _plain(job: Faced) -> list[PocketPrint]:
    """The different prints without their texts."""
    return list(dict.fromkeys(what.plain for what in allotted(job).prints.values()))


#: Small pictures of artworks that were asked for last.
_THUMBS: Kept[tuple[ArtworkFile, Conversion, bytes], Pixels] = Kept(
    2000, most=64 << 20, weigh=lambda thumb: thumb.nbytes
)
#: Pictures of prints that were asked for last, by all that their plates depend on.
_STAMPS: Kept[tuple[PrintForPlates, Grid], Stamp] = Kept(
    2000, most=96 << 20, weigh=lambda stamp: stamp.look.nbytes
)


def _stamp(job: Faced, store: ArtStore, what: PocketPrint, grid: Grid) -> Stamp:
    key = print_for_plates(job, what), grid
    return _STAMPS.get(key, lambda: _stamped(job, store, what, grid))


def _stamped(job: Faced, store: ArtStore, what: PocketPrint, grid: Grid) -> Stamp:
    of = one_print(job, what)
    shape = of.piece.shape
    size = shape.width + 2 * of.bleed, shape.height + 2 * of.bleed
    return Stamp(seen_as(glimpse(of, store, grid), View()).by(0.0), size)


def _small(file: ArtworkFile, job: Faced, store: ArtStore) -> Pixels:
    # Colours of a page become ink when it is read.
    key = file.plain, job.conversion, store.profile(job)
    return _THUMBS.get(key, lambda: _thumb(store.artwork(file, job), THUMB))


def _thumb(artwork: Artwork, longest: int) -> Pixels:
    """A picture of an artwork with so many pixels along its longer side at the most."""
    seen = artwork.seen
    by = longest / max(seen.shape[:2])
    if by < 1.0:
        size = max(1, round(seen.shape[1] * by)), max(1, round(seen.shape[0] * by))
        seen = _smaller(seen, size)
    colours = CHANNELS[artwork.space]
    alpha = seen[..., -1] if artwork.has_alpha else np.full(seen.shape[:2], 255, np.uint8)
    return shown_rgba(seen[..., :colours], alpha, artwork.space)


def _smaller(pixels: Pixels, size: tuple[int, int]) -> Pixels:
    """The means of pixels; OpenCV takes four channels at a time."""
    parts = [
        cv2.resize(pixels[..., at : at + 4], size, interpolation=cv2.INTER_AREA)
        for at in range(0, pixels.shape[2], 4)
    ]
    return np.concatenate([part.reshape(*part.shape[:2], -1) for part in parts], axis=2)


def finest(
    made: Pictures,
    before: Pictures,
    stamps: Mapping[PocketPrint, Stamp],
    thumbs: Mapping[str, Pixels],
) -> tuple[dict[PocketPrint, Stamp], dict[str, Pixels]]:
    """Pictures as they were made now; finer ones of what looks as it did before stay.

    Parameters
    ----------
    made, before : as they are made first, now and the time before
    stamps, thumbs : those that are shown

    Returns
    -------
    Stamps and thumbs to be shown.
    """
    if sum(stamp.look.size // 3 for stamp in stamps.values()) > 2 * MOST_PIXELS:
        # Many parts of the bed were looked at closely one after the other.
        return made.stamps, made.thumbs
    return (
        {
            what: stamps.get(what, one) if before.stamps.get(what) is one else one
            for what, one in made.stamps.items()
        },
        {
            key: thumbs.get(key, one) if before.thumbs.get(key) is one else one
            for key, one in made.thumbs.items()
        },
    )


def the_same(some: Mapping[Any, object], others: Mapping[Any, object]) -> bool:
    """Whether two tables hold the very same pictures; what is in these is not compared.

    Parameters
    ----------
    some, others : pictures by what they are of
    """
    return len(some) == len(others) and all(others.get(key) is one for key, one in some.items())


def wanting(
    job: Faced,
    stamps: Mapping[PocketPrint, Stamp],
    thumbs: Mapping[str, Pixels],
    per_mm: float,
    prints: Iterable[PocketPrint],
    arts: Iterable[str],
) -> Closer | None:
    """Which pictures are too coarse for how they are shown; None if none is.

    Parameters
    ----------
    job : as one of its faces has it
    stamps, thumbs : those that there are
    per_mm : pixels of the screen to the millimetre
    prints : that are shown as stamps
    arts : keys of artworks that are shown as thumbs
    """
    shape, printer = job.piece.shape, job.printer
    longest = max(shape.width, shape.height) + 2 * job.bleed
    asked = frozenset(prints)
    each = (MOST_PIXELS / max(1, len(asked))) ** 0.5
    finest = min(
        per_mm, LARGEST / longest, each / longest, max(printer.dpi_x, printer.dpi_y) / MM_PER_INCH
    )
    coarse = frozenset(
        what for what in asked if what in stamps and stamps[what].per_mm < ENOUGH * finest
    )
    sizes = {art.key: max(art.width, art.height) for art in job.artworks}
    small = []
    for key in dict.fromkeys(arts):
        wanted = min(LARGEST, round(sizes.get(key, 0.0) * per_mm))
        if key in thumbs and max(thumbs[key].shape[:2]) < ENOUGH * wanted:
            small.append((key, wanted))
    return Closer(finest, coarse, tuple(small)) if coarse or small else None


def finer(job: Faced, store: ArtStore, asked: Closer, report: Report) -> Finer:
    """The pictures that were too coarse, anew.

    Parameters
    ----------
    job : as one of its faces has it
    store : of its artworks
    asked : which ones, and how fine
    report : is told how far it is
    """
    dpi, printer = asked.per_mm * MM_PER_INCH, job.printer
    grid = Grid(min(dpi, printer.dpi_x), min(dpi, printer.dpi_y))
    stamps, thumbs = {}, {}
    for index, what in enumerate(asked.prints):
        report(index / len(asked.prints))
        stamps[what] = _stamp(job, store, what, grid)
    arts = {art.key: art for art in job.artworks}
    for key, wanted in asked.thumbs:
        if key in arts:
            thumbs[key] = _thumb(store.artwork(arts[key], job), wanted)
    return Finer(stamps, thumbs)
