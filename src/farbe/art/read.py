"""PNG, JPEG and TIFF into :class:`Artwork`."""

from __future__ import annotations

import io
import logging
import warnings
from dataclasses import replace
from pathlib import Path
from typing import Any

import cv2
import imagecodecs
import numpy as np
import numpy.typing as npt
import tifffile
from PIL import Image, ImageCms, ImageFile, UnidentifiedImageError

from farbe.art.artwork import Artwork, Pixels, Space
from farbe.art.damage import DAMAGE, unreadable
from farbe.art.drawing import SUFFIXES as DRAWINGS
from farbe.art.drawing import is_drawing, read_drawing
from farbe.art.pngrows import PngRows
from farbe.art.wanted import Wanted
from farbe.model.base import BadInput

#: From so many pixels on a picture may be left in its file.
LARGE = 8_000_000
#: Largest artwork that is read; beyond it memory, not the file, is the limit.
MAX_PIXELS = 1_000_000_000
# What they log of broken files is said in the sentence of BadInput.
for _name in ("tifffile", "PIL"):
    logging.getLogger(_name).setLevel(logging.CRITICAL)

#: Its type hints know bytes only; arrays are what it is made for.
_codecs: Any = imagecodecs
FORMATS = ("PNG", "JPEG", "TIFF")
MAX_BYTES = 8 * MAX_PIXELS
SUFFIXES = (".png", ".jpg", ".jpeg", ".tif", ".tiff", *DRAWINGS)


def read_artwork(path: Path, wanted: Wanted | None = None, *, by_rows: bool = False) -> Artwork:
    """Read one picture or drawing.

    Parameters
    ----------
    path : a PNG, JPEG, TIFF, PDF or SVG file; told by its content, not by its name.
    wanted : of a file that holds more than one picture; None is its first
    by_rows : whether a large PNG may be left in its file, to be read as rows are asked for

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
            if is_drawing(start):
                return read_drawing(path, wanted or Wanted())
            if start[:4] in _TIFF_STARTS and (found := _read_tiff(path)) is not None:
                return found
            with Image.open(path, formats=FORMATS) as picture:
                _limit(picture, path)
                if (
                    picture.format == "PNG"
                    and picture.mode in ("RGB", "RGBA")
                    and _whole_bytes(picture)
                ):
                    return _read_png(path, picture, by_rows=by_rows)
                return _read_picture(picture)
    except UnidentifiedImageError:
        raise BadInput(
            f"{path.name} is not a PNG, JPEG, TIFF, PDF or SVG file that can be read;"
            " export it again."
        ) from None
    except DAMAGE as error:
        raise unreadable(path, error) from error


def _limit(picture: Image.Image, path: Path) -> None:
    if picture.width * picture.height > MAX_PIXELS:
        raise BadInput(_too_large(path, picture.width, picture.height))


def _too_large(path: Path, width: int, height: int) -> str:
    return (
        f"{path.name} has {width} x {height} pixels, more than {MAX_PIXELS // 1_000_000} million;"
        " make it smaller."
    )


def _stated_dpi(picture: Image.Image) -> tuple[float, float] | None:
    stated = picture.info.get("dpi")
    if stated is None:
        return None
    return _likely(float(stated[0]), float(stated[1]))


def _likely(x: float, y: float) -> tuple[float, float] | None:
    """A resolution, unless it cannot be meant."""
    # Cameras write 0 or 1 where nothing is meant.
    return (x, y) if 5 <= x <= 10_000 and 5 <= y <= 10_000 else None


def _profile(icc: bytes | None, space: Space) -> bytes | None:
    """The embedded profile where it fits the pixels; a wrong one is not used."""
    if not icc:
        return None
    try:
        profile = ImageCms.ImageCmsProfile(io.BytesIO(icc))
    except OSError:
        return None
    wanted = {Space.GREY: "GRAY", Space.RGB: "RGB", Space.CMYK: "CMYK"}[space]
    return icc if profile.profile.xcolor_space.strip() == wanted else None


def _whole_bytes(picture: Image.Image) -> bool:
    """Whether a PNG has plain channels of eight bits, which the quick decoder takes as they are."""
    if "transparency" in picture.info or not isinstance(picture, ImageFile.ImageFile):
        return False
    return bool(picture.tile) and picture.tile[0].args in ("RGB", "RGBA")


def _read_png(path: Path, picture: Image.Image, *, by_rows: bool) -> Artwork:
    """PNG by libspng: several times faster than Pillow, and with one copy in memory."""
    size = (picture.height, picture.width, len(picture.getbands()))
    if by_rows and size[0] * size[1] > LARGE and not picture.info.get("interlace"):
        # The pixels of the artwork are its size alone; nothing is read here.
        nothing = np.broadcast_to(np.zeros(1, np.uint8), size)
        whole = _artwork(nothing, Space.RGB, picture)
        return replace(whole, stream=PngRows(path, size))
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
        levels = np.asarray(picture).astype(np.float64)
        grey = np.clip(np.rint(levels / 257.0), 0, 255).astype(np.uint8)
        return _artwork(grey[..., None], Space.GREY, picture)
    if picture.mode == "CMYK":
        return _artwork(np.asarray(picture), Space.CMYK, picture)
    if picture.mode in ("1", "L", "LA") and not (picture.mode == "1" and transparent):
        grey_mode = "LA" if transparent else "L"
        pixels = np.asarray(picture.convert(grey_mode))
        return _artwork(pixels.reshape(*pixels.shape[:2], -1), Space.GREY, picture)
    return _artwork(
        np.asarray(picture.convert("RGBA" if transparent else "RGB")), Space.RGB, picture
    )


def _artwork(pixels: Pixels, space: Space, picture: Image.Image) -> Artwork:
    embedded = picture.info.get("icc_profile")
    icc = _profile(embedded, space)
    return Artwork(pixels, space, _stated_dpi(picture), icc, bool(embedded) and icc is None)


_PHOTOMETRIC = {0: Space.GREY, 1: Space.GREY, 2: Space.RGB, 3: Space.RGB, 5: Space.CMYK}


_TIFF_STARTS = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")


def _read_tiff(path: Path) -> Artwork | None:
    """TIFF by tifffile, which reads more depths and channel kinds than Pillow.

    Palette, JPEG-coded YCbCr and CIE pictures are left to Pillow: None.
    """
    with tifffile.TiffFile(path) as file:
        page = file.pages[0]
        if not isinstance(page, tifffile.TiffPage):
            raise ValueError("its first page has no tags")
        photometric = int(page.photometric)
        if photometric not in _PHOTOMETRIC or photometric == 3:
            return None
        if page.imagewidth * page.imagelength > MAX_PIXELS:
            raise BadInput(_too_large(path, page.imagewidth, page.imagelength))
        if page.nbytes > MAX_BYTES:
            raise ValueError(f"it would take {page.nbytes // 1_000_000_000} GB of memory")
        space = _PHOTOMETRIC[photometric]
        planes = page.asarray()
        if page.planarconfig == tifffile.PLANARCONFIG.SEPARATE and planes.ndim == 3:
            planes = np.moveaxis(planes, 0, -1)
        extra = tuple(int(kind) for kind in page.extrasamples)
        names, dpi, embedded = _channel_names(page), _tiff_dpi(page), _tag(page, 34675)
    pixels = _to_bytes(planes.reshape(*planes.shape[:2], -1))
    colours = {Space.GREY: 1, Space.RGB: 3, Space.CMYK: 4}[space]
    if pixels.shape[2] < colours:
        raise ValueError(f"it has {pixels.shape[2]} channels where {colours} are needed")
    if photometric == 0:
        pixels = np.concatenate([255 - pixels[..., :1], pixels[..., 1:]], axis=2)
    alpha_kind = next((kind for kind in extra if kind in (1, 2)), None)
    if alpha_kind is None:
        kept = pixels[..., :colours]
    else:
        at = colours + extra.index(alpha_kind)
        kept = pixels[..., [*range(colours), at]]
        if alpha_kind == 1:
            kept = _straight(kept)
    special = [i for i, kind in enumerate(extra) if kind in (1, 2)]
    others = [i for i in range(colours, pixels.shape[2]) if i - colours not in special]
    plates = {
        name: np.ascontiguousarray(pixels[..., i])
        for i, name in zip(others, _named(names, colours, len(others)), strict=True)
    }
    icc = _profile(embedded, space)
    unfit = bool(embedded) and icc is None
    return Artwork(np.ascontiguousarray(kept), space, dpi, icc, unfit, plates)


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
    return _likely(sides[0] * per_inch, sides[1] * per_inch)


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
