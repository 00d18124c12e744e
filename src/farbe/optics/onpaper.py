"""What process inks look like on white, in linear light and in LittleCMS's full precision."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import imagecodecs
import numpy as np
import numpy.typing as npt

from farbe.art.artwork import Pixels
from farbe.art.profiles import srgb_profile
from farbe.distinct import distinct
from farbe.kept import Kept
from farbe.model.base import BadInput
from farbe.optics.films import Light
from farbe.said import say
from farbe.sidebyside import in_order

#: LittleCMS's cmsFLAGS_NOOPTIMIZE: without it, colours come from a coarse table of 8 bits.
_NO_SHORTCUTS = 0x0100
#: ICC's media-relative colorimetric intent: the film alone, not the paper's tint.
_RELATIVE = 1
#: Where fewer than this share of the pixels differ from the one before, runs are worth their while.
_FEW = 0.4
#: Colours of one paper that are kept, 16 bytes each.
_MOST_MET = 1 << 21
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
    codes = np.ascontiguousarray(inks).reshape(-1, 4).view("<u4")[:, 0]
    # Neighbours are often alike: each run of them is looked up once.
    ends = np.flatnonzero(codes[1:] != codes[:-1])
    if len(ends) < _FEW * len(codes):
        heads = codes[np.append(0, ends + 1)] if len(codes) else codes
        runs = np.diff(ends, prepend=-1, append=len(codes) - 1)
        light = np.repeat(_looked_up(heads, profile), runs, axis=0)
    else:
        light = _looked_up(codes, profile)
    return np.asarray(light.reshape(*inks.shape[:2], 3), np.float32)


@dataclass(frozen=True, eq=False)
class _Met:
    """Colours met before, uint32 (n,) in their order, and their light, float32 (n, 3)."""

    codes: npt.NDArray[np.uint32]
    light: Light

    def at(self, codes: npt.NDArray[np.uint32]) -> npt.NDArray[np.intp]:
        """Where each of some colours is, or would be."""
        return np.searchsorted(self.codes, codes)

    def lacks(self, codes: npt.NDArray[np.uint32]) -> npt.NDArray[np.uint32]:
        """Those of some colours that were not met yet."""
        if not len(self.codes):
            return codes
        at = self.at(codes)
        known = at < len(self.codes)
        known[known] = self.codes[at[known]] == codes[known]
        return codes[~known]

    def with_more(self, codes: npt.NDArray[np.uint32], light: Light) -> _Met:
        """With others that were not met yet, in their order."""
        if not len(self.codes):
            return _Met(codes, light)
        at = self.at(codes)
        return _Met(np.insert(self.codes, at, codes), np.insert(self.light, at, light, axis=0))


class _Memory:
    """What was met on one paper; replaced as a whole, so that threads need not wait."""

    def __init__(self) -> None:
        self.met = _Met(np.empty(0, np.uint32), np.empty((0, 3), np.float32))


_MEMORIES: Kept[bytes, _Memory] = Kept(4)


def _looked_up(codes: npt.NDArray[np.uint32], profile: bytes) -> Light:
    """The light of colours, float32 (n, 3); an edit brings few that were not met before it."""
    memory = _MEMORIES.get(profile, _Memory)
    met, some = memory.met, distinct(codes)
    new = met.lacks(some)
    if len(new):
        if len(met.codes) + len(new) > _MOST_MET:
            met, new = _Memory().met, some
        met = met.with_more(new, _converted(new.view(np.uint8).reshape(1, -1, 4), profile)[0])
        if len(met.codes) <= _MOST_MET:
            memory.met = met
    found = np.empty((len(codes), 3), np.float32)

    def part(start: int) -> None:
        its = slice(start, start + _AT_ONCE)
        met.light.take(met.at(codes[its]), axis=0, out=found[its], mode="clip")

    _side_by_side(part, len(codes))
    return found


def _converted(inks: npt.NDArray[np.uint8], profile: bytes) -> Light:
    """Colours one by one, (1, n, 4) to (1, n, 3); many of them on all processors."""
    count = inks.shape[1]
    if count <= _AT_ONCE:
        return _convert(inks, profile)
    made = np.empty((1, count, 3), np.float32)

    def part(start: int) -> None:
        made[:, start : start + _AT_ONCE] = _convert(inks[:, start : start + _AT_ONCE], profile)

    _side_by_side(part, count)
    return made


def _side_by_side(part: Callable[[int], None], count: int) -> None:
    """Parts of many colours on all processors, each told where it begins."""
    for _ in in_order(part, range(0, count, _AT_ONCE)):
        pass


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
