"""A part of a piece's print on any grid, as its reader sees it."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import partial
from itertools import pairwise

import cv2
import numpy as np

from farbe.art.artwork import CHANNELS, MM_PER_INCH, Pixels, Space
from farbe.kept import Kept
from farbe.layout.faced import Faced
from farbe.model.layer import Layer
from farbe.model.printer import LayerKind
from farbe.plan.order import printing_layers
from farbe.render.piece import dot_side, lost_dots, piece_separation
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


@dataclass(frozen=True, eq=False)
class Glimpse:
    """Plates and artwork of a part of a piece.

    Attributes
    ----------
    layers : those that print, substrate up
    plates : uint8 (h, w) each, in the order of the layers, four of colour
    artwork : straight RGBA uint8 (h, w, 4), with its lines of type
    box : where it lies; whole pixels of ``grid``
    profile : the printer's
    lit : its profile of light from behind, where that was measured
    """

    job: Faced
    layers: tuple[Layer, ...]
    plates: list[Plate]
    artwork: Pixels
    box: Box
    grid: Grid
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


def part_of(
    job: Faced, sources: Sources, separation: Separation, box: Box | None, *, exact: bool = True
) -> Glimpse:
    """The part of a separation, grown to whole pixels and cut to the piece.

    Where dots finer than the grid are changed by later treatments, ``exact`` works them out on a
    finer grid and gives their mean.

    Parameters
    ----------
    job : as one of its faces has it
    sources : pixels, fonts and profile
    separation : with the plates of a print
    box : the part, in mm; None for all
    exact : whether it is at the resolution that prints
    """
    (wide, high), grid = separation.size, separation.grid
    left, right, start, stop = 0, wide, 0, high
    if box is not None:
        left = max(0, math.floor(wide / 2 + box.left * grid.per_mm_x))
        right = min(wide, math.ceil(wide / 2 + (box.left + box.width) * grid.per_mm_x))
        start = max(0, math.floor(high / 2 - (box.bottom + box.height) * grid.per_mm_y))
        stop = min(high, math.ceil(high / 2 - box.bottom * grid.per_mm_y))
        right, stop = max(right, left + 1), max(stop, start + 1)
    columns = slice(left, right)
    plates = _plates(job, separation, start, stop)
    if exact:
        plates = _with_dots(job, sources, separation, plates, (start, stop))
    artwork = _artwork_of(job, separation, start, stop)
    return Glimpse(
        job=job,
        layers=separation.layers,
        plates=[np.ascontiguousarray(p[:, columns]) for p in plates],
        artwork=np.ascontiguousarray(artwork[:, columns]),
        box=Box(
            (left - wide / 2) / grid.per_mm_x,
            (high / 2 - stop) / grid.per_mm_y,
            (right - left) / grid.per_mm_x,
            (stop - start) / grid.per_mm_y,
        ),
        grid=grid,
        profile=sources.profile(job),
        lit=sources.lit_profile(job),
    )


#: Colour plates of pictures that were made last, with the pixels that they are of.
_COLOURED: Kept[object, tuple[Pixels, list[Plate]]] = Kept(
    6, most=48 << 20, weigh=lambda made: sum(plate.nbytes for plate in made[1])
)


def _plates(job: Faced, separation: Separation, start: int, stop: int) -> list[Plate]:
    """Rows of all plates. Colour that is printed as it is waits for no edit of other layers."""
    known: dict[str, list[Plate]] = {}
    # Holes to see through may stay shut where another layer prints.
    for layer in separation.layers if separation.see_through is None else ():
        if layer.kind is LayerKind.COLOUR and not layer.active and job.is_own(layer):
            key = (*_seen_by(job, separation, start, stop), layer, separation.mirrored,
                   separation.limits, separation.colours)  # fmt: skip
            make = partial(_coloured, separation, layer, start, stop)
            known[layer.name] = _COLOURED.get(key, make)[1]
    others = tuple(layer for layer in separation.layers if layer.name not in known)
    known |= _side_by_side(separation, others, start, stop)
    return [plate for layer in separation.layers for plate in known[layer.name]]


def _coloured(
    separation: Separation, layer: Layer, start: int, stop: int
) -> tuple[Pixels, list[Plate]]:
    made = _side_by_side(separation, (layer,), start, stop)[layer.name]
    for plate in made:
        plate.setflags(write=False)
    return separation.placed.artwork.pixels, made


def _seen_by(job: Faced, separation: Separation, start: int, stop: int) -> tuple[object, ...]:
    """What rows of a print follow from, but for its layers.

    The pixels are told by their place, so who keeps something by this keeps them, too.
    """
    pixels = separation.placed.artwork.pixels
    into = tuple(line.into for line in separation.lettering)
    return (job.replace(stack=()), into, separation.grid, separation.size, separation.middle,
            pixels.ctypes.data, pixels.shape, pixels.strides, start, stop)  # fmt: skip


def _side_by_side(
    separation: Separation, layers: tuple[Layer, ...], start: int, stop: int
) -> dict[str, list[Plate]]:
    """Plates of layers by their names, rows in a strip for each thread if these are many."""
    count = WORKERS if stop - start >= WORKERS * FEW_ROWS and layers else 1
    edges = [start + (stop - start) * at // count for at in range(count + 1)]

    def made(rows: tuple[int, int]) -> list[list[Plate]]:
        return [separation.printed(layer, *rows) for layer in layers]

    strips = list(in_order(made, pairwise(edges), threads=count))
    return {
        layer.name: strips[0][at] if count == 1 else [
            np.concatenate(plates) for plates in zip(*(strip[at] for strip in strips), strict=True)
        ]
        for at, layer in enumerate(layers)
    }  # fmt: skip


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


#: Artworks as they were seen last, with their pixels, whose place no others get then.
_SEEN: Kept[object, tuple[Pixels, Pixels]] = Kept(6, most=48 << 20, weigh=lambda s: s[1].nbytes)


def _artwork_of(job: Faced, separation: Separation, start: int, stop: int) -> Pixels:
    """Rows of the artwork with the lines of type on them, straight RGBA, not to be written to.

    What is done to plates does not change it, so that edits of a choke need not wait for it.
    """
    placed = separation.placed

    def made() -> tuple[Pixels, Pixels]:
        colours, alpha = placed.colours(start, stop), placed.alpha(start, stop)
        shown = shown_rgba(colours, alpha, placed.artwork.space)
        _letter(shown, separation, start, stop)
        shown.setflags(write=False)
        return placed.artwork.pixels, shown

    return _SEEN.get(_seen_by(job, separation, start, stop), made)[1]


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
    elif CHANNELS[space] == 1:
        shown = np.repeat(colours, 3, axis=2)
    else:
        shown = colours
    return np.asarray(cv2.merge([*cv2.split(shown), alpha]), np.uint8)
