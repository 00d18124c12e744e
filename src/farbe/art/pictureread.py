"""Pictures into :class:`Artwork`, in this process."""

from __future__ import annotations

import logging
import warnings
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
from PIL import Image, ImageFile, UnidentifiedImageError, features

from farbe.art.artwork import Artwork, Pixels, Space
from farbe.art.damage import DAMAGE, unreadable
from farbe.art.pictures import (
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
from farbe.art.pnghead import large_shape
from farbe.art.pngrows import PngRows
from farbe.art.unpacked import UNPACKED, Mapped, small_path, unpack
from farbe.model.base import BadInput
from farbe.said import say

#: Rows that are converted at once.
BLOCK = 256
_TIFF_STARTS = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")
# What they log of broken files is said in the sentence of BadInput.
for _name in ("tifffile", "PIL"):
    logging.getLogger(_name).setLevel(logging.CRITICAL)

#: Its type hints know bytes only; arrays are what it is made for.
_codecs: Any = imagecodecs
#: Told by their content. BMP and GIF say nothing of their size or profile.
FORMATS = (
    "PNG", "JPEG", "TIFF", "BMP", "GIF",
    *(name for name in ("WEBP", "AVIF") if features.check(name.casefold())),
)  # fmt: skip


def picture_here(
    path: Path, number: int = 1, *, by_rows: bool = False, unpack_to: Path | None = None
) -> Artwork:
    """Read a picture in this process, without limits.

    Parameters
    ----------
    path : a picture; told by its content, not by its name
    number : of a TIFF's page, from 1
    by_rows : whether a large PNG may be left in its file, to be read as rows are asked for
    unpack_to : where a very large PNG or plain TIFF is unpacked, to be mapped instead of held in
        memory

    Returns
    -------
    The picture with its pixels, its profile and its own resolution.

    Raises
    ------
    BadInput
        If the file is missing, of another kind, damaged, or larger than ``MAX_PIXELS``.
    """
    try:
        with warnings.catch_warnings():
            # Decoders warn of oddities and of large pictures; the limit here is MAX_PIXELS.
            warnings.simplefilter("ignore")
            Image.MAX_IMAGE_PIXELS = None
            with path.open("rb") as file:
                start = file.read(4096)
            if start[:4] in _TIFF_STARTS:
                # Other pictures do not need what it loads.
                from farbe.art.tiffread import read_tiff

                if (found := read_tiff(path, number, unpack_to)) is not None:
                    return found
            with Image.open(path, formats=FORMATS) as picture:
                pages = getattr(picture, "n_frames", 1) if picture.format == "TIFF" else 1
                if not 1 <= number <= pages:
                    raise BadInput(no_page(path, pages, number))
                picture.seek(number - 1)
                _limit(picture, path, MAX_STREAMED if picture.format == "PNG" else MAX_PIXELS)
                if (
                    picture.format == "PNG"
                    and picture.mode in ("RGB", "RGBA")
                    and _whole_bytes(picture)
                    and _turn(picture) == 1
                ):
                    large = by_rows and large_shape(start) is not None
                    return _read_png(path, picture, by_rows=large, unpack_to=unpack_to)
                _limit(picture, path, MAX_PIXELS)
                return replace(_read_picture(picture), pages=pages)
    except UnidentifiedImageError:
        raise BadInput(
            say(
                "{path} is no picture or drawing that can be read; export it as PNG, JPEG, "
                "TIFF, PDF or SVG.",
                path=path.name,
            )
        ) from None
    except DAMAGE as error:
        raise unreadable(path, error) from error


def _turn(picture: Image.Image) -> int:
    """How a picture is to be turned and mirrored (Exif 2.32, tag 274); 1 is as it is."""
    if picture.format == "PNG" and "exif" not in picture.info:
        # All of the picture would be read to find none.
        return 1
    return int(picture.getexif().get(ORIENTATION, 1))


def _limit(picture: Image.Image, path: Path, most: int) -> None:
    if picture.width * picture.height > most:
        raise BadInput(too_large(path, picture.width, picture.height))


def _stated_dpi(picture: Image.Image) -> tuple[float, float] | None:
    stated = picture.info.get("dpi")
    if stated is None:
        return None
    return likely_dpi(float(stated[0]), float(stated[1]))


def _whole_bytes(picture: Image.Image) -> bool:
    """Whether a PNG has plain channels of eight bits, which the quick decoder takes as they are."""
    if "transparency" in picture.info or not isinstance(picture, ImageFile.ImageFile):
        return False
    return bool(picture.tile) and picture.tile[0].args in ("RGB", "RGBA")


def _read_png(
    path: Path, picture: Image.Image, *, by_rows: bool, unpack_to: Path | None
) -> Artwork:
    """PNG by libspng: several times faster than Pillow, and with one copy in memory."""
    size = (picture.height, picture.width, len(picture.getbands()))
    if by_rows:
        # The pixels of the artwork are its size alone; nothing is read here.
        nothing = np.broadcast_to(np.zeros(1, np.uint8), size)
        whole = _artwork(nothing, Space.RGB, picture)
        return replace(whole, stream=PngRows(path, size, apart=True))
    count = size[0] * size[1]
    if unpack_to is not None and count > UNPACKED and not picture.info.get("interlace"):
        unpack(PngRows(path, size), size, unpack_to, alpha=size[2] == 4)
        mapped = Mapped(unpack_to, size)
        whole = _artwork(mapped.pixels, Space.RGB, picture)
        small = np.load(small_path(unpack_to))
        return replace(whole, small=small, looked_at=mapped.looked_at)
    _limit(picture, path, MAX_PIXELS)
    pixels = np.asarray(_codecs.spng_decode(path.read_bytes()))
    if pixels.dtype != np.uint8 or pixels.ndim != 3:
        raise ValueError("its channels are not what its header says")
    return _artwork(pixels, Space.RGB, picture)


def _read_picture(picture: Image.Image) -> Artwork:
    transparent = "transparency" in picture.info or picture.mode in (
        "LA",
        "PA",
        "RGBA",
        "La",
        "RGBa",
    )
    if picture.mode.startswith("I"):
        return _artwork(_by_blocks(picture, 1, _in_eight_bits), Space.GREY, picture)
    if picture.mode == "CMYK":
        return _artwork(_by_blocks(picture, 4, np.asarray), Space.CMYK, picture)
    if picture.mode in ("1", "L", "LA") and not (picture.mode == "1" and transparent):
        mode, space = "LA" if transparent else "L", Space.GREY
    else:
        mode, space = "RGBA" if transparent else "RGB", Space.RGB

    def plain(block: Image.Image) -> Pixels:
        return np.asarray(block if block.mode == mode else block.convert(mode))

    return _artwork(_by_blocks(picture, len(mode), plain), space, picture)


def _by_blocks(
    picture: Image.Image, channels: int, convert: Callable[[Image.Image], Pixels]
) -> Pixels:
    """All pixels as a function converts them, some rows at a time: no second copy of the whole."""
    picture.load()
    width, height = picture.size
    made = np.empty((height, width, channels), np.uint8)
    for top in range(0, height, BLOCK):
        bottom = min(height, top + BLOCK)
        rows = convert(picture.crop((0, top, width, bottom)))
        made[top:bottom] = rows.reshape(bottom - top, width, channels)
    return made


def _in_eight_bits(block: Image.Image) -> Pixels:
    levels = np.asarray(block).astype(np.float64)
    return np.clip(np.rint(levels / 257.0), 0, 255).astype(np.uint8)


def _artwork(pixels: Pixels, space: Space, picture: Image.Image) -> Artwork:
    embedded, turn = picture.info.get("icc_profile"), _turn(picture)
    icc = fitting_profile(embedded, space)
    return Artwork(
        upright(pixels, turn) if turn in TURNS else pixels, space,
        upright_dpi(_stated_dpi(picture), turn), icc, bool(embedded) and icc is None,
    )  # fmt: skip
