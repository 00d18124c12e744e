"""The pixels of one piece, and artwork on them."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
import numpy.typing as npt
from shapely.geometry import MultiPolygon

from farbe.art.artwork import Artwork, Pixels, Space
from farbe.layout.body import artwork_of_print, is_warped, print_of_artwork
from farbe.layout.faced import Faced
from farbe.layout.outline import outline, rings
from farbe.layout.placing import ArtworkBox, artwork_box, turned_box
from farbe.model.piece import Rectangle, RoundBody, Shape
from farbe.separate.grid import Grid
from farbe.separate.outline import PixelRing
from farbe.separate.place import PlacedArtwork
from farbe.separate.warp import Bend, source_matrix

EMPTY = Artwork(np.zeros((1, 1, 4), np.uint8), Space.RGB, None, None)


@dataclass(frozen=True)
class PieceFrame:
    """The pixels of one piece: its grid, size, and a turn against the bed, in degrees.

    ``shift`` is how far the piece's middle is off the canvas's, in pixels, right and down.
    """

    grid: Grid
    size: tuple[int, int]
    turn: float = 0.0
    shift: tuple[float, float] = (0.0, 0.0)

    @classmethod
    def of(cls, job: Faced, grid: Grid, turn: float = 0.0) -> PieceFrame:
        """Room for a job's piece and its bleed.

        Parameters
        ----------
        job : the job as one of its faces has it
        grid : resolution along x and y
        turn : degrees, anticlockwise
        """
        shape = job.piece.shape
        wide, high = shape.width + 2 * job.bleed, shape.height + 2 * job.bleed
        if turn:
            wide, high = turned_box(wide, high, turn)
        return cls(grid, grid.size(wide, high), turn)

    @classmethod
    def for_print(cls, job: Faced, grid: Grid, turn: float = 0.0) -> PieceFrame:
        """Room for a job's print, shifted so that the artwork's pixels are whole ones.

        Then only the place of the canvas on the bed is rounded, and all that is drawn on it is
        rounded with it.

        Parameters
        ----------
        job : the job as one of its faces has it
        grid : resolution along x and y
        turn : degrees, anticlockwise
        """
        if job.two_readers and job.other is not None and job.number == 1:
            # Whoever looks, it is the same print: the first reader's pixels are the whole ones.
            return cls.for_print(job.other, grid, -turn).behind
        plain, drawn = cls.of(job, grid, turn), drawn_straight(job, grid)
        lies = artwork_box(job)
        if turn or drawn is None or lies is None:
            return plain
        first = plain.pixels(np.array([(lies.x, lies.y)]))[0] - np.array(drawn) / 2
        off = np.floor(first + 0.5) - first
        if np.abs(off).max() < 1e-9:
            return plain
        return cls(
            grid, (plain.size[0] + 2, plain.size[1] + 2), shift=(float(off[0]), float(off[1]))
        )

    @property
    def middle(self) -> tuple[float, float]:
        """Where the piece's middle is, in pixels from the canvas's far left corner."""
        return self.size[0] / 2 + self.shift[0], self.size[1] / 2 + self.shift[1]

    @property
    def behind(self) -> PieceFrame:
        """The same canvas as whoever looks from the other side sees it."""
        return replace(self, turn=-self.turn, shift=(-self.shift[0], self.shift[1]))

    def pixels(self, ring: PixelRing) -> PixelRing:
        """Places around the piece's middle in mm, y up, in pixels, y down.

        Parameters
        ----------
        ring : float64 (n, 2)

        Returns
        -------
        float64 (n, 2)
        """
        turn = math.radians(self.turn)
        back = np.array([[math.cos(turn), math.sin(turn)], [-math.sin(turn), math.cos(turn)]])
        turned = ring @ back if self.turn else ring
        return np.asarray(turned * (self.grid.per_mm_x, -self.grid.per_mm_y) + self.middle)

    def millimetres(self, places: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
        """The inverse of :meth:`pixels`, for places (..., 2).

        Parameters
        ----------
        places : (..., 2)

        Returns
        -------
        float64
        """
        flat = (places - self.middle) / (
            self.grid.per_mm_x,
            -self.grid.per_mm_y,
        )
        turn = math.radians(self.turn)
        back = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
        return np.asarray(flat @ back if self.turn else flat)


def lettered(shape: Shape, ring: PixelRing) -> PixelRing:
    """A line of type's outline in mm, bent where the piece is a tapered body.

    Parameters
    ----------
    shape : of a piece
    ring : float64 (n, 2)

    Returns
    -------
    float64 (n, 2)
    """
    if isinstance(shape, RoundBody) and is_warped(shape):
        return print_of_artwork(shape, ring)
    return ring


@lru_cache(maxsize=64)
def ring_pixels(shape: Shape, grow: float, canvas: PieceFrame) -> tuple[PixelRing, ...]:
    """A shape's outline and holes, grown by mm, in pixels around a canvas's middle, y down.

    Parameters
    ----------
    shape : of the piece
    grow : mm
    canvas : whose pixels are meant

    Returns
    -------
    Closed rings, float64 (n, 2).
    """
    grown = outline(shape, grow=grow)
    parts = grown.geoms if isinstance(grown, MultiPolygon) else (grown,)
    return tuple(canvas.pixels(ring) for part in parts if not part.is_empty for ring in rings(part))


def clip_rings(job: Faced, canvas: PieceFrame) -> tuple[PixelRing, ...]:
    """What may be printed on: the piece and its bleed, or inside its margin.

    Parameters
    ----------
    job : the job as one of its faces has it
    canvas : the pixels of the piece

    Returns
    -------
    Closed rings, float64 (n, 2).
    """
    return ring_pixels(job.piece.shape, beyond(job), canvas) or (np.zeros((3, 2)),)


def beyond(job: Faced) -> float:
    """How far beyond the piece's outline may be printed, mm: its bleed, or less than 0 by a margin.

    Parameters
    ----------
    job : the job as one of its faces has it
    """
    return -job.placing.margin if job.placing.margin else job.bleed


def _clip(job: Faced, canvas: PieceFrame) -> tuple[PixelRing, ...] | None:
    """What artwork is clipped to; None where the whole canvas may be printed on."""
    shape, grid = job.piece.shape, canvas.grid
    plain = isinstance(shape, Rectangle) and not shape.corner_radius and not canvas.turn
    if plain and not job.placing.margin:
        wide, high = shape.width + 2 * job.bleed, shape.height + 2 * job.bleed
        off = abs(wide * grid.per_mm_x - canvas.size[0]), abs(high * grid.per_mm_y - canvas.size[1])
        if max(off) < 1e-6:
            return None
    return clip_rings(job, canvas)


def place(job: Faced, artwork: Artwork | None, canvas: PieceFrame) -> PlacedArtwork:
    """The job's artwork on its piece, clipped to the piece and its bleed, or to its margin.

    Parameters
    ----------
    job : whose placing is meant
    artwork : its pixels; None for none
    canvas : the pixels to place it on

    Returns
    -------
    The artwork on the canvas; rows are made as they are asked for.

    Raises
    ------
    BadInput
        If the margin leaves nothing to print on.
    """
    lies = artwork_box(job)
    if artwork is None or lies is None:
        return PlacedArtwork(EMPTY, canvas.size, (1, 1), clip=(np.zeros((3, 2)),))
    grid, clip = canvas.grid, _clip(job, canvas)
    if (
        artwork.small is not None
        and grid.size(lies.width, lies.height)[0] <= artwork.small.shape[1]
    ):
        artwork = artwork.coarse()
    shape = job.piece.shape
    if isinstance(shape, RoundBody) and is_warped(shape):
        bent = bend_of(shape, artwork, lies, canvas)
        return PlacedArtwork(artwork, canvas.size, (1, 1), clip=clip, bent=bent)
    middle = canvas.pixels(np.array([(lies.x, lies.y)]))[0]
    quarters, rest = divmod(lies.rotation + canvas.turn, 90.0)
    if rest:
        matrix = source_matrix(
            artwork,
            middle=(float(middle[0]), float(middle[1])),
            size=(lies.width, lies.height),
            per_mm=(grid.per_mm_x, grid.per_mm_y),
            rotation=lies.rotation + canvas.turn,
            mirror=lies.mirror,
        )
        return PlacedArtwork(artwork, canvas.size, (1, 1), clip=clip, matrix=matrix)

    # Mirrors and quarter turns are exact: the same pixels in another order.
    def turned(pixels: Pixels) -> Pixels:
        return np.rot90(pixels[:, ::-1] if lies.mirror else pixels, int(quarters))

    small = None if artwork.small is None else turned(artwork.small)
    artwork = replace(artwork, pixels=turned(artwork.pixels), small=small)
    size = (lies.width, lies.height) if quarters % 2 == 0 else (lies.height, lies.width)
    drawn = grid.size(*size)
    offset = (
        math.floor(middle[0] - drawn[0] / 2 + 0.5),
        math.floor(middle[1] - drawn[1] / 2 + 0.5),
    )
    return PlacedArtwork(artwork, canvas.size, drawn, offset, clip)


def drawn_straight(job: Faced, grid: Grid) -> tuple[int, int] | None:
    """Size in pixels of artwork that is laid pixel by pixel; None where it is resampled.

    Parameters
    ----------
    job : the job as one of its faces has it
    grid : resolution along x and y
    """
    lies, shape = artwork_box(job), job.piece.shape
    if lies is None or (isinstance(shape, RoundBody) and is_warped(shape)):
        return None
    quarters, rest = divmod(lies.rotation, 90.0)
    if rest:
        return None
    size = (lies.width, lies.height) if quarters % 2 == 0 else (lies.height, lies.width)
    return grid.size(*size)


def bend_of(body: RoundBody, artwork: Artwork, lies: ArtworkBox, canvas: PieceFrame) -> Bend:
    """The map from a canvas to the pixels of artwork that lies on a tapered body.

    Parameters
    ----------
    body : a round one, upright or tapered; sizes in mm
    artwork : its pixels
    lies : where the artwork lies, in mm
    canvas : the piece in output pixels
    """
    turn = math.radians(lies.rotation)
    c, s = math.cos(turn), math.sin(turn)
    flip = -1.0 if lies.mirror else 1.0
    per_x, per_y = artwork.width / lies.width, artwork.height / lies.height

    def bend(places: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
        on_artwork = artwork_of_print(body, canvas.millimetres(places)) - (lies.x, lies.y)
        x, y = on_artwork[..., 0], on_artwork[..., 1]
        across, up = (x * c + y * s) * flip, y * c - x * s
        return np.stack(
            [across * per_x + artwork.width / 2, artwork.height / 2 - up * per_y], axis=-1
        )

    return bend
