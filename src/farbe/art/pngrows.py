"""PNG read by rows, as they are asked for, so that a large picture is never held whole."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np

from farbe.art.artwork import Pixels
from farbe.art.damage import DAMAGE, unreadable
from farbe.art.pngdecode import decoded
from farbe.art.rowsapart import blocks_apart
from farbe.kept import once

#: How many rows stay: what a few threads that go down the picture side by side look back at.
KEPT = 640
#: Blocks that are decoded before they are asked for.
AHEAD = 4
#: After going back so often the picture is held whole after all.
PATIENCE = 2


class _Block:
    """Rows as they were decoded, uint8 (rows, width, channels)."""

    def __init__(self, rows: Pixels) -> None:
        self.rows = rows

    @once
    def alpha(self) -> Pixels:
        """The last channel: layers look at it several times, and around what they make."""
        found = self.rows[..., -1].copy()
        found.setflags(write=False)
        return found


class PngRows:
    """Rows of a plain PNG: 8 bits a channel, RGB or RGBA, not interlaced.

    Any thread may ask for any rows. Going down the picture costs what reading it once does; going
    back beyond the rows that are kept begins anew, and soon holds the whole picture.

    Parameters
    ----------
    shape : (height, width, channels), as the file's header says
    apart : decoded by a process of its own that sees nothing but the file

    Raises
    ------
    BadInput
        On asking for rows, if the file is damaged or gone.
    """

    def __init__(self, path: Path, shape: tuple[int, int, int], *, apart: bool = False) -> None:
        self._path, self._shape, self._apart = path, shape, apart
        self._lock = threading.Lock()
        self._whole: Pixels | None = None
        self._begun = 0
        self._begin()

    def rows(self, start: int, stop: int) -> Pixels:
        """Rows uint8 (stop - start, width, channels).

        Parameters
        ----------
        start : first row
        stop : row after the last

        Returns
        -------
        uint8 (stop - start, width, channels)

        Raises
        ------
        BadInput
            If the file is damaged.
        """
        parts = self.parts(start, stop)
        return parts[0] if len(parts) == 1 else np.concatenate(parts)

    def parts(self, start: int, stop: int) -> list[Pixels]:
        """The same rows as they were decoded, which takes no copy.

        Parameters
        ----------
        start : first row
        stop : row after the last

        Returns
        -------
        uint8 (some rows, width, channels) each, from top to bottom

        Raises
        ------
        BadInput
            If the file is damaged.
        """
        return [block.rows[own] for block, own in self._blocks_of(start, stop)]

    def alphas(self, start: int, stop: int) -> list[Pixels]:
        """The last channel of the same parts, picked once for all who ask.

        Parameters
        ----------
        start : first row
        stop : row after the last

        Returns
        -------
        uint8 (some rows, width) each, from top to bottom, only to be looked at

        Raises
        ------
        BadInput
            If the file is damaged.
        """
        return [block.alpha[own] for block, own in self._blocks_of(start, stop)]

    def _blocks_of(self, start: int, stop: int) -> list[tuple[_Block, slice]]:
        """Blocks in which rows lie, and which rows of each."""
        with self._lock:
            try:
                if self._whole is None and start < self._first:
                    self._go_back()
                if self._whole is not None:
                    return [(_Block(self._whole[start:stop]), slice(None))]
                self._go_on(stop, keep=max(KEPT, 4 * (stop - start)))
            except DAMAGE as error:
                raise unreadable(self._path, error) from error
            found, at = [], self._first
            for block in self._kept:
                high = len(block.rows)
                if at < stop and at + high > start:
                    found.append((block, slice(max(0, start - at), stop - at)))
                at += high
        return found

    def _go_on(self, stop: int, *, keep: int) -> None:
        """Decode up to a row; of what lies before it, so many rows are kept."""
        while self._end < stop:
            block = next(self._blocks, None)
            if block is None:
                raise ValueError("its pixels end too soon")
            self._kept.append(_Block(block))
            self._end += len(block)
            while self._end - self._first - len(self._kept[0].rows) > keep:
                self._first += len(self._kept.popleft().rows)

    def _begin(self) -> None:
        self._begun += 1
        self._blocks = _ahead(self._decoded())
        self._kept: deque[_Block] = deque()
        self._first = self._end = 0

    def _decoded(self) -> Iterator[Pixels]:
        if self._apart:
            return blocks_apart(self._path, self._shape)
        return decoded(self._path, self._shape)

    def _go_back(self) -> None:
        if self._begun < PATIENCE:
            self._begin()
        else:
            self._whole = np.concatenate(list(self._decoded()))
            self._kept.clear()


def _ahead(blocks: Iterator[Pixels]) -> Iterator[Pixels]:
    """The same, decoded by a thread of its own while others work on those before."""
    with ThreadPoolExecutor(1) as pool:
        waiting = deque(pool.submit(next, blocks, None) for _ in range(AHEAD))
        while (block := waiting.popleft().result()) is not None:
            waiting.append(pool.submit(next, blocks, None))
            yield block
