"""PNG read by rows, as they are asked for, so that a large picture is never held whole.

Chunks and row filters are those of the PNG specification (W3C, third edition, 2025). Filters are
undone by libspng: a few filtered rows are wrapped into a small picture of their own, in front of
them the last row before, which they build on.
"""

from __future__ import annotations

import struct
import threading
from collections import deque
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import IO, Any

import imagecodecs
import numpy as np
from isal import isal_zlib

from farbe.art.artwork import Pixels
from farbe.art.damage import DAMAGE, ZLIB_ERROR, unreadable
from farbe.art.rowsapart import blocks_apart

_SIGNATURE = b"\x89PNG\r\n\x1a\n"
#: Rows that are handed on together, made of parts that the processor's own memory holds; and how
#: many rows stay: what a few threads that go down the picture side by side look back at.
BLOCK, PART, KEPT = 64, 16, 640
#: Blocks that are decoded before they are asked for.
AHEAD = 4
#: Bytes that are read at once, and the most that a stored block holds.
_READ, _STORED = 1 << 20, 65535
#: After going back so often the picture is held whole after all.
PATIENCE = 2
_codecs: Any = imagecodecs


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
        with self._lock:
            try:
                if self._whole is None and start < self._first:
                    self._go_back()
                if self._whole is not None:
                    return self._whole[start:stop]
                self._go_on(stop, keep=max(KEPT, 4 * (stop - start)))
            except DAMAGE as error:
                raise unreadable(self._path, error) from error
            parts, at = [], self._first
            for block in self._kept:
                if at < stop and at + len(block) > start:
                    parts.append(block[max(0, start - at) : stop - at])
                at += len(block)
        return parts[0] if len(parts) == 1 else np.concatenate(parts)

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
            return blocks_apart(self._path, self._shape, BLOCK)
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


def decoded(path: Path, shape: tuple[int, int, int]) -> Iterator[Pixels]:
    """Blocks of rows, top to bottom.

    Parameters
    ----------
    path : a plain PNG
    shape : its height, width and channels

    Yields
    ------
    uint8 (rows, width, channels), ``BLOCK`` rows each, the last less
    """
    height, width, channels = shape
    line = width * channels + 1
    before = np.zeros((width, channels), np.uint8)
    with path.open("rb") as file:
        filtered = _inflated(file, line * PART)
        for top in range(0, height, BLOCK):
            block = np.empty((min(BLOCK, height - top), width, channels), np.uint8)
            for start in range(0, len(block), PART):
                part = block[start : start + PART]
                part[...] = _unfiltered(before, next(filtered, []), part.shape)
                before = part[-1]
            yield block


def _inflated(file: IO[bytes], size: int) -> Iterator[list[bytes]]:
    """What the picture's data chunks hold, inflated: pieces of ``size`` bytes; the last less."""
    inflate = isal_zlib.decompressobj()
    pieces: list[bytes] = []
    wanted = size
    for data in _data(file):
        given = data
        while True:
            try:
                found = inflate.decompress(given, wanted)
            except ZLIB_ERROR as error:
                raise ValueError(str(error)) from error
            given = inflate.unconsumed_tail
            pieces.append(found)
            wanted -= len(found)
            if wanted:
                break
            yield pieces
            pieces, wanted = [], size
    yield pieces


def _data(file: IO[bytes]) -> Iterator[bytes]:
    """The contents of the data chunks, in parts, each chunk proved by its check sum."""
    if file.read(8) != _SIGNATURE:
        raise ValueError("it does not begin as a PNG")
    kind = b""
    while kind != b"IEND":
        length, kind = struct.unpack(">I4s", file.read(8))
        if kind != b"IDAT":
            file.seek(length + 4, 1)
            continue
        check = isal_zlib.crc32(kind)
        while length:
            part = file.read(min(length, _READ))
            if not part:
                raise ValueError("it ends too soon")
            length -= len(part)
            check = isal_zlib.crc32(part, check)
            yield part
        if struct.unpack(">I", file.read(4))[0] != check:
            raise ValueError("a check sum is wrong")


def _unfiltered(before: Pixels, filtered: list[bytes], shape: tuple[int, ...]) -> Pixels:
    """Rows of this shape out of filtered ones that follow the row ``before``."""
    rows, width, channels = shape
    pieces = [b"\0", before.tobytes(), *filtered]
    if sum(map(len, filtered)) != rows * (width * channels + 1):
        raise ValueError("its pixels end too soon")
    header = struct.pack(">IIBBBBB", width, rows + 1, 8, 6 if channels == 4 else 2, 0, 0, 0)
    picture = [_SIGNATURE, *_chunk(b"IHDR", [header])]
    picture += [*_chunk(b"IDAT", _stored(pieces)), *_chunk(b"IEND", [])]
    found = np.asarray(_codecs.spng_decode(b"".join(picture)))
    if found.shape != (rows + 1, width, channels):
        raise ValueError("its channels are not what its header says")
    return found[1:]


def _stored(pieces: list[bytes]) -> list[bytes | memoryview]:
    """Bytes as a zlib stream that stores them as they are (RFC 1950, and RFC 1951, 3.2.4)."""
    stream: list[bytes | memoryview] = [b"\x78\x01"]
    check = 1
    for piece in pieces:
        check = isal_zlib.adler32(piece, check)
        for at in range(0, len(piece), _STORED):
            part = memoryview(piece)[at : at + _STORED]
            stream += [struct.pack("<BHH", 0, len(part), len(part) ^ 0xFFFF), part]
    return [*stream, struct.pack("<BHH", 1, 0, 0xFFFF), struct.pack(">I", check)]


def _chunk(kind: bytes, parts: Sequence[bytes | memoryview]) -> list[bytes | memoryview]:
    check = isal_zlib.crc32(kind)
    for part in parts:
        check = isal_zlib.crc32(part, check)
    head = struct.pack(">I", sum(map(len, parts))) + kind
    return [head, *parts, struct.pack(">I", check)]
