"""PNG decoded by blocks of rows.

Chunks and row filters are those of the PNG specification (W3C, third edition, 2025). Filters that
build on one neighbour are undone here. Those that build on several are undone by libspng: rows
that follow each other are wrapped into a small picture of their own, in front of them the last row
before, which they build on. A process of its own begins with this, so it loads little.
"""

from __future__ import annotations

import struct
from collections.abc import Callable, Iterator, Sequence
from itertools import groupby
from pathlib import Path
from typing import IO, TYPE_CHECKING, Any

import imagecodecs
import numpy as np
from isal import isal_zlib

from farbe.art.pnghead import BLOCK, SIGNATURE

if TYPE_CHECKING:
    from farbe.art.artwork import Pixels

#: Rows of a block that the processor's own memory holds.
PART = 16
#: Bytes that are read at once, and the most that a stored block holds.
_READ, _STORED = 1 << 20, 65535
#: Filters that build on no neighbour, on that to the left, on that above (which is between these
#: two), and the first that builds on several.
_NONE, _SUB, _SEVERAL = 0, 1, 3
_codecs: Any = imagecodecs
#: Its type hints call it a plain name.
ZLIB_ERROR: type[Exception] = isal_zlib.error  # type: ignore[assignment]
#: What decoding raises on damaged files.
PNG_DAMAGE = (OSError, ValueError, RuntimeError, MemoryError, struct.error, ZLIB_ERROR)


def decoded(
    path: Path, shape: tuple[int, int, int], room: Callable[[int], Pixels] | None = None
) -> Iterator[Pixels]:
    """Blocks of rows, top to bottom.

    Parameters
    ----------
    path : a plain PNG
    shape : its height, width and channels
    room : gives uint8 (rows, width, channels) for so many rows, into which a block is decoded;
        None makes new ones

    Yields
    ------
    uint8 (rows, width, channels), ``BLOCK`` rows each, the last less

    Raises
    ------
    ValueError
        If the file is damaged.
    """
    height, width, channels = shape
    line = width * channels + 1
    before: Pixels = np.zeros((width, channels), np.uint8)
    with path.open("rb") as file:
        filtered = _inflated(file, line * PART)
        for top in range(0, height, BLOCK):
            rows = min(BLOCK, height - top)
            made = room(rows) if room else np.empty((rows, width, channels), np.uint8)
            for start in range(0, rows, PART):
                part = made[start : start + PART]
                lines = b"".join(next(filtered, []))
                if len(lines) != len(part) * line:
                    raise ValueError("its pixels end too soon")
                _unfilter(before, np.frombuffer(lines, np.uint8).reshape(-1, line), part)
                before = part[-1].copy()
            yield made


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
    if file.read(8) != SIGNATURE:
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


def _unfilter(before: Pixels, filtered: Pixels, into: Pixels) -> None:
    """Lay rows where they belong: filtered ones, each behind its filter's number.

    They follow the row ``before``.
    """
    for kind, run in groupby(range(len(filtered)), lambda row: _kind(int(filtered[row, 0]))):
        rows = list(run)
        own = slice(rows[0], rows[-1] + 1)
        if kind == _SEVERAL:
            into[own] = _by_several(before, filtered[own], into[own].shape)
        else:
            for row in rows:
                _by_one(kind, before, filtered[row, 1:].reshape(before.shape), into[row])
                before = into[row]
        before = into[own][-1]


def _kind(number: int) -> int:
    """The number of a row's filter; one for all that build on several neighbours."""
    return number if number < _SEVERAL else _SEVERAL


def _by_one(kind: int, before: Pixels, filtered: Pixels, into: Pixels) -> None:
    """A row (width, channels) whose filter builds on one neighbour or none."""
    if kind == _NONE:
        into[...] = filtered
    elif kind == _SUB:
        _codecs.delta_decode(filtered, axis=0, out=into)
    else:
        np.add(filtered, before, out=into)


def _by_several(before: Pixels, filtered: Pixels, shape: tuple[int, ...]) -> Pixels:
    """Rows of this shape whose filters build on several neighbours."""
    rows, width, channels = shape
    pieces = [b"\0", before.tobytes(), filtered.tobytes()]
    header = struct.pack(">IIBBBBB", width, rows + 1, 8, 6 if channels == 4 else 2, 0, 0, 0)
    picture = [SIGNATURE, *_chunk(b"IHDR", [header])]
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
