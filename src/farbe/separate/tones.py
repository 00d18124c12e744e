"""Lightness and colour of artwork, each colour worked out once."""

from __future__ import annotations

import io
from collections.abc import Callable
from functools import lru_cache

import cv2
import numpy as np
import numpy.typing as npt
from PIL import Image, ImageCms

from farbe.art.artwork import Pixels, Space
from farbe.art.profiles import srgb_profile
from farbe.colour.lab import difference
from farbe.distinct import distinct
from farbe.kept import Kept
from farbe.model.base import rgb

Floats = npt.NDArray[np.float64]
_MODES = {Space.GREY: "L", Space.RGB: "RGB", Space.CMYK: "CMYK"}
_ALL_COLOURS = 1 << 24
#: White of the CIE illuminant D65, 2° observer, as sRGB has it (IEC 61966-2-1).
_WHITE = np.array([0.95047, 1.0, 1.08883])
_TO_XYZ = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750],
     [0.0193339, 0.1191920, 0.9503041]]
)  # fmt: skip


def lab_of(colours: npt.ArrayLike) -> Floats:
    """CIE L*a*b* (CIE 15:2004) of sRGB colours, 0 to 255, any shape (..., 3).

    Parameters
    ----------
    colours : sRGB, 0 to 255, (..., 3)

    Returns
    -------
    float64 (..., 3): L* 0 to 100, a* and b*.
    """
    v = np.asarray(colours, np.float64) / 255.0
    linear = np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)
    t = linear @ _TO_XYZ.T / _WHITE
    f = np.where(t > (6 / 29) ** 3, np.cbrt(t), t * (29 / 6) ** 2 / 3 + 4 / 29)
    x, y, z = np.moveaxis(f, -1, 0)
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], axis=-1)


class Screen:
    """Artwork colours as sRGB, for looking at; CMYK without a profile by the printer's."""

    def __init__(self, space: Space, icc: bytes | None, profile: bytes) -> None:
        self._space = space
        self._transform: ImageCms.ImageCmsTransform | None = None
        source = icc or (profile if space is Space.CMYK else None)
        if source is not None:
            self._transform = ImageCms.buildTransform(
                io.BytesIO(source), io.BytesIO(srgb_profile()), _MODES[space], "RGB",
                ImageCms.Intent.RELATIVE_COLORIMETRIC,
            )  # fmt: skip
        # Colours met before, one more than their code; fresh zeros take no memory yet.
        self._table: npt.NDArray[np.uint32] | None = None
        if self._transform is not None and space is Space.RGB:
            self._table = np.zeros(_ALL_COLOURS, np.uint32)

    def __call__(self, colours: Pixels) -> Pixels:
        """sRGB uint8 (h, w, 3) of uint8 colours (h, w, n)."""
        if self._transform is None:
            return np.repeat(colours, 3, axis=2) if colours.shape[2] == 1 else colours
        if self._table is None:
            return self._shown(self._transform, colours)
        codes = _codes(colours)
        found = self._table.take(codes, mode="clip")
        unknown = found == 0
        if unknown.any():
            new = distinct(codes[unknown])
            met = np.ascontiguousarray(new.astype("<u4").view(np.uint8).reshape(1, -1, 4)[..., :3])
            self._table[new] = _codes(self._shown(self._transform, met))[0] + 1
            found = self._table.take(codes, mode="clip")
        found -= 1
        shown = found.view(np.uint8).reshape(*codes.shape, 4)
        return np.asarray(cv2.cvtColor(shown, cv2.COLOR_RGBA2RGB), np.uint8)

    @staticmethod
    def _shown(transform: ImageCms.ImageCmsTransform, colours: Pixels) -> Pixels:
        mode, size = transform.input_mode, (colours.shape[1], colours.shape[0])
        packed = np.ascontiguousarray(colours)
        picture = Image.frombuffer(mode, size, packed, "raw", mode, 0, 1)
        return np.asarray(transform.apply(picture))


def _codes(colours: Pixels) -> npt.NDArray[np.uint32]:
    """A number below 2^24 for each colour, uint32 (h, w) of uint8 (h, w, 3)."""
    padded = cv2.cvtColor(np.ascontiguousarray(colours), cv2.COLOR_RGB2RGBA)
    return np.asarray(padded.view("<u4")[..., 0] & np.uint32(0xFFFFFF))


@lru_cache(maxsize=4)
def screen_for(space: Space, icc: bytes | None, profile: bytes) -> Screen:
    """The transform from an artwork's colours to what a screen shows of them.

    Parameters
    ----------
    space : of the pixels
    icc : the artwork's profile, if it has one
    profile : the printer's
    """
    return Screen(space, icc, profile)


class PerColour:
    """A figure of each sRGB colour, 0 to 255, worked out when the colour is first met.

    Safe to share between threads: both write the same values.
    """

    #: Of the table, once most colours were met.
    BYTES = 2 * _ALL_COLOURS

    def __init__(self, work: Callable[[Floats], Floats]) -> None:
        self._work = work
        # One more than the figure; fresh zeros, which take no memory yet, are "not met".
        self._table = np.zeros(_ALL_COLOURS, np.uint16)

    def __call__(self, colours: Pixels) -> Pixels:
        """uint8 (h, w) of sRGB uint8 (h, w, 3)."""
        codes = _codes(colours)
        found = self._table.take(codes, mode="clip")
        unknown = found == 0
        if unknown.any():
            new = distinct(codes[unknown])
            met = new.astype("<u4").view(np.uint8).reshape(-1, 4)[:, :3]
            figures = np.clip(np.rint(self._work(lab_of(met))), 0, 255)
            self._table[new] = figures.astype(np.uint16) + 1
            found = self._table.take(codes, mode="clip")
        return np.asarray(found - 1, dtype=np.uint8)


@lru_cache(maxsize=1)
def lightness_table() -> PerColour:
    """CIE L* × 2.55.

    Returns
    -------
    From sRGB uint8 (h, w, 3) to CIE L* × 2.55, uint8 (h, w).
    """
    return PerColour(lambda lab: lab[..., 0] * 2.55)


#: Tables of settings that were used last; each takes so much when many colours were met.
_NEAR: Kept[tuple[tuple[str, ...], float, float], PerColour] = Kept(
    8, most=2 * PerColour.BYTES, weigh=lambda _: PerColour.BYTES
)


def nearness_table(colours: tuple[str, ...], tolerance: float, softness: float) -> PerColour:
    """255 within ``tolerance`` (CIEDE2000) of a colour, falling to 0 over ``softness`` more.

    Parameters
    ----------
    colours : ``#rrggbb``, at least one
    tolerance : CIEDE2000 up to which a colour is near
    softness : CIEDE2000 over which nearness falls to nothing

    Returns
    -------
    From sRGB uint8 (h, w, 3) to nearness, uint8 (h, w).
    """
    key = (colours, tolerance, softness)
    return _NEAR.get(key, lambda: _nearness(colours, tolerance, softness))


#: Levels of :func:`difference_table` for a CIEDE2000 of 1.
FAR_LEVELS = 16
_FAR: Kept[tuple[int, ...], PerColour] = Kept(
    3, most=2 * PerColour.BYTES, weigh=lambda _: PerColour.BYTES
)


def difference_table(colour: tuple[int, int, int]) -> PerColour:
    """CIEDE2000 to a colour, in steps of 1/16, up to 15.9.

    Parameters
    ----------
    colour : sRGB, 0 to 255

    Returns
    -------
    From sRGB uint8 (h, w, 3) to the difference × 16, uint8 (h, w).
    """
    wanted = lab_of(colour)
    return _FAR.get(colour, lambda: PerColour(lambda lab: difference(lab, wanted) * FAR_LEVELS))


def _nearness(colours: tuple[str, ...], tolerance: float, softness: float) -> PerColour:
    wanted = lab_of([rgb(colour) for colour in colours])

    def work(lab: Floats) -> Floats:
        far = np.min([difference(lab, one) for one in wanted], axis=0)
        fade = (tolerance - far) / softness if softness else np.where(far <= tolerance, 0.0, -1.0)
        return np.asarray(np.clip(1.0 + fade, 0.0, 1.0) * 255.0)

    return PerColour(work)
