"""The directory of a TIFF file (TIFF 6.0), written behind its strips."""

from __future__ import annotations

import struct
from dataclasses import dataclass
from fractions import Fraction
from typing import IO

import numpy as np

from farbe.model.receiver import Compression, Inks
from farbe.render.raster import Raster

CODES = {Compression.NONE: 1, Compression.LZW: 5, Compression.DEFLATE: 8, Compression.ZSTD: 50000}
#: Compressions before which the differences of neighbours are taken, which makes files half as
#: large.
DIFFERENCED = frozenset({Compression.LZW, Compression.DEFLATE})
_ASCII, _SHORT, _LONG, _RATIONAL, _UNDEFINED, _LONG8 = 2, 3, 4, 5, 7, 16
#: Both kinds of header fit in front of the first strip; which one is known at the end.
HEADER = 16
CLASSIC_END = (1 << 32) - 1
#: Channels that every reader takes for colours of a separated picture.
FOUR = 4
Tag = tuple[int, int, int, bytes]


@dataclass(frozen=True)
class Lay:
    """How the samples of a file lie.

    Attributes
    ----------
    compression, inverted : as the receiver wants them
    bits : of a sample, 8 or 1
    planar : each channel has strips of its own
    inks : how it is said what the channels are
    profile : of the colours, an ICC profile; empty without
    """

    compression: Compression
    inverted: bool = False
    bits: int = 8
    planar: bool = False
    inks: Inks = Inks.NAMED
    profile: bytes = b""

    @property
    def differenced(self) -> bool:
        return self.bits == 8 and self.compression in DIFFERENCED


def finish(file: IO[bytes], tags: list[Tag]) -> None:
    """Write the directory behind the strips, then the header in front of them.

    It is BigTIFF only where 4 GB are not enough.

    Parameters
    ----------
    file : at its end
    tags : ascending
    """
    # Values and directory add less than this to the file.
    big = file.tell() + sum(len(v) for _, _, _, v in tags) + 64 * len(tags) > CLASSIC_END
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


def tags_of(raster: Raster, lay: Lay, strips: tuple[list[int], list[int]], rows: int) -> list[Tag]:
    """The tags of a file.

    Parameters
    ----------
    raster : that was written
    lay : how its samples lie
    strips : offsets and lengths, as they stand in the directory
    rows : in a strip

    Returns
    -------
    Tag, type, number and packed value, ascending.
    """
    width, height = raster.size
    count = len(raster.channels)
    table = {
        254: _long(0),
        256: _long(width),
        257: _long(height),
        258: _short(*[lay.bits] * count),
        259: _short(CODES[lay.compression]),
        273: _long8(strips[0]),
        274: _short(1),
        277: _short(count),
        278: _long(rows),
        279: _long8(strips[1]),
        282: _rational(raster.grid.dpi_x),
        283: _rational(raster.grid.dpi_y),
        284: _short(2 if lay.planar else 1),
        296: _short(2),  # inches
        305: (_ASCII, 6, b"Farbe\0"),
    }
    if lay.differenced:
        table[317] = _short(2)
    if lay.profile:
        table[34675] = (_UNDEFINED, len(lay.profile), lay.profile)
    return [(tag, *value) for tag, value in sorted((table | _colour(raster, lay)).items())]


def _colour(raster: Raster, lay: Lay) -> dict[int, tuple[int, int, bytes]]:
    """What the channels are."""
    count = len(raster.channels)
    if count == 1 and lay.inks is Inks.CMYK:
        # Whoever knows no ink sets takes one ink as a picture in grey; its file has its name.
        return {262: _short(1 if lay.inverted else 0)}
    table = {262: _short(5)}  # separated
    if count > FOUR:
        # libtiff counts four colours in any separated picture, and asks what the others are.
        table[338] = _short(*[0] * (count - FOUR))
    if lay.inks is Inks.NAMED or not has_four(raster):
        names = "".join(channel.name + "\0" for channel in raster.channels).encode("utf-8")
        table |= {
            332: _short(2),  # InkSet: not CMYK alone
            333: (_ASCII, len(names), names),
            334: _short(count),
        }
    else:
        table[332] = _short(1)
    if lay.inverted:
        top = (1 << lay.bits) - 1
        table[336] = _short(top, 0)  # DotRange: what means 0 % and 100 %
    return table


def has_four(raster: Raster) -> bool:
    """Whether a raster begins with the four process inks of one picture.

    Parameters
    ----------
    raster : that is written
    """
    return [channel.process for channel in raster.channels[:FOUR]] == list(range(FOUR))


def _short(*values: int) -> tuple[int, int, bytes]:
    return _SHORT, len(values), struct.pack(f"<{len(values)}H", *values)


def _long(*values: int) -> tuple[int, int, bytes]:
    return _LONG, len(values), struct.pack(f"<{len(values)}I", *values)


def _long8(values: list[int]) -> tuple[int, int, bytes]:
    return _LONG8, len(values), np.array(values, "<u8").tobytes()


def _rational(value: float) -> tuple[int, int, bytes]:
    part = Fraction(value).limit_denominator(10_000)
    return _RATIONAL, 1, struct.pack("<II", part.numerator, part.denominator)
