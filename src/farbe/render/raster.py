"""What writers ask for: strips of many-channel pixels, made in parallel, taken in order."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from contextlib import closing
from dataclasses import dataclass
from typing import Any, Protocol, TypeVar, runtime_checkable

import cv2
import numpy as np
import numpy.typing as npt

from farbe.art.artwork import Pixels
from farbe.render.rearranged import channels_at
from farbe.separate.grid import Grid
from farbe.sidebyside import WORKERS, in_order

#: Rows in a strip of a file.
STRIP = 64
#: Rows that are made at once, pixels of one print among them, and bytes of all that lies there, at
#: the most. What lies around rows is looked at, too, and is as much around few as around many.
PART, PART_PIXELS, PART_BYTES = 512, 850_000, 80_000_000
#: Pixels of one print that are made at once with what is looked at around them, where that is much:
#: with twice as many rows as around them on either side, each is gone through twice.
SEEN_PIXELS = 10_000_000
#: Parts in work at once; what is ahead of the writer is bounded by it.
AHEAD = 4
#: Pixels of a line of those that are added up.
ADDED = 64

#: Told how far work is, 0 to 1; raises :class:`Cancelled` to end it.
Report = Callable[[float], None]
Result = TypeVar("Result")


class Cancelled(Exception):
    """The user no longer wants the result."""


class Left(Cancelled):
    """Whoever wanted the result goes; what was begun outside is to go on."""


def unwatched(_: float) -> None:
    """A report that nobody reads.

    Parameters
    ----------
    _ : the share that is done
    """


@dataclass(frozen=True)
class ChannelInfo:
    """A channel of a raster.

    Attributes
    ----------
    name : that the receiver knows it by
    shown : its ink's colour on the screen, ``#rrggbb``
    kind : what its ink does
    process : which of the process inks it is printed with, from 0; -1 for none of them
    layer : the layer that it prints
    """

    name: str
    shown: str
    kind: str
    process: int = -1
    layer: str = ""


class Raster(Protocol):
    """Many-channel pixels that can be had by rows, from any thread."""

    @property
    def size(self) -> tuple[int, int]:
        """(width, height) in pixels."""

    @property
    def grid(self) -> Grid: ...

    @property
    def channels(self) -> tuple[ChannelInfo, ...]: ...

    def rows(self, start: int, stop: int) -> Pixels | None:
        """Rows, uint8 (stop - start, width, channels); None where there is no ink at all.

        Parameters
        ----------
        start : first row
        stop : row after the last

        Returns
        -------
        uint8 (rows, width, channels); None where nothing lies.
        """


@runtime_checkable
class Repeating(Protocol):
    """A raster that knows which of its rows are alike."""

    def row_names(self) -> RowNames | None:
        """A number for each row; rows of one number are alike. None where none are known to be."""


@runtime_checkable
class Tiled(Protocol):
    """A raster that is put together of tiles, one after the other."""

    @property
    def widest(self) -> int:
        """Pixels across the widest tile, at least one."""


@runtime_checkable
class LooksAround(Protocol):
    """Pixels that are made of what lies around them, too."""

    @property
    def around(self) -> int:
        """Rows on either side that are looked at with any that are made."""


#: A number for each row of a raster, int64 (height,); 0 for rows without ink.
RowNames = npt.NDArray[np.int64]


def row_names(raster: object) -> RowNames | None:
    """What a raster says of its rows, if it can.

    Parameters
    ----------
    raster : made row by row
    """
    return raster.row_names() if isinstance(raster, Repeating) else None


def widest(raster: Raster) -> int:
    """Pixels across the widest print of a raster, which is made at once.

    Parameters
    ----------
    raster : made row by row
    """
    return raster.widest if isinstance(raster, Tiled) else raster.size[0]


def around(made: object) -> int:
    """Rows on either side that are looked at with those that are made, if that is known; else 0.

    Parameters
    ----------
    made : row by row
    """
    return made.around if isinstance(made, LooksAround) else 0


@dataclass(frozen=True)
class SomeChannels:
    """Some channels of a raster, by their places in it."""

    whole: Raster
    places: tuple[int, ...]

    @property
    def size(self) -> tuple[int, int]:
        return self.whole.size

    @property
    def grid(self) -> Grid:
        return self.whole.grid

    @property
    def channels(self) -> tuple[ChannelInfo, ...]:
        return tuple(self.whole.channels[place] for place in self.places)

    def rows(self, start: int, stop: int) -> Pixels | None:
        rows = self.whole.rows(start, stop)
        if rows is None:
            return None
        some = channels_at(rows, self.places)
        return some if some.any() else None

    def row_names(self) -> RowNames | None:
        return row_names(self.whole)

    @property
    def widest(self) -> int:
        return widest(self.whole)

    @property
    def around(self) -> int:
        return around(self.whole)


@dataclass(frozen=True)
class Overlaid:
    """Rasters of one size and grid on each other; where they overlap, the more ink stays.

    Attributes
    ----------
    parts : each raster with the places of its channels among ``channels``
    """

    parts: tuple[tuple[Raster, tuple[int, ...]], ...]
    channels: tuple[ChannelInfo, ...]

    @property
    def size(self) -> tuple[int, int]:
        return self.parts[0][0].size

    @property
    def grid(self) -> Grid:
        return self.parts[0][0].grid

    def rows(self, start: int, stop: int) -> Pixels | None:
        result: Pixels | None = None
        for raster, places in self.parts:
            rows = raster.rows(start, stop)
            if rows is None:
                continue
            if result is None:
                result = np.zeros((*rows.shape[:2], len(self.channels)), np.uint8)
            for plane, place in enumerate(places):
                np.maximum(result[..., place], rows[..., plane], out=result[..., place])
        return result

    def row_names(self) -> RowNames | None:
        names = [row_names(raster) for raster, _ in self.parts]
        known = [each for each in names if each is not None]
        if len(known) < len(names):
            return None
        together = np.stack(known, axis=1)
        found = np.unique(together, axis=0, return_inverse=True)[1].reshape(-1) + 1
        return np.where(together.any(axis=1), found, 0)

    @property
    def widest(self) -> int:
        return max(widest(raster) for raster, _ in self.parts)

    @property
    def around(self) -> int:
        return max(around(raster) for raster, _ in self.parts)


def some_channels(raster: Raster, wanted: tuple[ChannelInfo, ...]) -> Raster:
    """A raster with only those channels; itself, if they are all.

    Parameters
    ----------
    raster : made row by row
    wanted : channels of it, in order
    """
    if raster.channels == wanted:
        return raster
    names = [info.name for info in raster.channels]
    return SomeChannels(raster, tuple(names.index(info.name) for info in wanted))


def worth_what_lies_around(rows: int, wide: int, beside: int) -> int:
    """So many rows of a print, or more where much is looked at with them.

    Parameters
    ----------
    rows : that are made at once otherwise
    wide : pixels across the print
    beside : rows on either side that are looked at, too
    """
    return max(rows, min(2 * beside, SEEN_PIXELS // wide - 2 * beside))


def rows_at_once(raster: Raster, start: int, stop: int) -> list[tuple[int, int]]:
    """Parts of rows that are made at once, as many for each thread, of whole strips but the last.

    Parameters
    ----------
    raster : made row by row
    start : first row
    stop : row after the last

    Returns
    -------
    First row of each part, and the row after its last.
    """
    of_row = raster.size[0] * len(raster.channels)
    wide = widest(raster)
    rows = worth_what_lies_around(min(PART, PART_PIXELS // wide), wide, around(raster))
    rows = min(rows, PART_BYTES // of_row)
    most, count = max(1, rows // STRIP), max(1, math.ceil((stop - start) / STRIP))
    rounds = math.ceil(count / (WORKERS * most))
    step = STRIP * math.ceil(count / (WORKERS * rounds))
    return [(row, min(row + step, stop)) for row in range(start, stop, step)]


def strips(
    raster: Raster,
    work: Callable[[Pixels | None, range], Result],
    wanted: Sequence[tuple[int, int]],
    report: Report = unwatched,
) -> Iterator[Result]:
    """Make every part, top to bottom, and do ``work`` on it in worker threads.

    Parameters
    ----------
    raster : what is made
    work : takes the part's pixels (None for no ink) and its rows
    wanted : first row of each part, and the row after its last
    report : is told how far it is, and says whether to go on

    Yields
    ------
    The results of ``work`` in the order of the parts.

    Raises
    ------
    Cancelled
        When ``report`` does; parts in work are finished first.
    """
    height = raster.size[1]

    def one(rows: tuple[int, int]) -> Result:
        return work(raster.rows(*rows), range(*rows))

    with closing(in_order(one, wanted, ahead=AHEAD)) as made:
        for (start, _), result in zip(wanted, made, strict=True):
            report(start / height)
            yield result
    report(1.0)


#: Makes strips of a raster in other processes, which have it too, by their first row and the row
#: after the last: for each of them what the format's own encoder makes of it. Told how far it is,
#: the report says whether to go on.
Elsewhere = Callable[[Raster, Sequence[tuple[int, int]], Report], Iterator[Any]]


def ink_sums(pixels: Pixels | None, count: int) -> npt.NDArray[np.int64]:
    """Sum of coverage, 0 to 255 a pixel, in each of ``count`` channels, int64 (count,).

    Parameters
    ----------
    pixels : uint8 (h, w, n); None for empty rows
    count : channels
    """
    if pixels is None:
        return np.zeros(count, np.int64)
    # Lines of some pixels are added up at once; what is left is less than one of them.
    flat, line = pixels.reshape(-1), count * ADDED
    whole = len(flat) // line * line
    sums = flat[whole:].reshape(-1, count).sum(axis=0, dtype=np.int64)
    if whole:
        lines = flat[:whole].reshape(-1, line)
        added = np.asarray(cv2.reduce(lines, 0, cv2.REDUCE_SUM, dtype=cv2.CV_32S))
        sums += added.reshape(ADDED, count).sum(axis=0, dtype=np.int64)
    return np.asarray(sums, np.int64)
