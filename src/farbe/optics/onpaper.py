"""What process inks look like on white, in linear light and in LittleCMS's full precision."""

from __future__ import annotations

import imagecodecs
import numpy as np
import numpy.typing as npt

from farbe.art.artwork import Pixels
from farbe.art.profiles import srgb_profile
from farbe.model.base import BadInput
from farbe.optics.films import Light
from farbe.said import say
from farbe.sidebyside import in_order

#: LittleCMS's cmsFLAGS_NOOPTIMIZE: without it, colours come from a coarse table of 8 bits.
_NO_SHORTCUTS = 0x0100
#: ICC's media-relative colorimetric intent: the film alone, not the paper's tint.
_RELATIVE = 1
#: Where fewer than this share of the pixels differ, each colour is converted once.
_FEW = 0.4
_SRGB_EDGE = 0.04045
#: Colours that one thread converts before it takes more.
_AT_ONCE = 1 << 17


def light_on_paper(inks: Pixels, profile: bytes) -> Light:
    """What inks give back of light, relative to the paper that the profile is for.

    Parameters
    ----------
    inks : coverage, uint8 (h, w, 4): cyan, magenta, yellow, black
    profile : CMYK profile, ICC bytes

    Returns
    -------
    Linear sRGB, float32 (h, w, 3); colours beyond sRGB have figures below 0 or above 1.

    Raises
    ------
    BadInput
        If LittleCMS cannot use the profile.
    """
    packed = np.ascontiguousarray(inks).reshape(-1, 4)
    codes = packed.view("<u4")[:, 0]
    unlike = int(np.count_nonzero(codes[1:] != codes[:-1])) + 1
    if unlike < _FEW * len(codes) or len(codes) < 2:
        some, at = np.unique(codes, return_inverse=True)
        light = _converted(some.view(np.uint8).reshape(1, -1, 4), profile)[0].take(at, axis=0)
    else:
        light = _converted(packed.reshape(1, -1, 4), profile)[0]
    return np.asarray(light.reshape(*inks.shape[:2], 3), np.float32)


def _converted(inks: npt.NDArray[np.uint8], profile: bytes) -> Light:
    """Colours one by one, (1, n, 4) to (1, n, 3); many of them on all processors."""
    count = inks.shape[1]
    if count <= _AT_ONCE:
        return _convert(inks, profile)
    made = np.empty((1, count, 3), np.float32)

    def part(start: int) -> None:
        made[:, start : start + _AT_ONCE] = _convert(inks[:, start : start + _AT_ONCE], profile)

    for _ in in_order(part, range(0, count, _AT_ONCE)):
        pass
    return made


def _convert(inks: npt.NDArray[np.uint8], profile: bytes) -> Light:
    try:
        shown = imagecodecs.cms_transform(
            inks, profile, srgb_profile(), colorspace="cmyk", outcolorspace="rgb",
            outdtype="float32", intent=_RELATIVE, flags=_NO_SHORTCUTS,
        )  # fmt: skip
    except imagecodecs.CmsError as error:
        raise BadInput(
            say("The printer's profile cannot be used ({error}); choose another.", error=error)
        ) from error
    # IEC 61966-2-1; its straight part goes on below 0.
    bent = ((np.maximum(shown, _SRGB_EDGE) + 0.055) / 1.055) ** np.float32(2.4)
    return np.asarray(np.where(shown <= _SRGB_EDGE, shown / 12.92, bent), np.float32)
