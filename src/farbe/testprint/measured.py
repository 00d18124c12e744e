"""Charts that are measured: their patches in numbered rows, by hand or for a strip reader."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from farbe.files.reference import Reference, Spot, column_name
from farbe.layout.beside import LONGEST_FILM
from farbe.model.base import BadInput
from farbe.model.patch import Patch
from farbe.model.piece import Material, Reader, Surface
from farbe.model.printer import Ink, LayerKind, Printer
from farbe.model.receiver import Receiver
from farbe.optics.light import to_linear
from farbe.optics.patches import ChartLayer, chart_layers, predicted
from farbe.said import Spoken, say, spoken
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid
from farbe.testprint.chart import Chart, ChartFilm, Mark, label


class Manner(Spoken):
    """How a chart is read."""

    BY_HAND = "by hand"
    STRIP = "strip"


@dataclass(frozen=True)
class Spacing:
    """Mm: width and height of a patch, and what is bare between patches and between rows."""

    wide: float
    high: float
    between: float
    rows: float


SPACINGS = {
    Manner.BY_HAND: Spacing(9.0, 9.0, 2.0, 4.0),
    # A strip reader runs over patches that touch, and is led along the bare line below them.
    Manner.STRIP: Spacing(8.0, 9.0, 0.0, 3.0),
}
#: Mm: edge that stays free, room for the numbers of the rows, height of figures.
EDGE, NUMBERS, FIGURES = 8.0, 9.0, 2.4
#: Light of a surface, 0 to 1, under which black figures cannot be read.
DARK = 0.18


@dataclass(frozen=True, eq=False)
class MeasuredChart:
    """A chart as it prints, and the reference by which it is read; its size in mm."""

    chart: Chart
    reference: Reference
    width: float
    height: float


def measured_chart(
    patches: tuple[Patch, ...],
    printer: Printer,
    receiver: Receiver,
    surface: Surface,
    reader: Reader,
    profile: bytes,
    *,
    white: int,
    manner: Manner = Manner.BY_HAND,
    film: bool = False,
) -> MeasuredChart:
    """A chart of patches, laid out for the printer's bed or for film.

    Parameters
    ----------
    patches : in their order
    printer, receiver : that print it
    surface, reader : what it is printed on, and from which side it is read
    profile : the printer's CMYK profile, ICC bytes, for what is expected of it
    white : hits of white behind its colours
    manner : how it is read
    film : it may be as long as film is

    Raises
    ------
    BadInput
        If the bed is too small for it.
    """
    room = SPACINGS[manner]
    across, down = room.wide + room.between, room.high + room.rows
    columns = int((printer.bed_width - 2 * EDGE - NUMBERS) / across)
    longest = LONGEST_FILM if film else printer.bed_height
    rows = int((longest - 2 * EDGE - FIGURES - 2.0) / down)
    if columns < 1 or rows * columns < len(patches):
        raise BadInput(
            say("The bed of {printer} has room for {room} patches and the chart has {patches}; "
                "take fewer colours, or film.",
                printer=spoken(printer.name), room=max(0, rows * columns), patches=len(patches))
        )  # fmt: skip
    needed = -(-len(patches) // columns)
    wide = 2 * EDGE + NUMBERS + columns * across
    high = 2 * EDGE + FIGURES + 2.0 + needed * down
    spots = tuple(
        Spot(
            f"{column_name(at % columns)}{at // columns + 1}", patch,
            EDGE + NUMBERS + (at % columns + 0.5) * across,
            EDGE + FIGURES + 2.0 + (at // columns) * down + room.high / 2,
        )
        for at, patch in enumerate(patches)
    )  # fmt: skip
    mode = printer.mode
    reference = Reference(
        chart="", printer=printer.name, mode="" if mode is None else mode.name,
        laydown=printer.laydown, inks=tuple(ink.name for ink in printer.inks), surface=surface,
        reader=reader, white=white, columns=columns, spots=spots,
        expected=predicted(patches, printer, surface, reader, profile),
    ).numbered()  # fmt: skip
    sheet = _Sheet(printer, receiver, reader, wide, high)
    return MeasuredChart(sheet.chart(reference, room), reference, wide, high)


class _Sheet:
    """What is printed of a chart; ``x`` from the left and ``y`` from the top, as it is read."""

    def __init__(
        self, printer: Printer, receiver: Receiver, reader: Reader, wide: float, high: float
    ) -> None:
        self.printer, self.receiver = printer, receiver
        self.mirrored, self.wide, self.high = reader is not Reader.FACE, wide, high
        self.theirs = self.mirrored and receiver.mirrors
        self.grid = Grid(printer.dpi_x, printer.dpi_y)
        self.marks: list[Mark] = []
        self._flat = lru_cache(maxsize=None)(self._new_flat)

    def chart(self, reference: Reference, room: Spacing) -> Chart:
        """All its films and marks."""
        layers = chart_layers(reference.patches, self.printer, reference.reader)
        films = [self._film(one) for one in layers]
        for film, one in zip(films, layers, strict=True):
            for channel, levels in zip(film.channels, one.levels, strict=True):
                for spot, level in zip(reference.spots, levels, strict=True):
                    if level:
                        self._put(channel, self._flat(room, level), spot.x, spot.y)
        self._numbers(reference, room, self._legible(films, reference.surface))
        return Chart(None, tuple(films), tuple(self.marks), name="chart")

    @staticmethod
    def _legible(films: list[ChartFilm], surface: Surface) -> str:
        """The channel in which figures can be read: white on what is dark, else black."""
        white = [film for film in films if film.kind is LayerKind.WHITE]
        dark = surface.material is not Material.CLEAR and max(to_linear(surface.colour)) < DARK
        if dark and white:
            return white[0].channels[0]
        colour = next((film for film in films if film.kind is LayerKind.COLOUR), films[-1])
        return colour.channels[-1]

    def _film(self, one: ChartLayer) -> ChartFilm:
        layer = one.layer
        inks = self.printer.inks_of(layer.kind, layer.ink)
        process = layer.kind is LayerKind.COLOUR

        def channel(ink: Ink) -> str:
            name = self.receiver.channel(ink.name)
            return name if process or layer.kind is LayerKind.NAMED else f"{name} {layer.name}"

        return ChartFilm(
            layer.name, inks, tuple(channel(ink) for ink in inks), layer.hits, layer.kind
        )

    def _put(self, channel: str, plate: Plate, x: float, y: float) -> None:
        at = self.wide - x if self.mirrored else x
        if self.theirs:
            # The front end turns the whole bed over.
            at, plate = self.printer.bed_width - at, np.ascontiguousarray(plate[:, ::-1])
        self.marks.append(Mark(channel, plate, at, self.high - y))

    def _new_flat(self, room: Spacing, level: int) -> Plate:
        wide, high = self.grid.size(room.wide, room.high)
        return np.full((high, wide), level, np.uint8)

    def _numbers(self, reference: Reference, room: Spacing, channel: str) -> None:
        """Numbers of the rows, letters of the columns, and what chart it is."""
        spots, columns = reference.spots, reference.columns
        for at in range(0, len(spots), columns):
            self._write(channel, str(at // columns + 1), EDGE, spots[at].y)
        for at in range(min(columns, len(spots))):
            letters = column_name(at)
            self._write(channel, letters, spots[at].x - 0.35 * FIGURES * len(letters),
                        EDGE + FIGURES / 2)  # fmt: skip
        line = f"{reference.chart}  {reference.printer}  {reference.mode}".strip()
        self._write(channel, line, EDGE, self.high - EDGE / 2)

    def _write(self, channel: str, text: str, x: float, y: float) -> None:
        """A line of type that begins at ``x`` with its middle at ``y``."""
        plate = label(text, FIGURES, self.grid)
        if self.mirrored:
            plate = np.ascontiguousarray(plate[:, ::-1])
        self._put(channel, plate, x + plate.shape[1] / self.grid.per_mm_x / 2, y)
