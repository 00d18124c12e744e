"""The plates of one piece."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

import cv2
import numpy as np
import numpy.typing as npt
from shapely.geometry import MultiPolygon

from farbe.art.artwork import Artwork, Pixels, Space
from farbe.layout.body import artwork_of_print, is_warped, print_of_artwork
from farbe.layout.faced import Faced
from farbe.layout.lettering import set_box
from farbe.layout.outline import outline, rings
from farbe.layout.placing import ArtworkBox, artwork_box, turned_box
from farbe.layout.pockets import quarter_turns
from farbe.model.artwork import Meaning
from farbe.model.base import BadInput, rgb
from farbe.model.edit import Recolour
from farbe.model.job import Intent
from farbe.model.layer import Layer
from farbe.model.piece import Rectangle, RoundBody, Shape
from farbe.model.text import TextBox
from farbe.model.treatment import Choke, Dots, Grain, Pinholes, Specks, Spread, Treatment
from farbe.plan.order import Channel, channels, mirrored, printing_layers
from farbe.render.raster import ChannelInfo
from farbe.render.sources import Sources
from farbe.separate.colour import Blend, Converter, converter_for
from farbe.separate.grid import Grid
from farbe.separate.lettering import Lettering
from farbe.separate.outline import PixelRing
from farbe.separate.place import PlacedArtwork
from farbe.separate.plates import ColourWork, InkLimits, Separation
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
        """Room for a job's piece and its bleed."""
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
        """Places around the piece's middle in mm, y up, in pixels, y down."""
        turn = math.radians(self.turn)
        back = np.array([[math.cos(turn), math.sin(turn)], [-math.sin(turn), math.cos(turn)]])
        turned = ring @ back if self.turn else ring
        return np.asarray(turned * (self.grid.per_mm_x, -self.grid.per_mm_y) + self.middle)

    def millimetres(self, places: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
        """The inverse of :meth:`pixels`, for places (..., 2)."""
        flat = (places - self.middle) / (
            self.grid.per_mm_x,
            -self.grid.per_mm_y,
        )
        turn = math.radians(self.turn)
        back = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
        return np.asarray(flat @ back if self.turn else flat)


def lettered(shape: Shape, ring: PixelRing) -> PixelRing:
    """A line of type's outline in mm, bent where the piece is a tapered body."""
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
    """What may be printed on: the piece and its bleed, or inside its margin."""
    grow = -job.placing.margin if job.placing.margin else job.bleed
    return ring_pixels(job.piece.shape, grow, canvas) or (np.zeros((3, 2)),)


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
    pixels = artwork.pixels[:, ::-1] if lies.mirror else artwork.pixels
    pixels = np.rot90(pixels, int(quarters))
    size = (lies.width, lies.height) if quarters % 2 == 0 else (lies.height, lies.width)
    drawn = grid.size(*size)
    offset = (
        math.floor(middle[0] - drawn[0] / 2 + 0.5),
        math.floor(middle[1] - drawn[1] / 2 + 0.5),
    )
    return PlacedArtwork(replace(artwork, pixels=pixels), canvas.size, drawn, offset, clip)


def drawn_straight(job: Faced, grid: Grid) -> tuple[int, int] | None:
    """Size in pixels of artwork that is laid pixel by pixel; None where it is resampled."""
    lies, shape = artwork_box(job), job.piece.shape
    if lies is None or (isinstance(shape, RoundBody) and is_warped(shape)):
        return None
    quarters, rest = divmod(lies.rotation, 90.0)
    if rest:
        return None
    size = (lies.width, lies.height) if quarters % 2 == 0 else (lies.height, lies.width)
    return grid.size(*size)


def bend_of(body: RoundBody, artwork: Artwork, lies: ArtworkBox, canvas: PieceFrame) -> Bend:
    """The map from a canvas to the pixels of artwork that lies on a tapered body."""
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


def job_artwork(job: Faced, sources: Sources) -> Artwork | None:
    """The pixels of a job's first artwork, if it has one."""
    return None if job.artwork is None else sources.artwork(job.artwork)


def piece_separation(
    job: Faced,
    sources: Sources,
    grid: Grid,
    *,
    layers: tuple[Layer, ...] | None = None,
    as_read: bool = False,
    turn: float = 0.0,
    placed: PlacedArtwork | None = None,
    canvas: PieceFrame | None = None,
) -> Separation:
    """The separation of one piece of a job, with the job's first artwork.

    Parameters
    ----------
    grid : the printer's resolution, or a coarser one for the screen
    layers : the layers wanted; all that print, if not given
    as_read : never mirrored, as the reader sees it
    turn : degrees, anticlockwise as read, by which the whole print is turned
    placed : the artwork if it was placed before, with all else the same
    canvas : the pixels to draw on, if they are not to be just around the piece
    """
    canvas = canvas or PieceFrame.of(job, grid, turn)
    wanted = _as_seen(job, grid, printing_layers(job.stack) if layers is None else layers)
    own = _separation(job, sources, canvas, wanted, placed=placed)
    if job.two_readers and job.other is not None:
        other = _separation(job.other, sources, canvas.behind, wanted)
        theirs = frozenset(layer.name for layer in wanted if not job.is_own(layer))
        # Each knows the other's shape, but not what the other knows of it.
        own = replace(own, opposite=replace(other, opposite=own), opposite_layers=theirs)
    return replace(own, mirrored=not as_read and mirrored(job.reader))


def _separation(
    job: Faced,
    sources: Sources,
    canvas: PieceFrame,
    layers: tuple[Layer, ...],
    *,
    placed: PlacedArtwork | None = None,
) -> Separation:
    """The separation for one reader, as that one sees it."""
    profile = sources.profile(job)
    placed = placed or place(job, job_artwork(job, sources), canvas)
    return Separation(
        placed=placed,
        layers=layers,
        converter=job_converter(job, placed.artwork, profile),
        grid=canvas.grid,
        middle=canvas.middle,
        piece=ring_pixels(job.piece.shape, 0.0, canvas),
        clip=clip_rings(job, canvas),
        profile=profile,
        pixels=canvas.pixels,
        colours=colour_work(job),
        named=_named_plates(job, sources, canvas, placed),
        limits=InkLimits(job.conversion.total, job.conversion.each),
        lettering=tuple(_lettering(job, box, sources, canvas) for box in job.texts if box.text),
        see_through=job.see_through,
    )


def dot_side(dots: Dots) -> float:
    """Side in mm of what a screen is made of: a single dot, or the cell of one."""
    return dots.dot if dots.grain is Grain.NOISE else 10.0 / dots.per_cm


def lost_dots(layer: Layer) -> Dots | None:
    """The layer's dots, if a later treatment changes their shape.

    Then the mean of the dots is not the tone that they are made from.
    """
    active = layer.active
    for place, treatment in enumerate(active):
        if isinstance(treatment, Dots) and any(
            isinstance(later, Choke | Spread | Specks | Pinholes) for later in active[place + 1 :]
        ):
            return treatment
    return None


def _as_seen(job: Faced, grid: Grid, layers: tuple[Layer, ...]) -> tuple[Layer, ...]:
    """Layers for a grid; on a coarse one, dots that are finer than its pixels stay tones."""
    if grid.dpi_x >= 0.99 * min(job.printer.dpi_x, job.printer.dpi_y):
        return layers
    pixel = 1.0 / min(grid.per_mm_x, grid.per_mm_y)

    def fine(treatment: Treatment) -> bool:
        if not isinstance(treatment, Dots):
            return False
        return dot_side(treatment) < 3.0 * pixel

    return tuple(
        layer.replace(treatments=tuple(t for t in layer.treatments if not fine(t)))
        if any(fine(t) for t in layer.treatments)
        else layer
        for layer in layers
    )


def colour_work(job: Faced) -> ColourWork:
    """What the job's first artwork and its conversion say is done to process inks by hand."""
    art, gains = job.artwork, job.conversion.gains
    return ColourWork(
        recoloured=tuple(e for e in art.edits if isinstance(e, Recolour) and e.on) if art else (),
        gains=(gains.cyan, gains.magenta, gains.yellow, gains.black),
        printed=tuple(
            (use.name, use.inks) for use in art.plates if use.meaning is Meaning.COLOUR
        ) if art else (),
    )  # fmt: skip


def _named_plates(
    job: Faced, sources: Sources, canvas: PieceFrame, placed: PlacedArtwork
) -> dict[str, PlacedArtwork]:
    """Plates that came with the job's first artwork, placed as it is."""
    if job.artwork is None:
        return {}
    whole = sources.artwork(job.artwork)
    return {
        name.casefold(): place(job, replace(whole, pixels=plane[..., None], space=Space.GREY,
                                            icc=None, plates={}), canvas)
        for name, plane in whole.plates.items()
    }  # fmt: skip


def _lettering(job: Faced, box: TextBox, sources: Sources, canvas: PieceFrame) -> Lettering:
    glyphs = tuple(
        tuple(canvas.pixels(lettered(job.piece.shape, ring)) for ring in rings)
        for rings in set_box(box, sources.font(box))
    )
    inks = _inks(box.colour, job, sources.profile(job))
    return Lettering(glyphs, inks, clip_rings(job, canvas), rgb(box.colour))


def _inks(colour: str, job: Faced, profile: bytes) -> tuple[int, int, int, int]:
    """An sRGB colour as the job's conversion gives it."""
    seen = np.array([[rgb(colour)]], np.uint8)
    cyan, magenta, yellow, black = job_converter(job, EMPTY, profile)(seen)[0, 0].tolist()
    return cyan, magenta, yellow, black


def job_converter(job: Faced, artwork: Artwork, profile: bytes) -> Callable[[Pixels], Pixels]:
    """The conversion that a job states, for an artwork.

    Parameters
    ----------
    job : intents, mixture and black point
    artwork : whose colours are converted
    profile : the printer's CMYK profile, ICC bytes

    Returns
    -------
    From uint8 (h, w, n) to coverage uint8 (h, w, 4).
    """
    how = job.conversion

    def by(intent: Intent) -> Converter:
        return converter_for(artwork, profile, intent=intent, black_point=how.black_point)

    if how.flat == 0 or how.flat_intent is how.intent:
        return by(how.intent)
    if how.flat == 100:
        return by(how.flat_intent)
    return Blend(by(how.intent), by(how.flat_intent), how.flat / 100.0)


def channel_infos(found: tuple[Channel, ...]) -> tuple[ChannelInfo, ...]:
    return tuple(ChannelInfo(c.name, c.ink.shown, c.ink.kind.value) for c in found)


@dataclass(frozen=True, eq=False)
class Turned:
    """A tile after quarter turns anticlockwise; but for half a turn it is kept whole."""

    upright: PieceTile
    quarters: int

    @property
    def size(self) -> tuple[int, int]:
        width, height = self.upright.size
        return (height, width) if self.quarters % 2 else (width, height)

    def rows(self, start: int, stop: int) -> Pixels:
        if self.quarters == 2:
            height = self.size[1]
            return self.upright.rows(height - stop, height - start)[::-1, ::-1]
        return self._all[start:stop]

    @cached_property
    def _all(self) -> Pixels:
        return np.rot90(self.upright.rows(0, self.upright.size[1]), self.quarters)


@dataclass(frozen=True, eq=False)
class PieceTile:
    """A separation with its plates side by side in each pixel, in the order of the channels."""

    separation: Separation
    order: tuple[int, ...]
    kept: bool

    @property
    def size(self) -> tuple[int, int]:
        return self.separation.size

    def rows(self, start: int, stop: int) -> Pixels:
        """Rows, uint8 (stop - start, width, channels)."""
        return self._all[start:stop] if self.kept else self._made(start, stop)

    @cached_property
    def _all(self) -> Pixels:
        return self._made(0, self.size[1])

    def _made(self, start: int, stop: int) -> Pixels:
        plates = self.separation.plates(start, stop)
        merged = cv2.merge([plates[i] for i in self.order])
        return np.asarray(merged, np.uint8).reshape(stop - start, self.size[0], len(self.order))


def check_printable(job: Faced) -> None:
    """Raise BadInput if no layer prints, or a layer's ink is not in the printer."""
    layers = printing_layers(job.stack)
    missing = [layer.name for layer in layers if not job.printer.inks_of(layer.kind, layer.ink)]
    if missing:
        raise BadInput(
            f"The printer {job.printer.name} has no ink for {missing[0].lower()};"
            " switch that layer off."
        )
    if not channels(job):
        raise BadInput("No layer is switched on, so there is nothing to print; switch one on.")


def job_tile(
    job: Faced,
    sources: Sources,
    grid: Grid,
    *,
    kept: bool = False,
    turn: float = 0.0,
    placed: PlacedArtwork | None = None,
    canvas: PieceFrame | None = None,
) -> PieceTile | Turned:
    """The tile that is laid into a pocket, of the job's first artwork.

    Parameters
    ----------
    kept : separate it once for many pockets, instead of anew for each
    turn : degrees, anticlockwise on the bed, on top of how pieces lie
    placed, canvas : as :func:`piece_separation` takes them

    Raises
    ------
    BadInput
        If no layer prints, or a layer's ink is not in the printer.
    """
    check_printable(job)
    quarters = quarter_turns(job)
    # A print that is mirrored turns the other way before it is.
    as_read = -turn if mirrored(job.reader) else turn
    separation = piece_separation(
        job, sources, upright_grid(job, grid), turn=as_read, placed=placed, canvas=canvas
    )
    tile = PieceTile(separation, plate_order(channels(job), printing_layers(job.stack)), kept)
    return Turned(tile, quarters) if quarters else tile


def upright_grid(job: Faced, grid: Grid) -> Grid:
    """A piece that lies across is separated upright on a grid that is turned the other way.

    Parameters
    ----------
    job : says how its pieces lie
    grid : of the bed

    Returns
    -------
    The grid on which the piece is upright.
    """
    return Grid(grid.dpi_y, grid.dpi_x) if quarter_turns(job) % 2 else grid


def plate_order(found: tuple[Channel, ...], layers: tuple[Layer, ...]) -> tuple[int, ...]:
    """For each channel, the index of its plate in :meth:`Separation.plates`."""
    first: dict[str, int] = {}
    count = 0
    for layer in layers:
        first[layer.name] = count
        count += layer.plates
    seen: dict[str, int] = {}
    order = []
    for channel in found:
        nth = seen.get(channel.layer.name, 0)
        seen[channel.layer.name] = nth + 1
        order.append(first[channel.layer.name] + nth)
    return tuple(order)


def middle_as_laid(job: Faced, canvas: PieceFrame) -> tuple[float, float]:
    """Where a piece's middle is in its tile, in pixels: mirrored and turned as the tile is."""
    (x, y), (width, height) = canvas.middle, canvas.size
    if mirrored(job.reader):
        x = width - x
    for _ in range(quarter_turns(job)):
        # Anticlockwise: what was right comes to the far side.
        x, y, width, height = y, width - x, height, width
    return x, y
