"""Each kind of test print."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import cv2
import numpy as np

from farbe.art.artwork import Artwork, Pixels, Space
from farbe.layout.figures import number
from farbe.model.base import BadInput
from farbe.model.job import Intent
from farbe.model.printer import LayerKind, Printer
from farbe.model.receiver import Receiver
from farbe.said import say, spoken
from farbe.separate.choke import Plate, choke
from farbe.separate.colour import converter_for
from farbe.separate.grid import Grid
from farbe.testprint.chart import Chart, ChartFilm, ChartKind, Mark, flat, label

#: mm: edge of the bed that stays free, height of figures, side of a patch, space between.
EDGE, FIGURES, SIDE, GAP = 8.0, 2.6, 18.0, 4.0
CHOKES = tuple(round(0.03 * i, 2) for i in range(12))
AMOUNTS = tuple(float(percent) for percent in range(40, 101, 10))
LEASTS = tuple(float(percent) for percent in range(0, 101, 20))
HITS = (1, 2, 3, 4, 6, 8)
KERBS = (2, 4, 8, 12, 16, 24)
#: Teeth of the register comb, and how much one is further than the other in mm.
TEETH, VERNIER = 21, 0.02


class _Sheet:
    """Marks that are set line by line from the bed's near left corner."""

    def __init__(self, printer: Printer, receiver: Receiver) -> None:
        self.printer, self.receiver = printer, receiver
        self.grid = Grid(printer.dpi_x, printer.dpi_y)
        self.marks: list[Mark] = []

    def film(
        self, kind: LayerKind, name: str | None = None, hits: int = 1, nth: int = 1
    ) -> ChartFilm:
        """A film of the printer's ink of a kind; the ``nth`` of its channels.

        Raises
        ------
        BadInput
            If the printer has no such ink.
        """
        inks = self.printer.inks_of(kind, name)
        if not inks:
            raise BadInput(
                say(
                    "The printer {printer} has no ink for {kind}, so there is nothing to test.",
                    printer=spoken(self.printer.name),
                    kind=kind.words,
                )
            )
        more = f" {nth}" if nth > 1 else ""
        channels = tuple(self.receiver.channel(ink.name) + more for ink in inks)
        return ChartFilm((name or kind.value).capitalize() + more, inks, channels, hits)

    def put(self, channel: str, plate: Plate, x: float, y: float) -> None:
        self.marks.append(Mark(channel, plate, x, y))

    def write(self, channel: str, text: str, x: float, y: float) -> None:
        """A label that begins at a place."""
        plate = label(text, FIGURES, self.grid)
        self.put(channel, plate, x + plate.shape[1] / self.grid.per_mm_x / 2, y)

    def places(self, count: int, side: float = SIDE) -> Iterator[tuple[float, float]]:
        """Middles of so many patches, row by row from the near left corner.

        Parameters
        ----------
        count : how many there are
        side : mm

        Raises
        ------
        BadInput
            If the bed is too small for them.
        """
        step = side + GAP
        columns = max(1, int((self.printer.bed_width - 2 * EDGE + GAP) / step))
        rows = -(-count // columns)
        if EDGE + rows * (step + FIGURES + 1) > self.printer.bed_height:
            raise BadInput(
                say(
                    "The bed of {printer} is too small for this test print.",
                    printer=spoken(self.printer.name),
                )
            )
        for place in range(count):
            row, column = divmod(place, columns)
            yield (
                EDGE + side / 2 + column * step,
                EDGE + side / 2 + row * (step + FIGURES + 1),
            )

    def caption(self, channel: str, text: str, x: float, y: float) -> None:
        """Words above a patch with its middle at a place."""
        self.write(channel, text, x - SIDE / 2, y + SIDE / 2 + 1.0 + FIGURES / 2)


def _black(sheet: _Sheet) -> tuple[ChartFilm, str]:
    """The colour film, and the channel of its black, in which labels are set."""
    colour = sheet.film(LayerKind.COLOUR)
    return colour, colour.channels[-1]


def _all_films(sheet: _Sheet) -> list[ChartFilm]:
    """A film of colour, and one for each other ink of the printer."""
    films = [sheet.film(LayerKind.COLOUR)]
    for ink in sheet.printer.inks:
        if ink.kind is not LayerKind.COLOUR:
            films.append(ChartFilm(ink.name, (ink,), (sheet.receiver.channel(ink.name),)))
    return films


def _inks(sheet: _Sheet) -> Chart:
    """Every ink alone, in the order of the channels, named as its channel is."""
    films = _all_films(sheet)
    black = films[0].channels[-1]
    channels = [channel for film in films for channel in film.channels]
    for place, (channel, (x, y)) in enumerate(
        zip(channels, sheet.places(len(channels)), strict=True), start=1
    ):
        sheet.put(channel, flat(SIDE, SIDE, sheet.grid), x, y)
        sheet.caption(black, f"{place} {channel}", x, y)
    return Chart(ChartKind.INKS, tuple(films), tuple(sheet.marks))


def _nozzles(sheet: _Sheet) -> Chart:
    """For each ink a stair of lines one pixel wide, one for each of so many columns."""
    films = _all_films(sheet)
    black = films[0].channels[-1]
    channels = [c for f in films for c in f.channels]
    stair = _stair(sheet.grid)
    for channel, (x, y) in zip(channels, sheet.places(len(channels)), strict=True):
        sheet.put(channel, stair, x, y)
        sheet.caption(black, channel, x, y)
    return Chart(ChartKind.NOZZLES, tuple(films), tuple(sheet.marks))


def _stair(grid: Grid) -> Plate:
    """Sixteen treads; each row of pixels has lines sixteen pixels apart."""
    wide, high = grid.size(SIDE, SIDE)
    plate = np.zeros((high, wide), np.uint8)
    tread = max(1, high // 16)
    for step in range(16):
        plate[step * tread : (step + 1) * tread - 1, step::16] = 255
    return plate


def _greys(sheet: _Sheet, profile: bytes) -> Chart:
    """Steps of black alone and of grey by the profile, and a picture of all hues."""
    colour, black = _black(sheet)
    levels = [round(255 * i / 10) for i in range(11)]
    places = list(sheet.places(25))
    for level, (x, y) in zip(levels, places, strict=False):
        sheet.put(black, flat(SIDE, SIDE, sheet.grid, level / 2.55), x, y)
        sheet.caption(black, f"{level / 2.55:.0f} %", x, y)
    grey = np.array([[[255 - level] * 3 for level in levels]], np.uint8)
    inks = _converted(grey, profile)[0]
    for level, four, (x, y) in zip(levels, inks, places[11:], strict=False):
        for channel, amount in zip(colour.channels, four.tolist(), strict=True):
            sheet.put(channel, flat(SIDE, SIDE, sheet.grid, amount / 2.55), x, y)
        sheet.caption(black, say("grey {level}", level=f"{level / 2.55:.0f}"), x, y)
    planes = _converted(_hues(sheet.grid), profile)
    for (x, y), part in zip(places[22:], np.array_split(planes, 3, axis=1), strict=True):
        for index, channel in enumerate(colour.channels):
            sheet.put(channel, np.ascontiguousarray(part[..., index]), x, y)
    return Chart(ChartKind.GREYS, (colour,), tuple(sheet.marks))


def _hues(grid: Grid) -> Pixels:
    """All hues across, from light to dark along, sRGB."""
    wide, high = grid.size(3 * SIDE, SIDE)
    hls = np.zeros((high, wide, 3), np.uint8)
    hls[..., 0] = np.linspace(0, 179, wide).astype(np.uint8)[None, :]
    hls[..., 1] = np.linspace(235, 20, high).astype(np.uint8)[:, None]
    hls[..., 2] = 255
    return np.asarray(cv2.cvtColor(hls, cv2.COLOR_HLS2RGB), np.uint8)


def _converted(rgb: Pixels, profile: bytes) -> Pixels:
    art = Artwork(rgb, Space.RGB, None, None)
    by = converter_for(art, profile, intent=Intent.RELATIVE, black_point=True)
    inks: Pixels = by(rgb)
    return inks


def _register(sheet: _Sheet) -> Chart:
    """For each ink a comb across and one along, over a comb of black with a finer pitch.

    Where teeth of both meet, their number times :data:`VERNIER` is how far they are off.
    """
    films = _all_films(sheet)
    black = films[0].channels[-1]
    others = [c for f in films for c in f.channels if c != black]
    for channel, (x, y) in zip(others, sheet.places(len(others), 34.0), strict=True):
        for along in (False, True):
            _combs(sheet, black, channel, x, y, along=along)
        sheet.write(black, channel, x - 17, y + 17 + FIGURES / 2)
    steps = tuple(round((i - TEETH // 2) * VERNIER, 3) for i in range(TEETH))
    return Chart(ChartKind.REGISTER, tuple(films), tuple(sheet.marks), steps)


def _combs(sheet: _Sheet, black: str, channel: str, x: float, y: float, *, along: bool) -> None:
    for one, pitch, side in ((black, 1.2, 1.0), (channel, 1.2 + VERNIER, -1.0)):
        for tooth in range(TEETH):
            off, long = (tooth - TEETH // 2) * pitch, 4.0 if tooth % 5 == 0 else 3.0
            if along:
                plate = flat(long, 0.2, sheet.grid)
                sheet.put(one, plate, x - 12 + side * (long / 2 + 0.05), y + off)
            else:
                plate = flat(0.2, long, sheet.grid)
                sheet.put(one, plate, x + off, y - 13 + side * (long / 2 + 0.05))


def _choke(sheet: _Sheet) -> Chart:
    """Colour over white that is choked from step to step: the first without a rim is enough."""
    white, (colour, black) = sheet.film(LayerKind.WHITE), _black(sheet)
    shape = _token(sheet.grid)
    for by, (x, y) in zip(CHOKES, sheet.places(len(CHOKES)), strict=True):
        sheet.put(white.channels[0], choke(shape, by, sheet.grid), x, y)
        sheet.put(colour.channels[1], shape, x, y)
        sheet.caption(black, f"{number(by)} mm", x, y)
    return Chart(ChartKind.CHOKE, (white, colour), tuple(sheet.marks), CHOKES)


def _token(grid: Grid) -> Plate:
    """A disc in a broad ring and a fine one: edges of all directions."""
    wide, high = grid.size(SIDE, SIDE)
    y, x = np.mgrid[0:high, 0:wide]
    far = np.hypot((x + 0.5 - wide / 2) / grid.per_mm_x, (y + 0.5 - high / 2) / grid.per_mm_y)
    solid = (far < 5.5) | ((far > 6.6) & (far < 7.4)) | (np.abs(far - 8.5) < 0.15)
    return np.where(solid, 255, 0).astype(np.uint8)


def _white(sheet: _Sheet) -> Chart:
    """Colours over more and more white."""
    white, (colour, black) = sheet.film(LayerKind.WHITE), _black(sheet)
    third = flat(SIDE / 3, SIDE, sheet.grid)
    for amount, (x, y) in zip(AMOUNTS, sheet.places(len(AMOUNTS)), strict=True):
        sheet.put(white.channels[0], flat(SIDE, SIDE, sheet.grid, amount), x, y)
        for index in range(2):
            sheet.put(colour.channels[1 + index], third, x + (index - 0.5) * 2 * SIDE / 3, y)
        sheet.caption(black, f"{amount:.0f} %", x, y)
    return Chart(ChartKind.WHITE, (white, colour), tuple(sheet.marks), AMOUNTS)


def _ease(sheet: _Sheet) -> Chart:
    """Black that rises over white that falls to a least amount."""
    white, (colour, black) = sheet.film(LayerKind.WHITE), _black(sheet)
    wide, high = sheet.grid.size(SIDE, SIDE)
    rise = np.linspace(0, 1, wide)[None, :].repeat(high, axis=0)
    for least, (x, y) in zip(LEASTS, sheet.places(len(LEASTS)), strict=True):
        amount = 255 * (1 - rise * (1 - least / 100))
        sheet.put(white.channels[0], np.rint(amount).astype(np.uint8), x, y)
        sheet.put(black, np.rint(255 * rise).astype(np.uint8), x, y)
        sheet.caption(black, f"{least:.0f} %", x, y)
    return Chart(ChartKind.EASE, (white, colour), tuple(sheet.marks), LEASTS)


def _hit_ladder(sheet: _Sheet, kind: ChartKind, steps: tuple[int, ...], plate: Plate) -> Chart:
    """Varnish in more and more hits: each film adds what the next step has more."""
    colour, black = _black(sheet)
    films, places = [colour], list(sheet.places(len(steps)))
    before = 0
    for index, hits in enumerate(steps):
        film = sheet.film(LayerKind.VARNISH, hits=hits - before, nth=index + 1)
        films.append(film)
        for x, y in places[index:]:
            sheet.put(film.channels[0], plate, x, y)
        x, y = places[index]
        sheet.caption(black, f"{hits} hits", x, y)
        before = hits
    return Chart(kind, tuple(films), tuple(sheet.marks), tuple(float(hits) for hits in steps))


def _kerb(sheet: _Sheet) -> Chart:
    wide, high = sheet.grid.size(SIDE, SIDE)
    plate = np.full((high, wide), 255, np.uint8)
    rim = sheet.grid.size(2.0, 2.0)
    plate[rim[1] : -rim[1], rim[0] : -rim[0]] = 0
    return _hit_ladder(sheet, ChartKind.KERB, KERBS, plate)


def make_chart(kind: ChartKind, printer: Printer, receiver: Receiver, profile: bytes) -> Chart:
    """A test print for a printer, its channels named as the receiver wants them.

    Parameters
    ----------
    kind : of test print
    printer : that prints it
    receiver : that gets it
    profile : bytes of the printer's ICC profile

    Raises
    ------
    BadInput
        If the printer lacks an ink for it, or its bed is too small.
    """
    sheet = _Sheet(printer, receiver)
    makers: dict[ChartKind, Callable[[], Chart]] = {
        ChartKind.INKS: lambda: _inks(sheet),
        ChartKind.NOZZLES: lambda: _nozzles(sheet),
        ChartKind.GREYS: lambda: _greys(sheet, profile),
        ChartKind.REGISTER: lambda: _register(sheet),
        ChartKind.CHOKE: lambda: _choke(sheet),
        ChartKind.WHITE: lambda: _white(sheet),
        ChartKind.EASE: lambda: _ease(sheet),
        ChartKind.VARNISH: lambda: _hit_ladder(
            sheet, ChartKind.VARNISH, HITS, flat(SIDE, SIDE, sheet.grid)
        ),
        ChartKind.KERB: lambda: _kerb(sheet),
    }
    return makers[kind]()
