"""Many-channel TIFF: TIFF 6.0, section 16 ("CMYK images"), with named inks."""

from __future__ import annotations

import os
import struct
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from itertools import pairwise
from pathlib import Path
from typing import IO, Any, BinaryIO

import imagecodecs
import numpy as np
import numpy.typing as npt
from isal import isal_zlib

from farbe.art.artwork import Pixels
from farbe.files.atomic import whole_file
from farbe.model.receiver import Compression
from farbe.render.raster import (
    STRIP,
    Raster,
    Report,
    RowNames,
    ink_sums,
    row_names,
    strips,
    unwatched,
)

_CODES = {Compression.NONE: 1, Compression.LZW: 5, Compression.DEFLATE: 8, Compression.ZSTD: 50000}
_ASCII, _SHORT, _LONG, _RATIONAL, _LONG8 = 2, 3, 4, 5, 16
#: Both kinds of header fit in front of the first strip; which one is known at the end.
_HEADER = 16
_CLASSIC_END = (1 << 32) - 1
#: Bytes of a row from which it may be a strip of its own.
LEAST_STRIP = 16_384
_Encoded = bytes | memoryview
_Encoder = Callable[[Pixels], _Encoded]
#: Its type hints know bytes only; arrays are what it is made for.
_codecs: Any = imagecodecs


def _encoder(compression: Compression) -> _Encoder:
    match compression:
        case Compression.NONE:
            return lambda pixels: np.ascontiguousarray(pixels).reshape(-1).data
        case Compression.LZW:
            return lambda pixels: bytes(_codecs.lzw_encode(pixels))
        case Compression.DEFLATE:
            return lambda pixels: isal_zlib.compress(pixels, 1)
        case Compression.ZSTD:
            return lambda pixels: bytes(_codecs.zstd_encode(pixels, level=1))


def write_tiff(
    raster: Raster,
    path: Path,
    *,
    compression: Compression,
    inverted: bool = False,
    report: Report = unwatched,
) -> npt.NDArray[np.int64]:
    """Write a raster, strip by strip; BigTIFF only where 4 GB are not enough.

    ``inverted`` writes 0 for solid and 255 for no ink, and says so in the tag DotRange.

    Returns
    -------
    int64 array, shape (channels,)
        The sum of coverage (0 to 255 a pixel) of each channel as written.

    Raises
    ------
    BadInput
        If the file cannot be written.
    Cancelled
        If ``report`` does; no file is left.
    """
    with whole_file(path) as file:
        file.write(b"\0" * _HEADER)
        made = _Strips(file, len(raster.channels))
        names = _worth_naming(raster)
        encode = _encoding(raster, _encoder(compression), inverted)
        if names is None:
            for strip in strips(raster, encode, report):
                made.add(strip)
        else:
            _write_rows(raster, encode, names, made, report)
        rows = STRIP if names is None else 1
        _finish(file, _tags(raster, compression, made, rows, inverted))
    return made.sums


@dataclass(frozen=True)
class _Strip:
    """A strip as it stands in the file, and the sum of coverage in each channel, int64."""

    data: _Encoded
    inks: npt.NDArray[np.int64]


_Encode = Callable[[Pixels | None, int], _Strip]


def _encoding(raster: Raster, encode: _Encoder, inverted: bool) -> _Encode:
    """Encodes strips of so many rows; those without ink once for each height."""
    width, count = raster.size[0], len(raster.channels)

    @lru_cache
    def blank(rows: int) -> _Encoded:
        return encode(np.full((rows, width, count), 255 if inverted else 0, np.uint8))

    def strip(pixels: Pixels | None, rows: int) -> _Strip:
        if pixels is None:
            return _Strip(blank(rows), ink_sums(None, count))
        return _Strip(encode(255 - pixels if inverted else pixels), ink_sums(pixels, count))

    return strip


class _Strips:
    """The strips of a file under way."""

    def __init__(self, file: BinaryIO, channels: int) -> None:
        self._file = file
        self._inks: list[npt.NDArray[np.int64]] = []
        self._flushed = 0
        self.offsets: list[int] = []
        self.lengths: list[int] = []
        self.sums = np.zeros(channels, np.int64)

    def add(self, strip: _Strip) -> None:
        self.offsets.append(self._file.tell())
        self.lengths.append(self._file.write(strip.data))
        if self.lengths[-1] % 2:
            self._file.write(b"\0")
        self._inks.append(strip.inks)
        self.sums += strip.inks

    def repeat(self, first: int, count: int) -> None:
        """Add so many strips once more; each has a place of its own, as TIFF 6.0 asks.

        Parameters
        ----------
        first : the first of them, from 1
        count : how many there are
        """
        again = slice(first, first + count)
        start, end = self.offsets[first], self.offsets[again][-1] + self.lengths[again][-1]
        if end > self._flushed:
            self._file.flush()
            self._flushed = self._file.tell()
        by = self._file.tell() - start
        self._file.write(os.pread(self._file.fileno(), end - start, start))
        self.offsets += [offset + by for offset in self.offsets[again]]
        self.lengths += self.lengths[again]
        if self.lengths[-1] % 2:
            self._file.write(b"\0")
        self._inks += self._inks[again]
        self.sums += sum(self._inks[again])


def _worth_naming(raster: Raster) -> RowNames | None:
    """Names of the rows, if most are like others and each makes a strip of fair size."""
    width, height = raster.size
    if width * len(raster.channels) < LEAST_STRIP:
        return None
    names = row_names(raster)
    return names if names is not None and 2 * len(np.unique(names)) < height else None


def _write_rows(
    raster: Raster, encode: _Encode, names: RowNames, made: _Strips, report: Report
) -> None:
    """Write each row as a strip of its own; rows of one name are made and encoded once."""

    def encoded(pixels: Pixels | None, rows: int) -> list[_Strip]:
        if pixels is None:
            return [encode(None, 1)] * rows
        return [encode(pixels[row : row + 1], 1) for row in range(rows)]

    _, first, inverse = np.unique(names, return_index=True, return_inverse=True)
    like = first[inverse.reshape(-1)]
    new = np.flatnonzero(like == np.arange(len(names)))
    runs = np.split(new, np.flatnonzero(np.diff(new) > 1) + 1)
    wanted = [
        (int(start), int(min(start + STRIP, run[-1] + 1)))
        for run in runs
        for start in range(run[0], run[-1] + 1, STRIP)
    ]
    fresh = (strip for some in strips(raster, encoded, report, wanted=wanted) for strip in some)
    # Rows that follow each other as they did before are copied together.
    breaks = np.flatnonzero(np.diff(like) != 1) + 1
    for start, stop in pairwise((0, *breaks.tolist(), len(like))):
        for row in range(start, stop, STRIP):
            of, count = int(like[row]), min(STRIP, stop - row)
            if of == row:
                for _ in range(count):
                    made.add(next(fresh))
            else:
                made.repeat(of, count)
    # Told to the end, it says that it is done.
    next(fresh, None)


def _finish(file: IO[bytes], tags: list[tuple[int, int, int, bytes]]) -> None:
    """The directory behind the strips, then the header in front of them."""
    # Values and directory add less than this to the file.
    big = file.tell() + sum(len(v) for _, _, _, v in tags) + 64 * len(tags) > _CLASSIC_END
    word, entry, room = ("<Q", "<HHQ", 8) if big else ("<I", "<HHI", 4)
    packed: list[bytes] = []
    for tag, kind, number, value in tags:
        if kind == _LONG8 and not big:
            kind, value = _LONG, np.frombuffer(value, "<u8").astype("<u4").tobytes()
        if len(value) > room:
            at = file.tell()
            file.write(value + b"\0" * (len(value) % 2))
            value = struct.pack(word, at)
        packed.append(struct.pack(entry, tag, kind, number) + value.ljust(room, b"\0"))
    directory = file.tell()
    file.write(struct.pack("<Q" if big else "<H", len(packed)))
    file.write(b"".join(packed) + struct.pack(word, 0))
    file.seek(0)
    file.write(
        struct.pack("<2sHHHQ", b"II", 43, 8, 0, directory)
        if big
        else struct.pack("<2sHI", b"II", 42, directory)
    )


def _tags(
    raster: Raster, compression: Compression, made: _Strips, rows: int, inverted: bool
) -> list[tuple[int, int, int, bytes]]:
    """Tag, type, number and packed value, ascending."""
    width, height = raster.size
    count = len(raster.channels)
    names = "".join(channel.name + "\0" for channel in raster.channels).encode("utf-8")

    def short(*values: int) -> tuple[int, int, bytes]:
        return _SHORT, len(values), struct.pack(f"<{len(values)}H", *values)

    def long(*values: int) -> tuple[int, int, bytes]:
        return _LONG, len(values), struct.pack(f"<{len(values)}I", *values)

    def long8(values: list[int]) -> tuple[int, int, bytes]:
        return _LONG8, len(values), np.array(values, "<u8").tobytes()

    def rational(value: float) -> tuple[int, int, bytes]:
        part = Fraction(value).limit_denominator(10_000)
        return _RATIONAL, 1, struct.pack("<II", part.numerator, part.denominator)

    table = {
        254: long(0),
        256: long(width),
        257: long(height),
        258: short(*[8] * count),
        259: short(_CODES[compression]),
        262: short(5),  # separated
        273: long8(made.offsets),
        274: short(1),
        277: short(count),
        278: long(rows),
        279: long8(made.lengths),
        282: rational(raster.grid.dpi_x),
        283: rational(raster.grid.dpi_y),
        284: short(1),  # channels side by side in each pixel
        296: short(2),  # inches
        305: (_ASCII, 6, b"Farbe\0"),
        332: short(2),  # InkSet: not CMYK alone
        333: (_ASCII, len(names), names),
        334: short(count),
    }
    if inverted:
        table[336] = short(*(255, 0) * count)  # DotRange: what means 0 % and 100 %
    return [(tag, *table[tag]) for tag in sorted(table)]
