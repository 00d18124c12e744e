"""A part of a piece's print on any grid, as its reader sees it."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from itertools import chain, pairwise

import cv2
import numpy as np

from farbe.art.artwork import MM_PER_INCH, Pixels, Space
from farbe.kept import Kept
from farbe.layout.faced import Faced
from farbe.model.layer import Layer
from farbe.model.printer import LayerKind
from farbe.model.source import AsLayer
from farbe.model.treatment import Holes
from farbe.plan.order import printing_layers
from farbe.render.piece import dot_side, lost_dots, piece_separation
from farbe.render.raster import Report
from farbe.render.sources import Sources
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid
from farbe.separate.plates import Separation
from farbe.sidebyside import WORKERS, in_order

#: Pixels along a dot on the grid on which lost dots are worked out, and the most pixels of it.
FINE, MOST = 3.01, 40_000_000
#: Rows of which plates are made in a thread of their own.
FEW_ROWS = 150


@dataclass(frozen=True)
class Box:
    """A rectangle in mm around the piece's middle, y up."""

    left: float
    bottom: float
    width: float
    height: float

    def shared(self, other: Box) -> Box | None:
        """What lies in both; None if nothing does.

        Parameters
        ----------
        other : rectangle
        """
        left, bottom = max(self.left, other.left), max(self.bottom, other.bottom)
        width = min(self.left + self.width, other.left + other.width) - left
        height = min(self.bottom + self.height, other.bottom + other.height) - bottom
        return Box(left, bottom, width, height) if width > 0.0 and height > 0.0 else None


@dataclass(frozen=True, eq=False, kw_only=True)
class PrintPart:
    """Plates and artwork of a part of a print, whichever job it is of.

    Attributes
    ----------
    layers : those that print, substrate up
    plates : uint8 (h, w) each, in the order of the layers, four of colour
    artwork : straight RGBA uint8 (h, w, 4), with its lines of type
    box : where it lies; whole pixels of ``grid``
    corner : column and row of the artwork's first pixel, which moves by whole ones; what is turned
        or bent has none, and (0, 0)
    profile : the printer's
    lit : its profile of light from behind, where that was measured
    """

    layers: tuple[Layer, ...]
    plates: list[Plate]
    artwork: Pixels
    box: Box
    grid: Grid
    corner: tuple[int, int]
    profile: bytes
    lit: bytes | None

    @property
    def size(self) -> tuple[float, float]:
        """Width and height in mm."""
        return self.box.width, self.box.height

    def plates_of(self, name: str) -> list[Plate]:
        """The plates of a layer: four of colour, else one; none if it is off.

        Parameters
        ----------
        name : what it is called

        Returns
        -------
        uint8 (rows, width) each
        """
        at = 0
        for layer in self.layers:
            count = layer.plates
            if layer.name == name:
                return self.plates[at : at + count]
            at += count
        return []

    def of_kind(self, kind: LayerKind) -> Plate | None:
        """The most that any layer of a kind lays down; None if no such layer prints.

        Parameters
        ----------
        kind : what the layer does

        Returns
        -------
        uint8 (h, w); None where there is none.
        """
        found = [self.plates_of(layer.name) for layer in self.layers if layer.kind is kind]
        return np.maximum.reduce([plate for plates in found for plate in plates]) if found else None

    def pixel_at(self, x: float, y: float) -> tuple[int, int] | None:
        """Row and column of a place in mm; None beyond the part.

        Parameters
        ----------
        x : mm to the right
        y : mm away
        """
        column = math.floor((x - self.box.left) * self.grid.per_mm_x)
        row = math.floor((self.box.bottom + self.box.height - y) * self.grid.per_mm_y)
        high, wide = self.artwork.shape[:2]
        return (row, column) if 0 <= row < high and 0 <= column < wide else None


@dataclass(frozen=True, eq=False, kw_only=True)
class Glimpse(PrintPart):
    """A part of a print, and the job as if all its pockets printed that."""

    job: Faced


def glimpse(job: Faced, sources: Sources, grid: Grid, box: Box | None = None) -> Glimpse:
    """The first artwork's print of a job, whole or a part of it.

    Parts agree with the whole on the same grid, pixel by pixel.

    Parameters
    ----------
    job : as one of its faces has it
    sources : pixels, fonts and profile
    grid : pixels to the inch along either axis
    box : the part, in mm; None for all
    """
    separation = piece_separation(job, sources, grid, as_read=True)
    return part_of(job, sources, replace(separation, kept=True), box)


#: Takes rows of a part in the thread that made them, which others are still made beside: the number
#: of the first one, and what they are.
TakeRows = Callable[[int, Glimpse], object]


def part_of(
    job: Faced,
    sources: Sources,
    separation: Separation,
    box: Box | None,
    *,
    exact: bool = True,
    take: TakeRows | None = None,
) -> Glimpse:
    """The part of a separation, grown to whole pixels and cut to the piece: one at the least.

    Where dots finer than the grid are changed by later treatments, ``exact`` works them out on a
    finer grid and gives their mean.

    Parameters
    ----------
    job : as one of its faces has it
    sources : pixels, fonts and profile
    separation : with the plates of a print
    box : the part, in mm; None for all
    exact : whether it is at the resolution that prints
    take : is given all rows of the whole as they are made; none where dots change them afterwards
    """
    (wide, high), grid = separation.size, separation.grid
    left, right, start, stop = 0, wide, 0, high
    if box is not None:
        left = min(wide - 1, max(0, math.floor(wide / 2 + box.left * grid.per_mm_x)))
        right = min(wide, math.ceil(wide / 2 + (box.left + box.width) * grid.per_mm_x))
        top = math.floor(high / 2 - (box.bottom + box.height) * grid.per_mm_y)
        start = min(high - 1, max(0, top))
        stop = min(high, math.ceil(high / 2 - box.bottom * grid.per_mm_y))
        right, stop = max(right, left + 1), max(stop, start + 1)
    scene = _scene_of(job, separation, start, stop)
    separation = replace(separation, shapes=scene.shapes)
    profile, lit, (x, y) = sources.profile(job), sources.lit_profile(job), separation.placed.offset

    def part(plates: list[Plate], artwork: Pixels, start: int, stop: int) -> Glimpse:
        return Glimpse(
            job=job,
            layers=separation.layers,
            plates=[_columns(plate, left, right) for plate in plates],
            artwork=_columns(artwork, left, right),
            box=Box(
                (left - wide / 2) / grid.per_mm_x,
                (high / 2 - stop) / grid.per_mm_y,
                (right - left) / grid.per_mm_x,
                (stop - start) / grid.per_mm_y,
            ),
            grid=grid,
            corner=(x - left, y - start),
            profile=profile,
            lit=lit,
        )

    changed = exact and any(lost_dots(layer) is not None for layer in printing_layers(job.stack))

    def taken(plates: list[Plate], artwork: Pixels, start: int, stop: int) -> None:
        if take is not None and box is None and not changed:
            take(start, part(plates, artwork, start, stop))

    plates, artwork = _plates_and_artwork(scene, separation, start, stop, taken)
    if changed:
        plates = _with_dots(job, sources, separation, plates, (start, stop))
    return part(plates, artwork, start, stop)


def foreseen(job: Faced, separation: Separation, report: Report) -> None:
    """Make plates that a picture may soon want as that would, but in this thread alone.

    Parameters
    ----------
    job : as one of its faces has it
    separation : with the plates of a print
    report : is asked after each strip whether to go on

    Raises
    ------
    Cancelled
        If ``report`` does; what was made of a strip stays.
    """
    high = separation.size[1]
    scene = _scene_of(job, separation, 0, high)
    separation = replace(separation, shapes=scene.shapes, kept=True)
    _plates_and_artwork(scene, separation, 0, high, lambda *_: report(0.0), alone=True)


def _columns(pixels: Pixels, left: int, right: int) -> Pixels:
    """Some columns; all of them are the very same pixels, by which others see what stays."""
    whole = right - left == pixels.shape[1]
    return pixels if whole else np.ascontiguousarray(pixels[:, left:right])


#: Layers of which plates of a scene are kept, and bytes of these; and parts of its artwork's shape.
LAYERS, MOST_PLATES, SHAPES = 32, 24 << 20, 4


@dataclass(frozen=True, eq=False)
class _Scene:
    """Rows of a print but for its layers, and what was made of it: edits mostly change one layer.

    Attributes
    ----------
    pixels : of the artworks on it, which are told by their place and kept here for that
    artwork : as it is seen
    shapes : where it lies, by rows, which are as many as its layers see around them
    plates : of layers, by all the layers that they follow from
    """

    pixels: tuple[Pixels, ...]
    artwork: Kept[None, Pixels]
    shapes: Kept[tuple[int, int], Plate]
    plates: Kept[tuple[Layer, ...], list[Plate]]


#: Those of pictures that were made last.
_SCENES: Kept[object, _Scene] = Kept(6)


def _scene_of(job: Faced, separation: Separation, start: int, stop: int) -> _Scene:
    sides = (separation, *(() if separation.opposite is None else (separation.opposite,)))
    pixels = tuple(side.placed.artwork.pixels for side in sides)
    key = (
        job.replace(stack=()), tuple(line.into for side in sides for line in side.lettering),
        separation.grid, separation.size, separation.middle, separation.mirrored,
        tuple((one.ctypes.data, one.shape, one.strides) for one in pixels), start, stop,
    )  # fmt: skip
    return _SCENES.get(key, lambda: _Scene(pixels, Kept(1), Kept(SHAPES), Kept(
        LAYERS, most=MOST_PLATES, weigh=lambda made: sum(plate.nbytes for plate in made)
    )))  # fmt: skip


#: Takes plates and artwork of rows, and which ones these are.
_TakeStrip = Callable[[list[Plate], Pixels, int, int], object]


def _plates_and_artwork(
    scene: _Scene,
    separation: Separation,
    start: int,
    stop: int,
    take: _TakeStrip,
    *,
    alone: bool = False,
) -> tuple[list[Plate], Pixels]:
    """Rows of all plates, and of the artwork as straight RGBA; none are to be written to.

    What is done to plates does not change the artwork, so that edits of a choke need not wait for
    it.
    """
    layers = separation.layers
    follow = {layer.name: _followed(separation, layer) for layer in layers}
    there = {layer.name: scene.plates.known(follow[layer.name]) for layer in layers}
    new = tuple(layer for layer in layers if there[layer.name] is None)
    known = scene.artwork.known(None)
    drawn = np.empty((stop - start, separation.size[0], 4), np.uint8) if known is None else known

    def taken(made: Sequence[list[Plate]], rows: tuple[int, int]) -> None:
        own, strips = slice(rows[0] - start, rows[1] - start), iter(made)
        kept = [there[layer.name] for layer in layers]
        plates = [next(strips) if of is None else [one[own] for one in of] for of in kept]
        take(list(chain.from_iterable(plates)), drawn[own], *rows)

    made = _side_by_side(
        separation, new, start, stop, taken, drawn if known is None else None, alone=alone
    )
    # Others show it, too.
    drawn.setflags(write=False)
    # What was there a moment ago may have gone.
    found = {name: plates for name, plates in there.items() if plates is not None} | made
    plates = [
        plate
        for layer in layers
        for plate in scene.plates.get(follow[layer.name], partial(found.__getitem__, layer.name))
    ]
    return plates, scene.artwork.get(None, lambda: drawn)


def _followed(separation: Separation, layer: Layer) -> tuple[Layer, ...]:
    """A layer, and the layers that it comes from, or that its holes spare."""
    by_name = {one.name: one for one in separation.stack}
    found = [layer]
    for one in found:
        holes = [t for t in (*one.active, separation.see_through) if isinstance(t, Holes)]
        for source in (*one.sources, *(hole.solid for hole in holes)):
            other = by_name.get(source.name) if isinstance(source, AsLayer) else None
            if other is not None and other not in found:
                found.append(other)
    return tuple(found)


def _side_by_side(
    separation: Separation,
    layers: tuple[Layer, ...],
    start: int,
    stop: int,
    take: Callable[[list[list[Plate]], tuple[int, int]], object],
    drawn: Pixels | None,
    *,
    alone: bool,
) -> dict[str, list[Plate]]:
    """Plates of layers by their names, rows in a strip for each thread if these are many.

    A thread ``alone`` makes the same strips one after the other. The artwork is drawn into
    ``drawn``, if that is given; then ``take`` is told of the strip.
    """
    anything = bool(layers) or drawn is not None
    count = WORKERS if stop - start >= WORKERS * FEW_ROWS and anything else 1
    edges = _edges(separation, start, stop, count)

    def made(rows: tuple[int, int]) -> list[list[Plate]]:
        if drawn is not None:
            drawn[rows[0] - start : rows[1] - start] = _artwork(separation, *rows)
        plates = [separation.printed(layer, *rows) for layer in layers]
        take(plates, rows)
        return plates

    strips = list(in_order(made, pairwise(edges), threads=1 if alone else count))
    whole = {
        layer.name: strips[0][at] if count == 1 else [
            np.concatenate(plates) for plates in zip(*(strip[at] for strip in strips), strict=True)
        ]
        for at, layer in enumerate(layers)
    }  # fmt: skip
    for plate in chain.from_iterable(whole.values()):
        plate.setflags(write=False)
    return whole


def _edges(separation: Separation, start: int, stop: int, count: int) -> list[int]:
    """First rows of so many strips, and the row after the last one.

    If they can, they part the artwork alike wherever it lies: what was found of a part of it is
    found again. Else the rows.
    """
    lies = separation.placed.lies(0)
    spans = [(start, stop)] if lies is None else [(lies.top, lies.bottom), (start, stop)]
    for top, bottom in spans:
        inner = [top + (bottom - top) * at // count for at in range(1, count)]
        edges = [start, *inner, stop]
        if all(later - row >= FEW_ROWS // 2 for row, later in pairwise(edges)):
            break
    return edges


def _with_dots(
    job: Faced,
    sources: Sources,
    separation: Separation,
    plates: list[Plate],
    rows: tuple[int, int],
) -> list[Plate]:
    """Plates with those of lost dots in place of their tones; see :func:`lost_dots`."""
    grid, (wide, high) = separation.grid, separation.size
    result, at = list(plates), 0
    for layer in printing_layers(job.stack):
        count = layer.plates
        dots = lost_dots(layer)
        per_mm = FINE / dot_side(dots) if dots is not None else 0.0
        finest = Grid(job.printer.dpi_x, job.printer.dpi_y)
        fine = Grid(
            min(per_mm * MM_PER_INCH, finest.dpi_x), min(per_mm * MM_PER_INCH, finest.dpi_y)
        )
        times = fine.dpi_x * fine.dpi_y / (grid.dpi_x * grid.dpi_y)
        if dots is not None and times > 1.0 and times * wide * (rows[1] - rows[0]) <= MOST:
            of = piece_separation(job, sources, fine, layers=(layer,), as_read=True)
            start, stop = (round(row * of.size[1] / high) for row in rows)
            for index, plate in enumerate(of.plates(start, max(stop, start + 1))):
                size = (wide, rows[1] - rows[0])
                small = cv2.resize(plate, size, interpolation=cv2.INTER_AREA)
                result[at + index] = np.asarray(small, np.uint8)
        at += count
    return result


def _artwork(separation: Separation, start: int, stop: int) -> Pixels:
    """Rows of the artwork with the lines of type on them, straight RGBA."""
    placed = separation.placed
    colours, alpha = placed.colours(start, stop), placed.alpha(start, stop)
    shown = shown_rgba(colours, alpha, placed.artwork.space)
    _letter(shown, separation, start, stop)
    return shown


def _letter(shown: Pixels, separation: Separation, start: int, stop: int) -> None:
    """Draw the lines of type onto rows of the artwork, straight RGBA."""
    for line in separation.words:
        covered = line.cover(separation.size[0], start, stop)
        if covered is None:
            continue
        place, cover = covered
        share = cover[..., None] / 255.0
        ink = np.array(line.colour)
        part = shown[place]
        part[..., :3] = np.rint(part[..., :3] * (1 - share) + ink * share)
        np.maximum(part[..., 3], cover, out=part[..., 3])


def shown_rgba(colours: Pixels, alpha: Plate, space: Space) -> Pixels:
    """Straight RGBA for the screen; CMYK is shown plainly, its profile is the proof's matter.

    Parameters
    ----------
    colours : uint8 (h, w, n)
    alpha : uint8 (h, w), 255 opaque
    space : of the colours

    Returns
    -------
    uint8 (h, w, n)
    """
    if space is Space.CMYK:
        inks = colours.astype(np.uint16)
        rest = 255 - inks[..., 3:]
        shown = ((255 - inks[..., :3]) * rest // 255).astype(np.uint8)
    else:
        shown = colours
    to_rgba = cv2.COLOR_GRAY2RGBA if shown.shape[2] == 1 else cv2.COLOR_RGB2RGBA
    # Sooner than all channels one by one.
    return np.asarray(cv2.insertChannel(alpha, cv2.cvtColor(shown, to_rgba), 3), np.uint8)
