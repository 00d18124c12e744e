"""The whole bed: tiles laid at the pockets, any rows at a time."""

from __future__ import annotations

import datetime
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from itertools import pairwise

import numpy as np

from farbe.art.artwork import Pixels
from farbe.kept import Kept
from farbe.layout.faced import Faced
from farbe.layout.forplates import print_for_plates
from farbe.layout.frame import BedFrame, printer_frame
from farbe.layout.laid import LaidPiece, printed
from farbe.layout.loads import why_nothing_prints
from farbe.layout.pockets import quarter_turns
from farbe.layout.prints import PocketPrint, one_print
from farbe.model.artwork import ArtworkFile
from farbe.model.base import BadInput
from farbe.model.placing import Placing
from farbe.plan.order import channels, mirrored
from farbe.render.marks import job_marks
from farbe.render.piece import channel_infos, job_artwork
from farbe.render.pieceframe import PieceFrame, place
from farbe.render.piecetile import check_printable, job_tile, middle_as_laid, upright_grid
from farbe.render.raster import ChannelInfo, RowNames, around
from farbe.render.rearranged import reversed_pixels
from farbe.render.sources import Sources
from farbe.render.tile import Laid, Tile
from farbe.separate.grid import Grid
from farbe.separate.place import PlacedArtwork

#: Tiles up to this size together are separated once and kept; others are made anew.
KEPT_BYTES = 160_000_000
#: More rows than a bed has.
_MOST_ROWS = 1 << 32


@dataclass(frozen=True)
class BedRaster:
    """Tiles on a bed; where they overlap, the more ink stays."""

    frame: BedFrame
    laid: tuple[Laid, ...]
    channels: tuple[ChannelInfo, ...]

    @property
    def size(self) -> tuple[int, int]:
        return self.frame.size

    @property
    def grid(self) -> Grid:
        return self.frame.grid

    def rows(self, start: int, stop: int) -> Pixels | None:
        """Rows of the bed; what lies beyond its edges is cut off (a check stops such a job).

        Parameters
        ----------
        start : first row
        stop : row after the last

        Returns
        -------
        uint8 (rows, width, channels); None where nothing lies.
        """
        rows = self._straight(start, stop)
        return None if rows is None else np.ascontiguousarray(rows)

    @property
    def widest(self) -> int:
        return max((one.tile.size[0] for one in self.laid), default=1)

    @property
    def around(self) -> int:
        return max((around(one.tile) for one in self.laid), default=0)

    def row_names(self) -> RowNames:
        """Rows that cross the same tiles at the same places are alike."""
        height = self.size[1]
        names = np.zeros(height, np.int64)
        tiles = []
        for one in self.laid:
            column, row = self.frame.corner(one.x, one.y, one.tile.size, one.middle)
            tiles.append((max(0, row), min(height, row + one.tile.size[1]), row, column, one.tile))
        ends = sorted({end for top, bottom, *_ in tiles if top < bottom for end in (top, bottom)})
        known: dict[tuple[tuple[int, int, int], ...], int] = {}
        for start, stop in pairwise(ends):
            crossed = [
                (row, column, id(tile)) for top, end, row, column, tile in tiles
                if top <= start and stop <= end
            ]  # fmt: skip
            if crossed:
                first = min(row for row, _, _ in crossed)
                pattern = tuple(sorted((row - first, at, tile) for row, at, tile in crossed))
                number = known.setdefault(pattern, len(known) + 1)
                names[start:stop] = number * _MOST_ROWS + np.arange(start - first, stop - first)
        return names

    def _straight(self, start: int, stop: int) -> Pixels | None:
        crossed = []
        for one in self.laid:
            width, height = one.tile.size
            column, row = self.frame.corner(one.x, one.y, (width, height), one.middle)
            top, bottom = max(start, row), min(stop, row + height)
            left, right = max(0, column), min(self.size[0], column + width)
            if top < bottom and left < right:
                there = slice(top - start, bottom - start), slice(left, right)
                own = (top - row, bottom - row), slice(left - column, right - column)
                crossed.append((one.tile, own, there))
        if not crossed:
            return None
        result = np.zeros((stop - start, self.size[0], len(self.channels)), np.uint8)
        # Who makes the next rows begins with other tiles, so that neither waits for the other's.
        first = len(crossed) // 2 if start // (stop - start) % 2 else 0
        for tile, (rows, columns), there in crossed[first:] + crossed[:first]:
            part = tile.rows(*rows)[:, columns]
            np.maximum(result[there], part, out=result[there])
        return result


@dataclass(frozen=True, eq=False)
class Reversed:
    """A tile with its columns in reverse order, its rows, or both."""

    tile: Tile
    columns: bool
    lines: bool

    @property
    def size(self) -> tuple[int, int]:
        return self.tile.size

    def rows(self, start: int, stop: int) -> Pixels:
        height = self.size[1]
        rows = self.tile.rows(height - stop, height - start) if self.lines else (
            self.tile.rows(start, stop)
        )  # fmt: skip
        return reversed_pixels(rows, lines=self.lines, columns=self.columns)


def as_loaded(
    laid: Sequence[Laid], frame: BedFrame, *, turned: bool, flipped: bool = False
) -> tuple[Laid, ...]:
    """What is laid on a bed, for a board that is loaded turned, or a receiver that mirrors.

    Places are turned in millimetres, as the ticket's are: the bed's last pixel may reach over its
    edge, and a picture turned as a whole would be off by that.

    Parameters
    ----------
    laid : tiles and where their middles lie, in mm
    frame : the bed, in mm and pixels
    turned : by half a turn
    flipped : left to right, for a receiver that turns it back
    """
    columns, lines = turned is not flipped, turned
    if not columns and not lines:
        return tuple(laid)
    made: dict[int, Reversed] = {}
    return tuple(
        Laid(
            made.setdefault(id(one.tile), Reversed(one.tile, columns, lines)),
            frame.width - one.x if columns else one.x,
            frame.height - one.y if lines else one.y,
            _reversed(one, columns, lines),
        )
        for one in laid
    )


def _reversed(one: Laid, columns: bool, lines: bool) -> tuple[float, float] | None:
    if one.middle is None:
        return None
    (x, y), (width, height) = one.middle, one.tile.size
    return width - x if columns else x, height - y if lines else y


@dataclass(frozen=True, eq=False)
class FreshTile:
    """A tile that is made when its rows are wanted, and forgotten some tiles later."""

    size: tuple[int, int]
    make: Callable[[], Tile]

    def rows(self, start: int, stop: int) -> Pixels:
        return self.make().rows(start, stop)


def job_bed(
    job: Faced,
    sources: Sources,
    *,
    frame: BedFrame | None = None,
    today: datetime.date | None = None,
) -> BedRaster:
    """The artwork's run of a job; ``today`` is the day that its label says.

    Parameters
    ----------
    job : as the face has it that is printed
    sources : pixels, fonts and profile
    frame : of the bed; the printer's if not given
    today : the day that the label says

    Returns
    -------
    Rows are made as they are asked for, in the order of the channels.

    Raises
    ------
    BadInput
        If nothing would print: no pocket on, no layer on, or an ink that the printer lacks.
    """
    frame = frame or printer_frame(job)
    if why := why_nothing_prints(job):
        raise BadInput(why)
    check_printable(job)
    pieces = printed(job)
    make = _tiles(job, sources, frame.grid, pieces)
    tiles = [
        Laid(tile, piece.x, piece.y, middle)
        for piece in pieces
        if piece.what is not None
        for tile, middle in [make((piece.what, piece.turn))]
    ]
    tiles += job_marks(job, frame.grid, today or datetime.date.today())
    flipped = mirrored(job.reader) and job.receiver.mirrors
    return BedRaster(
        frame=frame,
        laid=as_loaded(tiles, frame, turned=job.bed_turned, flipped=flipped),
        channels=channel_infos(channels(job)),
    )


#: A print, and by how many degrees it is turned besides how all pieces lie.
TurnedPrint = tuple[PocketPrint, float]


def _tiles(
    job: Faced, sources: Sources, grid: Grid, pieces: tuple[LaidPiece, ...]
) -> Callable[[TurnedPrint], tuple[Tile, tuple[float, float]]]:
    """Makes the tile of a print, and tells where the piece's middle is in it.

    Prints of several pockets are separated once and kept while the memory lasts; those of one
    pocket are made when their rows come, and prints that differ in their text share the artwork.
    """
    sign = -1.0 if mirrored(job.reader) else 1.0

    canvases: dict[tuple[ArtworkFile | None, Placing, int | None, float], PieceFrame] = {}

    def canvas_of(one: TurnedPrint) -> PieceFrame:
        """The canvas of a print; it follows from how its artwork lies.

        Parameters
        ----------
        one : a print and its turn
        """
        what, turn = one
        key = what.artwork, what.placing, what.turned, turn
        if key not in canvases:
            of = one_print(job, what)
            canvases[key] = PieceFrame.for_print(of, upright_grid(of, grid), sign * turn)
        return canvases[key]

    def size_of(one: TurnedPrint) -> tuple[int, int]:
        size = canvas_of(one).size
        across = quarter_turns(one_print(job, one[0])) % 2
        return size[::-1] if across else size

    often = Counter((piece.what, piece.turn) for piece in pieces if piece.what is not None)
    largest = max((size_of(one) for one in often), key=lambda size: size[0] * size[1])
    bytes_each = largest[0] * largest[1] * len(channels(job))
    room = KEPT_BYTES // max(1, bytes_each)
    shared = [one for one, count in often.most_common(room) if count > 1]

    at_once = max(4, min(_side_by_side(pieces), 4 * room, 400))

    artworks: Kept[TurnedPrint, PlacedArtwork] = Kept(at_once)
    tiles: Kept[TurnedPrint, Tile] = Kept(at_once)

    def placed(one: TurnedPrint) -> PlacedArtwork:
        of = one_print(job, one[0])
        return place(of, job_artwork(of, sources), canvas_of(one))

    def fresh(one: TurnedPrint) -> Tile:
        return tiles.get(one, lambda: _tile(one, kept=False))

    def _tile(one: TurnedPrint, *, kept: bool) -> Tile:
        what, turn = one
        plain = what.plain, turn
        own = artworks.get(plain, lambda: placed(plain))
        return job_tile(
            one_print(job, what), sources, grid, kept=kept, turn=turn, placed=own,
            canvas=canvas_of(one), of=print_for_plates(job, what),
        )  # fmt: skip

    made: dict[TurnedPrint, Tile] = {one: _tile(one, kept=True) for one in shared}

    def tile(one: TurnedPrint) -> tuple[Tile, tuple[float, float]]:
        # One object for each print, by which rows that are alike are known.
        found = made.setdefault(one, FreshTile(size_of(one), partial(fresh, one)))
        return found, middle_as_laid(one_print(job, one[0]), canvas_of(one))

    return tile


def _side_by_side(pieces: tuple[LaidPiece, ...]) -> int:
    """How many pieces a row of the bed crosses at the most, and some that come next."""
    ends = [(piece.y - piece.size[1] / 2, 1) for piece in pieces]
    ends += [(piece.y + piece.size[1] / 2, -1) for piece in pieces]
    most = crossed = 0
    for _, step in sorted(ends):
        crossed += step
        most = max(most, crossed)
    return 2 * most + 4
