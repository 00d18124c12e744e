"""What process inks look like on white, in linear light and in LittleCMS's full precision."""

from __future__ import annotations

from threading import Lock

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
#: Two to this power are the places for colours of one paper, 16 bytes each.
_PLACES = 20
#: What colours are multiplied by, to be spread over all places: the golden ratio, and its root.
_SPREADS = np.uint32(2654435769), np.uint32(3376494457)
_SRGB_EDGE = 0.04045
#: So many colours tell whether nearly all differ, which is when this share of them does.
_ASKED, _UNLIKE = 4096, 0.95
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


class _Memory:
    """Colours met on one paper: each has two places, and takes the second if the first is taken.

    With one place each, the few of a piece that want the same one would drive each other out and
    be converted anew for every part of every picture.
    """

    def __init__(self) -> None:
        # Nothing is met yet: no ink at all belongs to the first place, and 1 to another.
        self._codes = np.zeros(1 << _PLACES, np.uint32)
        self._codes[0] = 1
        self._light = np.empty((1 << _PLACES, 3), np.float32)
        self._lock = Lock()

    @staticmethod
    def _places(codes: npt.NDArray[np.uint32], spread: np.uint32) -> npt.NDArray[np.uint32]:
        """Where colours belong (multiplicative hashing)."""
        return (codes * spread) >> np.uint32(32 - _PLACES)

    def recall(self, codes: npt.NDArray[np.uint32], light: Light) -> npt.NDArray[np.intp]:
        """Fill in the light of colours that are known, (n, 3); where others are."""
        left = np.flatnonzero(~self._known(codes, light, _SPREADS[0]))
        if len(left):
            rest = np.empty((len(left), 3), np.float32)
            known = self._known(codes[left], rest, _SPREADS[1])
            light[left[known]] = rest[known]
            left = left[~known]
        return left

    def _known(
        self, codes: npt.NDArray[np.uint32], light: Light, spread: np.uint32
    ) -> npt.NDArray[np.bool_]:
        """Which colours are at these places of theirs; their light is filled in."""
        places = self._places(codes, spread)
        with self._lock:
            known: npt.NDArray[np.bool_] = self._codes.take(places) == codes
            light[known] = self._light.take(places[known], axis=0)
        return known

    def learn(self, codes: npt.NDArray[np.uint32], light: Light) -> None:
        """Keep the light of colours."""
        first, second = (self._places(codes, spread) for spread in _SPREADS)
        with self._lock:
            # Of several that want one place, both arrays keep the last.
            free = self._codes[first] == 0
            self._codes[first[free]] = codes[free]
            self._light[first[free]] = light[free]
            out = self._codes[first] != codes
            self._codes[second[out]] = codes[out]
            self._light[second[out]] = light[out]


_MEMORIES: Kept[bytes, _Memory] = Kept(2)


def _looked_up(codes: npt.NDArray[np.uint32], profile: bytes) -> Light:
    """The light of colours, float32 (n, 3); an edit brings few that were not met before it."""
    memory = _MEMORIES.get(profile, _Memory)
    light = np.empty((len(codes), 3), np.float32)

    def known(start: int) -> npt.NDArray[np.intp]:
        its = slice(start, start + _AT_ONCE)
        return memory.recall(codes[its], light[its]) + start

    unknown = [np.empty(0, np.intp), *in_order(known, range(0, len(codes), _AT_ONCE))]
    at = np.concatenate(unknown)
    if len(at):
        wanted = codes[at]
        some = wanted[:: 1 + len(wanted) // _ASKED]
        # Of what hardly comes twice it takes longer to find out what does.
        new = wanted if len(distinct(some)) > _UNLIKE * len(some) else distinct(wanted)
        made = _converted(new.view(np.uint8).reshape(1, -1, 4), profile)[0]
        memory.learn(new, made)
        light[at] = made if new is wanted else made.take(np.searchsorted(new, wanted), axis=0)
    return light


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
