"""What is laid into a pocket."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from farbe.art.artwork import Pixels
from farbe.kept import once
from farbe.layout.faced import Faced
from farbe.layout.forplates import PrintForPlates
from farbe.layout.pockets import quarter_turns
from farbe.model.base import BadInput
from farbe.model.layer import Layer
from farbe.plan.order import Channel, channels, mirrored, printing_layers
from farbe.render import onepass
from farbe.render.onepass import MadePlates
from farbe.render.piece import piece_separation
from farbe.render.pieceframe import PieceFrame
from farbe.render.raster import worth_what_lies_around
from farbe.render.rearranged import quarter_turned
from farbe.render.sources import Sources
from farbe.said import inside, say, spoken
from farbe.separate.grid import Grid
from farbe.separate.inkwork import turned_over
from farbe.separate.place import PlacedArtwork
from farbe.separate.plates import Separation
from farbe.sidebyside import WORKERS, in_order

#: Rows of a tile that a thread makes at once.
PART = 256
#: Pixels that a processor's own memory nearly holds with all that is made of them; of half as many
#: Python's own part in each call is a fifth of the time.
FEW_PIXELS = 1 << 18
_FOUR = (0, 1, 2, 3)


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
            rows = self.upright.rows(height - stop, height - start)
            return quarter_turned(rows, 2)
        return self._all[start:stop]

    @once
    def _all(self) -> Pixels:
        return quarter_turned(self.upright.whole(), self.quarters)


@dataclass(frozen=True, eq=False)
class PieceTile:
    """A separation with its plates side by side in each pixel, in the order of the channels.

    Attributes
    ----------
    separation : of the print
    order : for each channel, the index of its plate
    kept : made once for many pockets
    made : plates of that separation which were made before
    """

    separation: Separation
    order: tuple[int, ...]
    kept: bool
    made: MadePlates | None = None

    @property
    def size(self) -> tuple[int, int]:
        return self.separation.size

    @property
    def around(self) -> int:
        return 0 if self.kept else self._seen_around

    @property
    def _seen_around(self) -> int:
        if self.made is not None:
            return 0
        return max((self.separation.around(layer) for layer in self.separation.layers), default=0)

    def rows(self, start: int, stop: int) -> Pixels:
        """Rows, uint8 (stop - start, width, channels).

        Parameters
        ----------
        start : first row
        stop : row after the last

        Returns
        -------
        uint8 (h, w, n)
        """
        return self._all[start:stop] if self.kept else self._made(start, stop)

    @once
    def _all(self) -> Pixels:
        return self.whole()

    def whole(self) -> Pixels:
        """All rows, made by parts in several threads; not kept.

        Returns
        -------
        uint8 (height, width, channels)
        """
        width, height = self.size
        made = np.empty((height, width, len(self.order)), np.uint8)

        rows = worth_what_lies_around(PART, width, self._seen_around)

        def part(start: int) -> None:
            stop = min(start + rows, height)
            made[start:stop] = self._made(start, stop)

        for _ in in_order(part, range(0, height, rows), threads=1 if height <= rows else WORKERS):
            pass
        return made

    def _made(self, start: int, stop: int) -> Pixels:
        into = np.empty((stop - start, self.size[0], len(self.order)), np.uint8)
        if self.made is not None:
            plates = [plate[..., None] for plate in self.made.plates(start, stop)]
            side_by_side(plates, self.order, into)
            return turned_over(into) if self.separation.mirrored else into
        separation = self.separation
        around = {
            layer.name: separation.together(layer, start, stop)
            for layer in separation.layers if separation.looks_around(layer)
        }  # fmt: skip
        few = few_rows(self.size[0]) if len(around) < len(separation.layers) else stop - start
        for low in range(start, stop, few):
            high = min(low + few, stop)
            made = [
                around[layer.name][low - start : high - start] if layer.name in around
                else separation.together(layer, low, high)
                for layer in separation.layers
            ]  # fmt: skip
            side_by_side(made, self.order, into[low - start : high - start])
        return into


def few_rows(width: int) -> int:
    """How many rows of a print lie in the processor's own memory with all that they go through.

    Parameters
    ----------
    width : in pixels

    Returns
    -------
    A power of two, so that blocks in which artwork is read begin with one of the parts.
    """
    return 1 << max(3, min(8, (FEW_PIXELS // width).bit_length() - 1))


def side_by_side(made: list[Pixels], order: tuple[int, ...], into: Pixels) -> None:
    """Lay plates side by side in each pixel, in the order of the channels.

    Parameters
    ----------
    made : plates of each layer, uint8 (rows, width, 1), or 4 of process colour
    order : for each channel, the index of its plate among all
    into : uint8 (rows, width, channels), where they are laid
    """
    first, step = 0, into.shape[2]
    for plates in made:
        count = plates.shape[2]
        at = [channel for channel, plate in enumerate(order) if first <= plate < first + count]
        indices = tuple(order[channel] - first for channel in at)
        if indices == _FOUR and at[3] - at[0] == 3 and plates.flags.c_contiguous:
            # Four bytes go as one number, several times as fast as one after the other.
            number = np.dtype({"names": ["n"], "formats": ["<u4"], "offsets": [at[0]],
                               "itemsize": step})  # fmt: skip
            into.view(number)["n"][..., 0] = plates.view("<u4")[..., 0]
        else:
            for channel, index in zip(at, indices, strict=True):
                into[..., channel] = plates[..., index]
        first += count


def check_printable(job: Faced) -> None:
    """Raise BadInput if no layer prints, or a layer's ink is not in the printer.

    Parameters
    ----------
    job : as one of its faces has it

    Raises
    ------
    BadInput
        With one sentence that says what is wrong.
    """
    layers = printing_layers(job.stack)
    missing = [layer.name for layer in layers if not job.printer.inks_of(layer.kind, layer.ink)]
    if missing:
        raise BadInput(
            say(
                "The printer {printer} has no ink for {missing}; switch that layer off.",
                printer=spoken(job.printer.name),
                missing=inside(spoken(missing[0])),
            )
        )
    if not channels(job):
        raise BadInput(say("No layer is switched on, so there is nothing to print; switch one on."))


def job_tile(
    job: Faced,
    sources: Sources,
    grid: Grid,
    *,
    kept: bool = False,
    turn: float = 0.0,
    placed: PlacedArtwork | None = None,
    canvas: PieceFrame | None = None,
    of: PrintForPlates | None = None,
) -> PieceTile | Turned:
    """The tile that is laid into a pocket, of the job's first artwork.

    Parameters
    ----------
    job : as one of its faces has it
    sources : its artworks, profiles and fonts
    grid : resolution of the bed
    kept : separate it once for many pockets, instead of anew for each
    turn : degrees, anticlockwise on the bed, on top of how pieces lie
    placed, canvas : as :func:`piece_separation` takes them
    of : by which plates that were made before are known; None makes them anew

    Raises
    ------
    BadInput
        If no layer prints, or a layer's ink is not in the printer.
    """
    check_printable(job)
    quarters = quarter_turns(job)
    # A print that is mirrored turns the other way before it is.
    as_read = -turn if mirrored(job.reader) else turn
    upright = upright_grid(job, grid)
    separation = piece_separation(job, sources, upright, turn=as_read, placed=placed, canvas=canvas)
    made = None if of is None else onepass.made(
        onepass.Print(of, upright, as_read, separation.layers), separation.size[1])  # fmt: skip
    order = plate_order(channels(job), printing_layers(job.stack))
    tile = PieceTile(separation, order, kept, made)
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
    """For each channel, the index of its plate in :meth:`Separation.plates`.

    Parameters
    ----------
    found : channels of a job
    layers : that print, from the substrate up

    Returns
    -------
    Index into the plates for each channel.
    """
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
    """Where a piece's middle is in its tile, in pixels: mirrored and turned as the tile is.

    Parameters
    ----------
    job : the job as one of its faces has it
    canvas : the pixels of the piece
    """
    (x, y), (width, height) = canvas.middle, canvas.size
    if mirrored(job.reader):
        x = width - x
    for _ in range(quarter_turns(job)):
        # Anticlockwise: what was right comes to the far side.
        x, y, width, height = y, width - x, height, width
    return x, y
