"""Many-channel TIFF: TIFF 6.0, section 16 ("CMYK images"), with named inks."""

from __future__ import annotations

import struct
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import IO, Any

import imagecodecs
import numpy as np
import numpy.typing as npt

from farbe.art.artwork import Pixels
from farbe.files.atomic import whole_file
from farbe.model.receiver import Compression
from farbe.render.raster import STRIP, Raster, Report, ink_sums, strips, unwatched

_CODES = {Compression.NONE: 1, Compression.LZW: 5, Compression.DEFLATE: 8, Compression.ZSTD: 50000}
_ASCII, _SHORT, _LONG, _RATIONAL, _LONG8 = 2, 3, 4, 5, 16
#: Both kinds of header fit in front of the first strip; which one is known at the end.
_HEADER = 16
_CLASSIC_END = (1 << 32) - 1
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
            return lambda pixels: bytes(_codecs.zlibng_encode(pixels, level=2))
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
    count = len(raster.channels)
    encode = _encoder(compression)
    # Strips without ink are all alike and are encoded once for each height.
    blank: dict[int, _Encoded] = {}

    def encoded(pixels: Pixels | None, rows: int) -> tuple[_Encoded, npt.NDArray[np.int64]]:
        if pixels is not None:
            return encode(255 - pixels if inverted else pixels), ink_sums(pixels, count)
        if rows not in blank:
            empty = np.full((rows, raster.size[0], count), 255 if inverted else 0, np.uint8)
            blank[rows] = encode(empty)
        return blank[rows], ink_sums(None, count)

    sums = np.zeros(count, np.int64)
    offsets: list[int] = []
    lengths: list[int] = []
    with whole_file(path) as file:
        file.write(b"\0" * _HEADER)
        for data, inks in strips(raster, encoded, report):
            offsets.append(file.tell())
            lengths.append(file.write(data))
            sums += inks
            if lengths[-1] % 2:
                file.write(b"\0")
        _finish(file, _tags(raster, compression, offsets, lengths, inverted))
    return sums


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
    raster: Raster,
    compression: Compression,
    offsets: list[int],
    lengths: list[int],
    inverted: bool,
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
        273: long8(offsets),
        274: short(1),
        277: short(count),
        278: long(STRIP),
        279: long8(lengths),
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
