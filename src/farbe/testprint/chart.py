"""A chart: patches of ink at places of the bed, in films of one or more inks."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from farbe.art.artwork import Pixels
from farbe.layout.frame import BedFrame
from farbe.model.printer import Ink, LayerKind, Printer
from farbe.render.bed import BedRaster
from farbe.render.raster import ChannelInfo
from farbe.render.tile import Laid, TextTile, Tile
from farbe.said import Spoken
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid


class ChartKind(Spoken):
    """What a test print is for."""

    INKS = "inks"
    NOZZLES = "nozzles"
    GREYS = "greys"
    REGISTER = "register"
    CHOKE = "choke"
    WHITE = "white"
    EASE = "ease"
    VARNISH = "varnish"
    KERB = "kerb"


@dataclass(frozen=True)
class ChartFilm:
    """A film of the chart, in printing order: so many hits of some inks.

    ``channels`` are names that no other film has; one for each ink. ``kind`` is what the film
    does, where that is not what its ink usually does.
    """

    name: str
    inks: tuple[Ink, ...]
    channels: tuple[str, ...]
    hits: int = 1
    of_kind: LayerKind | None = None

    @property
    def kind(self) -> LayerKind:
        """What the film does."""
        return self.of_kind or self.inks[0].kind


@dataclass(frozen=True, eq=False)
class Mark:
    """Coverage of one channel, uint8 (h, w), with its middle at a place of the bed in mm."""

    channel: str
    plate: Plate
    x: float
    y: float


@dataclass(frozen=True, eq=False)
class Chart:
    """A test print.

    ``steps`` are the values of a ladder's steps, from the first to the last. One that is measured
    is of no kind and has a ``name``.
    """

    kind: ChartKind | None
    films: tuple[ChartFilm, ...]
    marks: tuple[Mark, ...]
    steps: tuple[float, ...] = ()
    name: str = ""

    @property
    def word(self) -> str:
        """What it is called in files."""
        return self.name if self.kind is None else self.kind.value


@dataclass(frozen=True, eq=False)
class OneOf:
    """A plate as one of many channels; nothing in all others."""

    plate: Plate
    channel: int
    count: int

    @property
    def size(self) -> tuple[int, int]:
        return self.plate.shape[1], self.plate.shape[0]

    def rows(self, start: int, stop: int) -> Pixels:
        made = np.zeros((stop - start, self.size[0], self.count), np.uint8)
        made[..., self.channel] = self.plate[start:stop]
        return made


def chart_bed(chart: Chart, printer: Printer, length: float | None = None) -> BedRaster:
    """A chart at the printer's resolution.

    Parameters
    ----------
    chart : what is printed
    printer : its bed and its resolution count
    length : mm of film that it is printed on; None is the bed's
    """
    frame = BedFrame(
        printer.bed_width, length or printer.bed_height, Grid(printer.dpi_x, printer.dpi_y)
    )
    process = [ink.name for ink in printer.inks if ink.kind is LayerKind.COLOUR]
    infos = tuple(
        ChannelInfo(
            channel, ink.shown, film.kind.value,
            process.index(ink.name) if len(film.inks) > 1 and ink.name in process else -1,
            film.name,
        )
        for film in chart.films
        for ink, channel in zip(film.inks, film.channels, strict=True)
    )  # fmt: skip
    names = [info.name for info in infos]
    laid = tuple(
        Laid(OneOf(mark.plate, names.index(mark.channel), len(names)), mark.x, mark.y)
        for mark in chart.marks
    )
    return BedRaster(frame, laid, infos)


def label(text: str, height: float, grid: Grid) -> Plate:
    """A line of type as a plate; ``height`` of its figures in mm.

    Parameters
    ----------
    text : one line
    height : of figures in mm
    grid : of the plate

    Returns
    -------
    uint8 (rows, width), 0 to 255
    """
    tile: Tile = TextTile(text, height, grid)
    return np.ascontiguousarray(tile.rows(0, tile.size[1])[..., 0])


def flat(width: float, height: float, grid: Grid, level: float = 100.0) -> Plate:
    """A rectangle in mm of so many percent.

    Parameters
    ----------
    width : mm
    height : mm
    grid : of the plate
    level : percent

    Returns
    -------
    uint8 (rows, width), 0 to 255
    """
    wide, high = grid.size(width, height)
    return np.full((high, wide), round(level * 2.55), np.uint8)
