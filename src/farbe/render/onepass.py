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
#: Unpacked strips of a print that are kept; threads ask for rows of two at a time.
UNPACKED = 3
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


@dataclass(frozen=True, eq=False)
class MadePlates:
    """All plates of a print as its reader sees them, packed by strips without loss.

    Attributes
    ----------
    width : in pixels
    strips : by the first row of each
    """

    width: int
    strips: dict[int, _Strip] = field(default_factory=dict)
    _unpacked: Kept[int, list[Plate]] = field(default_factory=lambda: Kept(UNPACKED))

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
        return (
            found[0] if len(found) == 1 else [np.concatenate(p) for p in zip(*found, strict=True)]
        )

    def _strip(self, first: int) -> list[Plate]:
        return self._unpacked.get(first, lambda: self._unpack(first))

    def _unpack(self, first: int) -> list[Plate]:
        strip = self.strips[first]
        shape = strip.stop - first, self.width
        return [
            np.frombuffer(
                _codecs.lz4_decode(plate, out=shape[0] * shape[1]), np.uint8
            ).reshape(shape)
            for plate in strip.packed
        ]  # fmt: skip


_LOCK = Lock()
_open = 0
_made: dict[Print, MadePlates] = {}
_weight = 0


@contextmanager
def one_pass() -> Iterator[None]:
    """Keep the plates that are made by looking at prints for those who write them meanwhile."""
    global _open, _weight
    with _LOCK:
        _open += 1
    try:
        yield
    finally:
        with _LOCK:
            _open -= 1
            if not _open:
                _made.clear()
                _weight = 0


def keep(of: Print, start: int, plates: Sequence[Plate]) -> None:
    """Take plates into the pass that goes on, if one does and there is room.

    Parameters
    ----------
    of : the print
    start : first row
    plates : of all layers in their order, uint8 (rows, width), not mirrored
    """
    global _weight
    if not _open or _weight > MOST:
        return
    packed = tuple(bytes(_codecs.lz4_encode(np.ascontiguousarray(plate))) for plate in plates)
    rows, width = plates[0].shape
    with _LOCK:
        if _open:
            _weight += sum(len(plate) for plate in packed)
            kept = _made.setdefault(of, MadePlates(width))
            kept.strips[start] = _Strip(start + rows, packed)


def made(of: Print, height: int) -> MadePlates | None:
    """The plates of a print, if all of them were made in the pass that goes on.

    Parameters
    ----------
    of : the print
    height : of it, in rows
    """
    with _LOCK:
        found = _made.get(of)
        return found if found is not None and found.reaches(height) else None
