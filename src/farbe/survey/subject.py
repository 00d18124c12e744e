"""A print that is looked at, and what of it a strip shows."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from farbe.art.artwork import Pixels, Space
from farbe.colour.lab import difference
from farbe.kept import once
from farbe.layout.faced import Faced
from farbe.model.base import rgb
from farbe.model.layer import Layer
from farbe.model.piece import Reader
from farbe.model.printer import LayerKind
from farbe.model.source import Region, Surround, WholePiece
from farbe.model.treatment import Choke, Dots, Feather, Holes, Shift, Specks
from farbe.optics.view import PAPER_WHITE
from farbe.optics.white import white_difference
from farbe.plan.order import printing_layers
from farbe.plan.readers import front_colour
from farbe.render.piece import dot_side, piece_separation
from farbe.render.pieceframe import PieceFrame
from farbe.render.sources import Sources
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid, disc, pixel_side
from farbe.separate.masks import any_within
from farbe.separate.plates import Separation
from farbe.separate.tones import Screen, lab_of

Levels = tuple[int, int, int]
#: Levels from which on artwork counts as there, and ink as covering; and white of artwork as white.
THERE, NO_INK = 128, 4
#: Coverage of process ink, 0 to 255, from which on there is colour.
COLOURED = 26
#: CIEDE2000 under which a colour is hardly told from the surface, and the most between two
#: colours that are eight levels apart.
HARDLY, BETWEEN = 5.0, 8.0
#: CIEDE2000 up to which nobody tells white ink from a bare surface.
UNSEEN = 3.0
#: Blocks of artwork that the threads look at together.
BLOCKS = 24


def plane(levels: object) -> Plate:
    """What OpenCV gives, as levels, uint8 (h, w).

    Parameters
    ----------
    levels : as OpenCV gives them
    """
    return np.asarray(levels, np.uint8)


def solid_from(plate: Plate, level: int) -> Plate:
    """255 where a plate reaches a level, 0 elsewhere.

    Parameters
    ----------
    plate : uint8 (h, w)
    level : 1 to 255
    """
    return plane(cv2.threshold(plate, level - 1, 255, cv2.THRESH_BINARY)[1])


@dataclass(frozen=True, eq=False)
class Subject:
    """A print, told by its reader, and what is the same for all its strips.

    Attributes
    ----------
    job : that prints this and nothing else
    register : mm that layers may be off each other
    off : mm that the print may be off its piece
    edged : whether the print ends with its piece; film is cut around it, bodies come round
    white_matters : whether the bare surface can be told from white ink
    exact : at the resolution that prints
    """

    job: Faced
    separation: Separation
    canvas: PieceFrame
    register: float
    off: float
    exact: bool
    edged: bool
    white_matters: bool

    @property
    def grid(self) -> Grid:
        return self.canvas.grid

    @once
    def layers(self) -> tuple[Layer, ...]:
        """The layers that print for this reader."""
        return tuple(layer for layer in self.separation.layers if self.job.is_own(layer))

    @property
    def near_surface(self) -> tuple[Levels, Levels]:
        """Levels of the artwork between which all colours are that hardly differ from the surface.

        Of artwork with three channels.
        """
        return _near(self.separation.to_screen, self.job.piece.surface.colour)

    @property
    def is_blank(self) -> bool:
        """Whether nothing can print: no artwork, no lettering, nor ink that needs neither."""
        free = (WholePiece, Surround, Region)
        return (
            not self.separation.lettering
            and (self.job.other is None or not self.job.two_readers)
            and self.job.artwork is None
            and not any(isinstance(part, free) for layer in self.separation.layers
                        for part in layer.sources)
        )  # fmt: skip

    def of_kind(self, kind: LayerKind) -> tuple[Layer, ...]:
        """The reader's own layers of a kind.

        Parameters
        ----------
        kind : of layer
        """
        return tuple(layer for layer in self.layers if layer.kind is kind)

    @once
    def order(self) -> tuple[tuple[Layer, ...], tuple[Layer, ...]]:
        """What lies behind the reader's colour, and before it; both empty without colour."""
        stack = self.separation.layers
        at = front_colour(self.job, stack)
        if at is None:
            return (), ()
        under, over = stack[:at], stack[at + 1 :]
        return (under, over) if self.job.reader is Reader.FACE else (over, under)

    @once
    def allowance(self) -> float:
        """Mm from white ink within which bare places are meant: rims, vents, dots, faded edges."""
        return max((_meant_bare(layer) for layer in self.of_kind(LayerKind.WHITE)), default=0.0) + (
            1.5 * pixel_side(self.grid) + self._see_through
        )

    @property
    def _see_through(self) -> float:
        holes = self.job.see_through
        return holes.size / 2 if holes is not None else 0.0

    def plates_at(self, layer: Layer) -> slice:
        """Where a layer's plates are among all.

        Parameters
        ----------
        layer : any of the job's

        Returns
        -------
        From the first of them to the one after the last.

        Raises
        ------
        KeyError
            If no layer of this name prints.
        """
        before = 0
        for one in self.separation.layers:
            if one.name == layer.name:
                return slice(before, before + one.plates)
            before += one.plates
        raise KeyError(layer.name)


@lru_cache(maxsize=16)
def _near(screen: Screen, surface: str) -> tuple[Levels, Levels]:
    """Found on every eighth level, with room between them."""
    steps = np.append(np.arange(0, 256, 8), 255).astype(np.uint8)
    grid = np.stack(np.meshgrid(steps, steps, steps, indexing="ij"), axis=-1)
    levels = np.ascontiguousarray(grid.reshape(1, -1, 3))
    far = difference(lab_of(screen(levels)), lab_of(rgb(surface)))[0]
    near = levels[0][far < HARDLY + BETWEEN].astype(int)
    if not len(near):
        return (255, 255, 255), (0, 0, 0)
    low, high = np.maximum(near.min(axis=0) - 8, 0), np.minimum(near.max(axis=0) + 8, 255)
    return tuple(low.tolist()), tuple(high.tolist())


def _meant_bare(layer: Layer) -> float:
    """How far a layer's treatments leave bare what its source covers, in mm."""
    found = 0.0
    for treatment in layer.active:
        match treatment:
            case Choke():
                found += max(treatment.by, treatment.holes or 0.0)
            case Feather():
                found += treatment.by
            case Holes() | Specks():
                found += treatment.size / 2
            case Dots():
                found += dot_side(treatment)
            case Shift():
                found += float(np.hypot(treatment.x, treatment.y))
    return found


def subject(
    job: Faced,
    sources: Sources,
    grid: Grid,
    *,
    exact: bool,
    register: float,
    turn: float = 0.0,
    edged: bool = True,
) -> Subject:
    """A job that prints one thing, ready to be looked at.

    Parameters
    ----------
    job : of one print
    sources : pixels, fonts and profile
    grid : of the piece as it stands upright
    exact : whether that is the resolution that prints
    register : mm that layers may be off each other
    turn : degrees, anticlockwise as read, by which the print was found to be turned
    edged : whether the print ends with its piece

    Returns
    -------
    The print with its plates; rows are made as they are asked for.

    Raises
    ------
    BadInput
        If a file cannot be read.
    """
    canvas = PieceFrame.for_print(job, grid, turn)
    made = piece_separation(
        job, sources, grid, as_read=True, turn=turn, canvas=canvas,
        layers=_seen_layers(job),
    )  # fmt: skip
    made = replace(made, placed=replace(made.placed, blocks=BLOCKS))
    off = float(np.hypot(job.machine.misregister.x, job.machine.misregister.y)) + job.jig.play
    matters = white_difference(job, sources.profile(job)) > UNSEEN
    return Subject(job, made, canvas, register, off, exact, edged, matters)


def _seen_layers(job: Faced) -> tuple[Layer, ...]:
    """The layers that are looked at: all, but of a second reader only those that concern it."""
    layers = printing_layers(job.stack)
    if not job.two_readers or job.number == 0:
        return layers
    return tuple(la for la in layers if job.is_own(la) or la.kind is LayerKind.BLACKOUT)


@dataclass(frozen=True, eq=False)
class Strip:
    """Rows of a print with some more around them.

    Attributes
    ----------
    start, stop : the rows that are meant
    halo : rows more on either side
    """

    of: Subject
    start: int
    stop: int
    halo: int

    @property
    def rows(self) -> tuple[int, int]:
        """First row, and the row after the last, with those around."""
        return self.start - self.halo, self.stop + self.halo

    def own(self, plane: npt.NDArray[Any]) -> npt.NDArray[Any]:
        """The rows that are meant, of a plane with those around.

        Parameters
        ----------
        plane : (rows, width, ...)
        """
        return plane[self.halo : self.halo + self.stop - self.start]

    @once
    def plates(self) -> list[Plate]:
        """All plates, uint8 (rows, width), in the order of the layers."""
        return self.of.separation.plates(*self.rows)

    def of_layer(self, layer: Layer) -> list[Plate]:
        """A layer's plates, uint8 (rows, width): one, or four of process colour.

        Parameters
        ----------
        layer : any of the job's
        """
        return self.plates[self.of.plates_at(layer)]

    def most(self, layers: tuple[Layer, ...]) -> Plate:
        """The most that any of some layers lays down, uint8 (rows, width); without layers 0.

        Parameters
        ----------
        layers : from the substrate up
        """
        result: Plate | None = None
        for plate in (plate for layer in layers for plate in self.of_layer(layer)):
            result = plate if result is None else plane(cv2.max(result, plate))
        return np.zeros_like(self.shape) if result is None else result

    @once
    def shape(self) -> Plate:
        """Where artwork or lettering lies, uint8 (rows, width)."""
        return self.of.separation.shape(*self.rows)

    @once
    def there(self) -> Plate:
        """255 where artwork or lettering lies, uint8 (rows, width)."""
        return solid_from(self.shape, THERE)

    @once
    def colour(self) -> Plate:
        """The most process ink for this reader, uint8 (rows, width)."""
        return self.most(self.of.of_kind(LayerKind.COLOUR))

    @once
    def raw(self) -> Pixels:
        """The artwork's own colours, uint8 (rows, width, n)."""
        return self.of.separation.placed.colours(*self.rows)

    @once
    def white_ink(self) -> Plate:
        """The most white ink for this reader, uint8 (rows, width)."""
        return self.most(self.of.of_kind(LayerKind.WHITE))

    @once
    def white(self) -> Plate:
        """255 where the artwork is there and white, uint8 (rows, width)."""
        art = self.of.separation.placed.artwork
        count = self.raw.shape[2]
        if art.space is Space.CMYK:
            pale = cv2.inRange(self.raw, (0,) * count, (NO_INK,) * count)
        else:
            pale = cv2.inRange(self.raw, (PAPER_WHITE,) * count, (255,) * count)
        found = plane(cv2.bitwise_and(pale, self.there))
        for cover, place, colour in self.lettering():
            found[place][cover] = 255 if min(colour) >= PAPER_WHITE else 0
        return found

    def lettering(
        self,
    ) -> Iterator[tuple[npt.NDArray[np.bool_], tuple[slice, slice], tuple[int, int, int]]]:
        """Each line of type: where it lies in its rows and columns, bool; its colour as sRGB."""
        width = self.of.separation.size[0]
        for line in self.of.separation.words:
            covered = line.cover(width, *self.rows)
            if covered is not None:
                place, cover = covered
                yield cover >= THERE, place, line.colour

    def around(self, radius: float) -> Plate:
        """The kernel of what lies within mm, and half a pixel.

        Parameters
        ----------
        radius : mm, 0 or more
        """
        return disc(radius + 0.5 * pixel_side(self.of.grid), self.of.grid)

    def grown(self, mask: Plate, radius: float) -> Plate:
        """Whether there is anything within mm, and half a pixel.

        Parameters
        ----------
        mask : 255 where there is, uint8 (h, w)
        radius : mm, 0 or more
        """
        kernel = self.around(radius)
        return any_within(mask, kernel) if kernel.size > 1 else mask
