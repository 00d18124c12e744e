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

#: How many rows stay: what a few threads that go down the picture side by side look back at.
KEPT = 640
#: Blocks that are decoded before they are asked for.
AHEAD = 4
#: After going back so often the picture is held whole after all.
PATIENCE = 2


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
        with self._lock:
            try:
                if self._whole is None and start < self._first:
                    self._go_back()
                if self._whole is not None:
                    return [self._whole[start:stop]]
                self._go_on(stop, keep=max(KEPT, 4 * (stop - start)))
            except DAMAGE as error:
                raise unreadable(self._path, error) from error
            parts, at = [], self._first
            for block in self._kept:
                if at < stop and at + len(block) > start:
                    parts.append(block[max(0, start - at) : stop - at])
                at += len(block)
        return parts

    def _go_on(self, stop: int, *, keep: int) -> None:
        """Decode up to a row; of what lies before it, so many rows are kept."""
        while self._end < stop:
            block = next(self._blocks, None)
            if block is None:
                raise ValueError("its pixels end too soon")
            self._kept.append(block)
            self._end += len(block)
            while self._end - self._first - len(self._kept[0]) > keep:
                self._first += len(self._kept.popleft())

    def _begin(self) -> None:
        self._begun += 1
        self._blocks = _ahead(self._decoded())
        self._kept: deque[Pixels] = deque()
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
