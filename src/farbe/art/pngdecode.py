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
                lines = b"".join(next(filtered, []))
                if len(lines) != min(PART, rows - start) * line:
                    raise ValueError("its pixels end too soon")
                _unfilter(before, np.frombuffer(lines, np.uint8).reshape(-1, line), made, start)
                before = made[min(start + PART, rows) - 1]
            # Whoever looks at a block may let it be filled anew.
            before = before.copy()
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


def _unfilter(before: Pixels, filtered: Pixels, made: Pixels, start: int) -> None:
    """Lay rows where they belong in a block: filtered ones, each behind its filter's number.

    They follow the row ``before``.
    """
    for kind, first, last in _runs(filtered[:, 0].tolist()):
        at = start + first
        if kind == _SEVERAL:
            _by_several(before, filtered[first:last], made, at)
        else:
            own = made[at : start + last]
            _by_one(kind, before, filtered[first:last, 1:].reshape(own.shape), own)
        before = made[start + last - 1]


def _runs(filters: list[int]) -> Iterator[tuple[int, int, int]]:
    """Rows of one kind that follow each other: the kind, the first row, and that after the last.

    The kind is the number of their filter; one for all that build on several neighbours.
    """
    kinds = [min(number, _SEVERAL) for number in filters]
    for row in range(1, len(kinds) - 1):
        if kinds[row - 1] == kinds[row + 1] == _SEVERAL:
            # To begin anew behind it would take as long as to take it along.
            kinds[row] = _SEVERAL
    first = 0
    for kind, run in groupby(kinds):
        last = first + len(list(run))
        yield kind, first, last
        first = last


def _by_one(kind: int, before: Pixels, filtered: Pixels, into: Pixels) -> None:
    """Rows (rows, width, channels) whose filter builds on one neighbour or none."""
    if kind == _NONE:
        into[...] = filtered
    elif kind == _SUB:
        _codecs.delta_decode(filtered, axis=1, out=into)
    else:
        for row, own in zip(filtered, into, strict=True):
            np.add(row, before, out=own)
            before = own


def _by_several(before: Pixels, filtered: Pixels, made: Pixels, at: int) -> None:
    """Rows whose filters may build on several neighbours, laid into a block from its row ``at``."""
    count, (_, width, channels) = len(filtered), made.shape
    # A picture of the row before and these; where that is in the block, it is laid as it is there.
    into = made[at - 1 : at + count] if at else np.empty((count + 1, width, channels), np.uint8)
    header = struct.pack(">IIBBBBB", width, count + 1, 8, 6 if channels == 4 else 2, 0, 0, 0)
    rows = (before.reshape(-1).data, filtered.reshape(-1).data)
    picture = [SIGNATURE, *_chunk(b"IHDR", [header])]
    picture += [*_chunk(b"IDAT", _stored([b"\0", *rows])), *_chunk(b"IEND", [])]
    _codecs.spng_decode(b"".join(picture), out=into)
    if not at:
        made[:count] = into[1:]


def _stored(pieces: Sequence[bytes | memoryview]) -> list[bytes | memoryview]:
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
