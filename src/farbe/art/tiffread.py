"""TIFF into :class:`Artwork`."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt
import tifffile

from farbe.art.artwork import CHANNELS, Artwork, Pixels, Space
from farbe.art.pictures import (
    MAX_BYTES,
    MAX_PIXELS,
    MAX_STREAMED,
    ORIENTATION,
    TURNS,
    fitting_profile,
    likely_dpi,
    no_page,
    too_large,
    upright,
    upright_dpi,
)
from farbe.art.unpacked import UNPACKED, Mapped, small_path, unpack
from farbe.model.base import BadInput

_PHOTOMETRIC = {0: Space.GREY, 1: Space.GREY, 2: Space.RGB, 3: Space.RGB, 5: Space.CMYK}


def read_tiff(path: Path, number: int, unpack_to: Path | None = None) -> Artwork | None:
    """A page of a TIFF by tifffile, which reads more depths and channel kinds than Pillow.

    Parameters
    ----------
    path : the file
    number : of the page, from 1
    unpack_to : where a very large page is unpacked, to be mapped instead of held in memory

    Returns
    -------
    None for palette, JPEG-coded YCbCr and CIE pictures, which are left to Pillow.

    Raises
    ------
    BadInput
        If there is no such page, or it is too large.
    ValueError
        If it is damaged.
    """
    try:
        return _read(path, number, unpack_to)
    except tifffile.TiffFileError as error:
        # An older tifffile's is no ValueError.
        raise ValueError(str(error)) from error


def _read(path: Path, number: int, unpack_to: Path | None) -> Artwork | None:
    with tifffile.TiffFile(path) as file:
        pages = len(file.pages)
        if not 1 <= number <= pages:
            raise BadInput(no_page(path, pages, number))
        page = file.pages[number - 1]
        if not isinstance(page, tifffile.TiffPage):
            raise ValueError("its page has no tags")
        photometric = int(page.photometric)
        if photometric not in _PHOTOMETRIC or photometric == 3:
            return None
        count = page.imagewidth * page.imagelength
        if unpack_to is not None and UNPACKED < count <= MAX_STREAMED and _is_plain(page):
            return replace(_mapped(page, unpack_to), pages=pages)
        if count > MAX_PIXELS:
            raise BadInput(too_large(path, page.imagewidth, page.imagelength))
        if page.nbytes > MAX_BYTES:
            raise ValueError(f"it would take {page.nbytes // 1_000_000_000} GB of memory")
        return replace(_picture(page, photometric), pages=pages)


def _is_plain(page: tifffile.TiffPage) -> bool:
    """Whether a page's samples are pixels as they are: 8 bits, upright, alpha straight or none."""
    colours = CHANNELS[_PHOTOMETRIC[int(page.photometric)]]
    extra = tuple(int(kind) for kind in page.extrasamples)
    turn = page.tags.get(ORIENTATION)
    return (
        page.dtype == np.uint8
        and page.bitspersample == 8
        and int(page.photometric) != 0
        and page.planarconfig == tifffile.PLANARCONFIG.CONTIG
        and page.imagedepth == 1
        and page.samplesperpixel == colours + len(extra)
        and extra in ((), (2,))
        and (turn is None or int(turn.value) not in TURNS)
    )


class _PageRows:
    """Rows of a plain page, asked for from top to bottom."""

    def __init__(self, page: tifffile.TiffPage) -> None:
        self._blocks = _blocks(page)
        self._left: Pixels | None = None

    def rows(self, start: int, stop: int) -> Pixels:
        parts, wanted = [], stop - start
        while wanted > 0:
            block = self._left if self._left is not None else next(self._blocks, None)
            if block is None:
                raise ValueError("its pixels end too soon")
            parts.append(block[:wanted])
            self._left = block[wanted:] if len(block) > wanted else None
            wanted -= len(parts[-1])
        return np.concatenate(parts)


def _blocks(page: tifffile.TiffPage) -> Iterator[Pixels]:
    """Strips, or rows of tiles side by side, top to bottom."""
    width, channels = page.imagewidth, page.samplesperpixel
    block, at = np.zeros((0, width, channels), np.uint8), 0
    for data, index, size in page.segments():
        row, column = int(index[2]), int(index[3])
        # Tiles reach over the picture's edges.
        high = min(int(size[1]), page.imagelength - row)
        wide = min(int(size[2]), width - column)
        if row != at or not len(block):
            if len(block):
                yield block
            block, at = np.zeros((high, width, channels), np.uint8), row
        if data is not None:
            block[:high, column : column + wide] = data[0, :high, :wide]
    yield block


def _mapped(page: tifffile.TiffPage, target: Path) -> Artwork:
    space = _PHOTOMETRIC[int(page.photometric)]
    shape = (page.imagelength, page.imagewidth, page.samplesperpixel)
    unpack(_PageRows(page), shape, target, alpha=bool(page.extrasamples))
    mapped = Mapped(target, shape)
    embedded = _tag(page, 34675)
    icc = fitting_profile(embedded, space)
    return Artwork(
        mapped.pixels, space, _tiff_dpi(page), icc, bool(embedded) and icc is None,
        small=np.load(small_path(target)), looked_at=mapped.looked_at,
    )  # fmt: skip


def _picture(page: tifffile.TiffPage, photometric: int) -> Artwork:
    """One page's pixels: colours, straight alpha, and further channels as plates."""
    space = _PHOTOMETRIC[photometric]
    pixels, dpi = _in_eight_bits(page), _tiff_dpi(page)
    turn = page.tags.get(ORIENTATION)
    if turn is not None and int(turn.value) in TURNS:
        pixels, dpi = upright(pixels, int(turn.value)), upright_dpi(dpi, int(turn.value))
    colours = CHANNELS[space]
    if pixels.shape[2] < colours:
        raise ValueError(f"it has {pixels.shape[2]} channels where {colours} are needed")
    if photometric == 0:
        pixels = np.concatenate([255 - pixels[..., :1], pixels[..., 1:]], axis=2)
    extra = tuple(int(kind) for kind in page.extrasamples)
    alpha_kind = next((kind for kind in extra if kind in (1, 2)), None)
    if alpha_kind is None:
        kept = pixels[..., :colours]
    else:
        kept = pixels[..., [*range(colours), colours + extra.index(alpha_kind)]]
        if alpha_kind == 1:
            kept = _straight(kept)
    special = [i for i, kind in enumerate(extra) if kind in (1, 2)]
    others = [i for i in range(colours, pixels.shape[2]) if i - colours not in special]
    plates = {
        name: np.ascontiguousarray(pixels[..., i])
        for i, name in zip(others, _named(_channel_names(page), colours, len(others)), strict=True)
    }
    embedded = _tag(page, 34675)
    icc = fitting_profile(embedded, space)
    unfit = bool(embedded) and icc is None
    return Artwork(np.ascontiguousarray(kept), space, dpi, icc, unfit, plates)


def _in_eight_bits(page: tifffile.TiffPage) -> Pixels:
    """All samples, uint8 (h, w, samples): a part at a time, so that deep ones take no more."""
    planar = page.planarconfig == tifffile.PLANARCONFIG.SEPARATE and page.samplesperpixel > 1
    if page.dtype is None or page.imagedepth != 1:
        raise ValueError("its samples are of no type that pictures have")
    made = np.zeros((page.imagelength, page.imagewidth, page.samplesperpixel), np.uint8)
    for data, index, size in page.segments():
        if data is None:
            continue
        row, column = int(index[2]), int(index[3])
        # Tiles reach over the picture's edges, strips at the end may be padded.
        high = min(int(size[1]), page.imagelength - row)
        wide = min(int(size[2]), page.imagewidth - column)
        part = _to_bytes(np.asarray(data).reshape(-1, *data.shape[-2:])[:high, :wide])
        first = int(index[0]) if planar else 0
        made[row : row + high, column : column + wide, first : first + part.shape[2]] = part
    return made


def _tag(page: tifffile.TiffPage, code: int) -> bytes | None:
    found = page.tags.get(code)
    return bytes(found.value) if found is not None else None


def _tiff_dpi(page: tifffile.TiffPage) -> tuple[float, float] | None:
    """Dots per inch as the tags state them."""
    stated = [page.tags.get(code) for code in (282, 283)]
    unit = page.tags.get(296)
    if unit is None or int(unit.value) not in (2, 3) or None in stated:
        return None
    sides = [float(tag.value[0]) / float(tag.value[1]) for tag in stated if tag is not None]
    per_inch = 2.54 if int(unit.value) == 3 else 1.0
    return likely_dpi(sides[0] * per_inch, sides[1] * per_inch)


def _channel_names(page: tifffile.TiffPage) -> list[str]:
    """Names of a TIFF's channels: InkNames (TIFF 6.0), or those in the tag 34377."""
    inks = page.tags.get(333)
    if inks is not None:
        text = inks.value.decode("latin-1") if isinstance(inks.value, bytes) else str(inks.value)
        return [name for name in text.split("\0") if name]
    blocks = page.tags.get(34377)
    return _block_names(bytes(blocks.value)) if blocks is not None else []


def _block_names(data: bytes) -> list[str]:
    """Names of channels beyond the colours, in block 1006: strings that begin with their length."""
    at = 0
    while at + 12 <= len(data) and data[at : at + 4] == b"8BIM":
        number = int.from_bytes(data[at + 4 : at + 6], "big")
        name = 1 + data[at + 6]
        at += 6 + name + name % 2
        size = int.from_bytes(data[at : at + 4], "big")
        body = data[at + 4 : at + 4 + size]
        if number == 1006:
            names = []
            while body:
                names.append(body[1 : 1 + body[0]].decode("latin-1"))
                body = body[1 + body[0] :]
            # The first may name the transparency, which is no plate.
            return [n for n in names if n and n.casefold() != "transparency"]
        at += 4 + size + size % 2
    return []


def _named(names: list[str], colours: int, count: int) -> list[str]:
    """A name for each further channel; where the file has none, its number."""
    found = names[colours:] if len(names) >= colours + count else names
    found = [*found, *("" for _ in range(count))][:count]
    made: list[str] = []
    for index, name in enumerate(found, start=1):
        plain = name.strip()[:80] or f"Channel {index}"
        made.append(plain if plain not in made else f"{plain} {index}")
    return made


def _to_bytes(planes: npt.NDArray[Any]) -> Pixels:
    """Any TIFF sample type to uint8 (floats are taken as 0 to 1)."""
    if planes.dtype == np.uint8:
        return planes.view(np.uint8)
    if planes.dtype == np.bool_:
        return planes.astype(np.uint8) * np.uint8(255)
    if planes.dtype.kind == "u":
        top = float(np.iinfo(planes.dtype).max)
        return np.asarray(np.rint(planes.astype(np.float32) * (255.0 / top)), dtype=np.uint8)
    if planes.dtype.kind == "f":
        levels = np.nan_to_num(planes.astype(np.float32)) * 255.0
        return np.asarray(np.clip(np.rint(levels), 0, 255), dtype=np.uint8)
    raise ValueError(f"its samples are of the type {planes.dtype}, which no picture uses")


def _straight(premultiplied: Pixels) -> Pixels:
    """Divide associated alpha out of the colours."""
    alpha = premultiplied[..., -1]
    bands = [
        cv2.divide(np.ascontiguousarray(premultiplied[..., i]), alpha, scale=255.0)
        for i in range(premultiplied.shape[2] - 1)
    ]
    return np.dstack([*bands, alpha]).astype(np.uint8)
