"""One pass for looking at a print and for handing it off: plates that were made are taken over."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from threading import Lock
from typing import Any

import imagecodecs
import numpy as np

from farbe.kept import Kept
from farbe.layout.forplates import PrintForPlates
from farbe.model.layer import Layer
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid

#: Bytes of packed plates that wait to be handed off; prints beyond that are separated again.
MOST = 192 << 20
#: Rows of a strip: about as many as are written at once.
ROWS = 64
#: Unpacked strips that stay for the next rows, and their bytes: pieces lie side by side on a bed.
UNPACKED, ROOM = 400, 64 << 20
_codecs: Any = imagecodecs


@dataclass(frozen=True)
class Print:
    """What the plates of a print follow from.

    Attributes
    ----------
    of : what is printed
    grid : on which it stands upright
    turn : degrees, anticlockwise as read, by which it is turned besides
    layers : whose plates they are
    """

    of: PrintForPlates
    grid: Grid
    turn: float
    layers: tuple[Layer, ...]


@dataclass(frozen=True)
class _Strip:
    stop: int
    packed: tuple[bytes, ...]


#: Strips by their print and first row.
_Unpacked = Kept[tuple["MadePlates", int], list[Plate]]


@dataclass(frozen=True, eq=False)
class MadePlates:
    """All plates of a print as its reader sees them, packed by strips without loss.

    Attributes
    ----------
    width : in pixels
    unpacked : strips of all prints that were asked for last
    strips : by the first row of each
    """

    width: int
    unpacked: _Unpacked
    strips: dict[int, _Strip] = field(default_factory=dict)

    def reaches(self, height: int) -> bool:
        """Whether all rows are there.

        Parameters
        ----------
        height : of the print, in rows
        """
        row = 0
        while row < height and row in self.strips:
            row = self.strips[row].stop
        return row >= height

    def plates(self, start: int, stop: int) -> list[Plate]:
        """Rows of every plate, uint8 (stop - start, width), as :meth:`Separation.plates` gives.

        Parameters
        ----------
        start, stop : rows of the print

        Returns
        -------
        In the order of the layers, not mirrored.
        """
        found = [
            [plate[max(0, start - first) : stop - first] for plate in self._strip(first)]
            for first in sorted(self.strips)
            if first < stop and self.strips[first].stop > start
        ]
        if len(found) == 1:
            return found[0]
        return [np.concatenate(parts) for parts in zip(*found, strict=True)]

    def _strip(self, first: int) -> list[Plate]:
        return self.unpacked.get((self, first), lambda: self._unpack(first))

    def _unpack(self, first: int) -> list[Plate]:
        strip = self.strips[first]
        shape = strip.stop - first, self.width
        return [
            np.frombuffer(
                _codecs.lz4_decode(plate, out=shape[0] * shape[1]), np.uint8
            ).reshape(shape)
            for plate in strip.packed
        ]  # fmt: skip


class _Pass:
    """What is kept while one goes on."""

    def __init__(self) -> None:
        self.made: dict[Print, MadePlates] = {}
        self.weight = 0
        self.unpacked: _Unpacked = Kept(
            UNPACKED, most=ROOM, weigh=lambda strip: sum(plate.nbytes for plate in strip)
        )


_LOCK = Lock()
_now: _Pass | None = None
_users = 0


@contextmanager
def one_pass() -> Iterator[None]:
    """Keep the plates that are made by looking at prints for those who write them meanwhile."""
    global _now, _users
    with _LOCK:
        _users += 1
        _now = _now or _Pass()
    try:
        yield
    finally:
        with _LOCK:
            _users -= 1
            if not _users:
                _now = None


def keep(of: Print, start: int, plates: Sequence[Plate]) -> None:
    """Take plates into the pass that goes on, if one does and there is room.

    Parameters
    ----------
    of : the print
    start : first row
    plates : of all layers in their order, uint8 (rows, width), not mirrored
    """
    going = _now
    if going is None or going.weight > MOST or not plates:
        return
    rows, width = plates[0].shape
    strips = {}
    for top in range(0, rows, ROWS):
        stop = min(rows, top + ROWS)
        packed = tuple(_codecs.lz4_encode(np.ascontiguousarray(p[top:stop])) for p in plates)
        strips[start + top] = _Strip(start + stop, packed)
    with _LOCK:
        going.weight += sum(len(plate) for strip in strips.values() for plate in strip.packed)
        into = going.made.setdefault(of, MadePlates(width, going.unpacked))
        into.strips.update(strips)


def made(of: Print, height: int) -> MadePlates | None:
    """The plates of a print, if all of them were made in the pass that goes on.

    Parameters
    ----------
    of : the print
    height : of it, in rows
    """
    with _LOCK:
        found = None if _now is None else _now.made.get(of)
        return found if found is not None and found.reaches(height) else None
