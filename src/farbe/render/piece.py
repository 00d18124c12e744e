"""The plates of one piece."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property

import cv2
import numpy as np
from shapely.geometry import MultiPolygon

from farbe.art.artwork import Artwork, Pixels, Space
from farbe.layout.outline import outline, rings
from farbe.layout.placing import artwork_box
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.model.layer import Layer
from farbe.model.piece import Shape
from farbe.plan.order import Channel, channels, mirrored, printing_layers
from farbe.render.raster import ChannelInfo
from farbe.separate.colour import Converter, converter_for
from farbe.separate.grid import Grid
from farbe.separate.outline import Ring
from farbe.separate.place import PlacedArtwork
from farbe.separate.plates import Separation
from farbe.separate.warp import source_matrix

#: Tiles up to this size are separated once and kept; larger ones are made anew row by row.
KEPT_BYTES = 160_000_000

EMPTY = Artwork(np.zeros((1, 1, 4), np.uint8), Space.RGB, None, None)


def ring_pixels(shape: Shape, grow: float, canvas: tuple[int, int], grid: Grid) -> tuple[Ring, ...]:
    """A shape's outline and holes, grown by mm, in pixels around a canvas's middle, y down."""
    grown = outline(shape, grow=grow)
    parts = grown.geoms if isinstance(grown, MultiPolygon) else (grown,)
    middle = (canvas[0] / 2, canvas[1] / 2)
    return tuple(
        ring * (grid.per_mm_x, -grid.per_mm_y) + middle
        for part in parts
        if not part.is_empty
        for ring in rings(part)
    )


def place(job: Job, artwork: Artwork | None, grid: Grid) -> PlacedArtwork:
    """The job's artwork on its piece, clipped to the piece and its bleed, or to its margin.

    Raises
    ------
    BadInput
        If the margin leaves nothing to print on.
    """
    shape = job.piece.shape
    canvas = grid.size(shape.width + 2 * job.bleed, shape.height + 2 * job.bleed)
    lies = artwork_box(job)
    if artwork is None or lies is None:
        return PlacedArtwork(EMPTY, canvas, (1, 1), clip=(np.zeros((3, 2)),))
    grow = -job.placing.margin if job.placing.margin else job.bleed
    clip = ring_pixels(shape, grow, canvas, grid) or (np.zeros((3, 2)),)
    middle = (canvas[0] / 2 + lies.x * grid.per_mm_x, canvas[1] / 2 - lies.y * grid.per_mm_y)
    quarters, rest = divmod(lies.rotation, 90.0)
    if rest:
        matrix = source_matrix(
            artwork,
            middle=middle,
            size=(lies.width, lies.height),
            per_mm=(grid.per_mm_x, grid.per_mm_y),
            rotation=lies.rotation,
            mirror=lies.mirror,
        )
        return PlacedArtwork(artwork, canvas, (1, 1), clip=clip, matrix=matrix)
    # Mirrors and quarter turns are exact: the same pixels in another order.
    pixels = artwork.pixels[:, ::-1] if lies.mirror else artwork.pixels
    pixels = np.rot90(pixels, int(quarters))
    size = (lies.width, lies.height) if quarters % 2 == 0 else (lies.height, lies.width)
    drawn = grid.size(*size)
    offset = (
        math.floor(middle[0] - drawn[0] / 2 + 0.5),
        math.floor(middle[1] - drawn[1] / 2 + 0.5),
    )
    return PlacedArtwork(replace(artwork, pixels=pixels), canvas, drawn, offset, clip)


def piece_separation(
    job: Job,
    artwork: Artwork | None,
    profile: bytes,
    grid: Grid,
    *,
    layers: tuple[Layer, ...] | None = None,
    as_read: bool = False,
    converter: Converter | None = None,
) -> Separation:
    """The separation of one piece of a job.

    Parameters
    ----------
    artwork : the pixels of ``job.artwork``; None for a job without
    profile : the printer's CMYK profile
    grid : the printer's resolution, or a coarser one for the screen
    layers : the layers wanted; all that print, if not given
    as_read : never mirrored, as the reader sees it
    converter : one made before for the same artwork and profile
    """
    placed = place(job, artwork, grid)
    return Separation(
        placed=placed,
        layers=printing_layers(job.stack) if layers is None else layers,
        converter=converter or job_converter(job, placed.artwork, profile),
        grid=grid,
        piece=ring_pixels(job.piece.shape, 0.0, placed.canvas, grid),
        mirrored=not as_read and mirrored(job.reader),
    )


def job_converter(job: Job, artwork: Artwork, profile: bytes) -> Converter:
    """The conversion that a job states, for its artwork."""
    return converter_for(
        artwork,
        profile,
        intent=job.conversion.intent,
        black_point=job.conversion.black_point,
    )


def channel_infos(found: tuple[Channel, ...]) -> tuple[ChannelInfo, ...]:
    return tuple(ChannelInfo(c.name, c.ink.shown, c.ink.kind.value) for c in found)


@dataclass(frozen=True, eq=False)
class QuarterTurned:
    """A tile after a quarter turn anticlockwise; it is kept whole."""

    upright: PieceTile

    @property
    def size(self) -> tuple[int, int]:
        width, height = self.upright.size
        return height, width

    def rows(self, start: int, stop: int) -> Pixels:
        return self._all[start:stop]

    @cached_property
    def _all(self) -> Pixels:
        return np.rot90(self.upright.rows(0, self.upright.size[1]))


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


def job_tile(
    job: Job, artwork: Artwork | None, profile: bytes, grid: Grid, *, times: int
) -> PieceTile | QuarterTurned:
    """The tile that is laid into every pocket, separated once if it is used several ``times``.

    Raises
    ------
    BadInput
        If no layer prints, or a layer's ink is not in the printer.
    """
    found = channels(job)
    layers = printing_layers(job.stack)
    missing = [layer.name for layer in layers if not job.printer.inks_of(layer.kind)]
    if missing:
        raise BadInput(
            f"The printer {job.printer.name} has no ink for {missing[0].lower()};"
            " switch that layer off."
        )
    if not found:
        raise BadInput("No layer is switched on, so there is nothing to print; switch one on.")
    # A turned piece is separated upright on a grid that is turned the other way.
    upright = Grid(grid.dpi_y, grid.dpi_x) if job.jig.turned else grid
    separation = piece_separation(job, artwork, profile, upright)
    width, height = separation.size
    kept = times > 1 and width * height * len(found) <= KEPT_BYTES
    tile = PieceTile(separation, plate_order(found, layers), kept)
    return QuarterTurned(tile) if job.jig.turned else tile


def plate_order(found: tuple[Channel, ...], layers: tuple[Layer, ...]) -> tuple[int, ...]:
    """For each channel, the index of its plate in :meth:`Separation.plates`."""
    first: dict[str, int] = {}
    count = 0
    for layer in layers:
        first[layer.name] = count
        count += 4 if layer.kind.value == "colour" else 1
    seen: dict[str, int] = {}
    order = []
    for channel in found:
        nth = seen.get(channel.layer.name, 0)
        seen[channel.layer.name] = nth + 1
        order.append(first[channel.layer.name] + nth)
    return tuple(order)
