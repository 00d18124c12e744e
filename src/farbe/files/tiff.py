"""Many-channel TIFF: TIFF 6.0, sections 14 and 16 ("CMYK images"), with named inks."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from pathlib import Path
from typing import Any, BinaryIO

import cv2
import imagecodecs
import numpy as np
import numpy.typing as npt
from isal import isal_zlib

from farbe.art.artwork import Pixels
from farbe.atomic import whole_file
from farbe.distinct import distinct
from farbe.files.lzw import lzw_encoded
from farbe.files.predict import differences
from farbe.files.tifftags import HEADER, Lay, finish, has_four, tags_of
from farbe.model.receiver import Compression, Screen, TiffWays
from farbe.render.raster import (
    STRIP,
    ChannelInfo,
    Elsewhere,
    Raster,
    Report,
    RowNames,
    ink_sums,
    row_names,
    rows_at_once,
    strips,
    unwatched,
)
from farbe.separate.screen import round_thresholds

#: Bytes of a row from which it may be a strip of its own.
LEAST_STRIP = 16_384
#: Degrees between the screens of two inks; the lightest of the process inks lies in between.
APART, BETWEEN, LIGHTEST = 30.0, 15.0, 2
_Encoded = bytes | memoryview
_Encoder = Callable[[Pixels], _Encoded]
#: Its type hints know bytes only; arrays are what it is made for.
_codecs: Any = imagecodecs


def _encoder(compression: Compression) -> _Encoder:
    match compression:
        case Compression.NONE:
            return lambda pixels: np.ascontiguousarray(pixels).reshape(-1).data
        case Compression.LZW:
            return lzw_encoded
        case Compression.DEFLATE:
            # Five times as quick as others whose files are as small. A few bytes that it makes may
            # depend on where all lies in memory; what they are unpacked to does not.
            return lambda pixels: isal_zlib.compress(pixels, 1)
        case Compression.ZSTD:
            return lambda pixels: bytes(_codecs.zstd_encode(pixels, level=1))


def write_tiff(
    raster: Raster,
    path: Path,
    *,
    compression: Compression,
    inverted: bool = False,
    ways: TiffWays = TiffWays(),  # noqa: B008  (a frozen value)
    profile: bytes = b"",
    elsewhere: Elsewhere | None = None,
    report: Report = unwatched,
) -> npt.NDArray[np.int64]:
    """Write a raster, strip by strip; BigTIFF only where 4 GB are not enough.

    Parameters
    ----------
    raster : its pixels and channels
    path : the file
    compression : of the strips; before LZW and deflate stands the predictor of section 14
    inverted : 0 is solid and the largest value no ink, which the tag DotRange says
    ways : how it says what its channels are, how samples lie, and whether they are screened
    profile : of the four process colours; put in where ``ways`` ask for it and all four are there
    elsewhere : makes its strips in other processes, which have the same raster
    report : told the share that is done, 0 to 1

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
    lay = _lay(raster, compression, inverted, ways, profile)
    coding = _coding(raster, lay, ways.screen)
    with whole_file(path) as file:
        file.write(b"\0" * HEADER)
        made = _Strips(file, len(raster.channels))
        if elsewhere is None:
            parts = strips(raster, coding.strips, coding.ranges, report)
        else:
            parts = elsewhere(raster, coding.ranges, report)
        fresh = (strip for some in parts for strip in some)
        if coding.names is None:
            for strip in fresh:
                made.add(strip)
        else:
            _write_rows(fresh, coding.names, made)
        finish(file, tags_of(raster, lay, made.listed(), STRIP if coding.names is None else 1))
    return made.sums


def tiff_strips(
    raster: Raster,
    *,
    compression: Compression,
    inverted: bool = False,
    ways: TiffWays = TiffWays(),  # noqa: B008  (a frozen value)
) -> Callable[[Sequence[tuple[int, int]]], list[Any]]:
    """What makes strips of a raster's file in another process.

    Parameters
    ----------
    raster : its pixels and channels
    compression, inverted, ways : those of the file

    Returns
    -------
    Takes first rows, and rows after the last, as the writer asks for them, and makes one for each
    of what only :func:`write_tiff` knows.
    """
    coding = _coding(raster, _lay(raster, compression, inverted, ways, b""), ways.screen)

    def made(ranges: Sequence[tuple[int, int]]) -> list[Any]:
        return [
            [strip.sent for strip in coding.strips(raster.rows(*rows), range(*rows))]
            for rows in ranges
        ]

    return made


def _lay(
    raster: Raster, compression: Compression, inverted: bool, ways: TiffWays, profile: bytes
) -> Lay:
    # Bits of several channels do not lie side by side in any reader that is known.
    return Lay(
        compression, inverted, 8 if ways.screen is None else 1,
        planar=len(raster.channels) > 1 and (ways.planar or ways.screen is not None),
        inks=ways.inks, profile=profile if ways.profile and has_four(raster) else b"",
    )  # fmt: skip


@dataclass(frozen=True)
class _Strip:
    """A strip as it stands in the file, in one part or one for each channel, and the sum of
    coverage in each channel, int64."""

    parts: tuple[_Encoded, ...]
    inks: npt.NDArray[np.int64]

    @property
    def sent(self) -> _Strip:
        """The same without views of what stays behind."""
        return _Strip(tuple(bytes(part) for part in self.parts), self.inks)


_Encode = Callable[[Pixels | None, range], _Strip]


def _encoding(raster: Raster, lay: Lay, screen: Screen | None) -> _Encode:
    """Encodes strips; those without ink once for each height."""
    width, count = raster.size[0], len(raster.channels)
    encode = _encoder(lay.compression)

    def packed(pixels: Pixels) -> tuple[_Encoded, ...]:
        """Parts of samples as they lie, uint8 (rows, ...)."""
        if not lay.planar:
            return (encode(differences(pixels) if lay.differenced else pixels),)
        planes = (np.asarray(cv2.extractChannel(pixels, i), np.uint8) for i in range(count))
        return tuple(
            encode(differences(plane[..., None]) if lay.differenced else plane) for plane in planes
        )

    @lru_cache
    def blank(rows: int) -> tuple[_Encoded, ...]:
        empty = np.full((rows, width, count), 255 if lay.inverted else 0, np.uint8)
        return packed(empty if lay.bits == 8 else _bits(empty > 0))

    def strip(pixels: Pixels | None, rows: range) -> _Strip:
        if pixels is None:
            return _Strip(blank(len(rows)), ink_sums(None, count))
        if screen is None:
            return _Strip(packed(255 - pixels if lay.inverted else pixels), ink_sums(pixels, count))
        dots = pixels > _thresholds(raster, screen, rows)
        sums = 255 * dots.sum(axis=(0, 1), dtype=np.int64)
        return _Strip(packed(_bits(~dots if lay.inverted else dots)), sums)

    return strip


def _bits(dots: npt.NDArray[np.bool_]) -> Pixels:
    """Eight dots to a byte, each row from a byte of its own, uint8 (rows, bytes, channels)."""
    return np.packbits(dots, axis=1)


def _angle(channel: ChannelInfo, screen: Screen) -> float:
    if channel.process < 0:
        return screen.angle
    if channel.process == LIGHTEST:
        return screen.angle - BETWEEN
    return screen.angle + APART * (channel.process - (channel.process > LIGHTEST))


def _thresholds(raster: Raster, screen: Screen, rows: range) -> Pixels:
    """Of every sample, uint8 (rows, width, channels)."""
    grid, width = raster.grid, raster.size[0]
    x = (np.arange(width, dtype=np.float32) + 0.5) * np.float32(25.4 / grid.dpi_x)
    y = (np.arange(rows.start, rows.stop, dtype=np.float32) + 0.5) * np.float32(25.4 / grid.dpi_y)
    made = np.empty((len(rows), width, len(raster.channels)), np.uint8)
    for place, channel in enumerate(raster.channels):
        made[..., place] = round_thresholds(
            x[None, :], y[:, None], screen.ruling / 25.4, _angle(channel, screen)
        )
    return made


class _Strips:
    """The strips of a file under way."""

    def __init__(self, file: BinaryIO, channels: int) -> None:
        self._file = file
        self._inks: list[npt.NDArray[np.int64]] = []
        self._flushed = 0
        self._offsets: list[tuple[int, ...]] = []
        self._lengths: list[tuple[int, ...]] = []
        self.sums = np.zeros(channels, np.int64)

    def listed(self) -> tuple[list[int], list[int]]:
        """Offsets and lengths in the order of the directory: channel after channel."""
        by_part = (zip(*found, strict=True) for found in (self._offsets, self._lengths))
        offsets, lengths = ([one for part in parts for one in part] for parts in by_part)
        return offsets, lengths

    def add(self, strip: _Strip) -> None:
        offsets, lengths = [], []
        for part in strip.parts:
            offsets.append(self._file.tell())
            lengths.append(self._file.write(part))
            if lengths[-1] % 2:
                self._file.write(b"\0")
        self._offsets.append(tuple(offsets))
        self._lengths.append(tuple(lengths))
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
        start = self._offsets[first][0]
        end = self._offsets[again][-1][-1] + self._lengths[again][-1][-1]
        if end > self._flushed:
            self._file.flush()
            self._flushed = self._file.tell()
        by = self._file.tell() - start
        self._file.write(os.pread(self._file.fileno(), end - start, start))
        if self._lengths[again][-1][-1] % 2:
            self._file.write(b"\0")
        self._offsets += [tuple(at + by for at in parts) for parts in self._offsets[again]]
        self._lengths += self._lengths[again]
        self._inks += self._inks[again]
        self.sums += sum(self._inks[again])


def _worth_naming(raster: Raster) -> RowNames | None:
    """Names of the rows, if most are like others and each makes a strip of fair size."""
    width, height = raster.size
    if width * len(raster.channels) < LEAST_STRIP:
        return None
    names = row_names(raster)
    return names if names is not None and 2 * len(distinct(names)) < height else None


@dataclass(frozen=True, eq=False)
class _Coding:
    """How a raster is cut into parts, and made strips of.

    Attributes
    ----------
    ranges : first row, and the row after the last, of each part
    strips : what a part's pixels become
    names : of the rows, where rows are strips and those of one name are made once
    """

    ranges: list[tuple[int, int]]
    strips: Callable[[Pixels | None, range], list[_Strip]]
    names: RowNames | None


def _coding(raster: Raster, lay: Lay, screen: Screen | None) -> _Coding:
    # Of a screen, rows of one name are not alike.
    names = _worth_naming(raster) if screen is None else None
    encode = _encoding(raster, lay, screen)

    def whole(pixels: Pixels | None, rows: range) -> list[_Strip]:
        starts = range(0, len(rows), STRIP)
        return [
            encode(None if pixels is None else pixels[at : at + STRIP], rows[at : at + STRIP])
            for at in starts
        ]

    def each(pixels: Pixels | None, rows: range) -> list[_Strip]:
        if pixels is None:
            return [encode(None, range(1))] * len(rows)
        return [encode(pixels[at : at + 1], range(row, row + 1)) for at, row in enumerate(rows)]

    if names is None:
        return _Coding(rows_at_once(raster, 0, raster.size[1]), whole, None)
    new = np.flatnonzero(_first_like(names) == np.arange(len(names)))
    runs = np.split(new, np.flatnonzero(np.diff(new) > 1) + 1)
    return _Coding(
        [part for run in runs for part in rows_at_once(raster, int(run[0]), int(run[-1]) + 1)],
        each, names,
    )  # fmt: skip


def _first_like(names: RowNames) -> npt.NDArray[np.int64]:
    """For each row the first that has its name."""
    _, first, inverse = np.unique(names, return_index=True, return_inverse=True)
    return np.asarray(first[inverse.reshape(-1)], np.int64)


def _write_rows(fresh: Iterator[_Strip], names: RowNames, made: _Strips) -> None:
    """Write each row as a strip of its own; rows of one name are made and encoded once."""
    like = _first_like(names)
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
