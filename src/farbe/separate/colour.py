"""Colour to ink by ICC profiles, through LittleCMS without its 8-bit shortcuts."""

from __future__ import annotations

import io
from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt
from PIL import Image, ImageCms

from farbe.art.artwork import CHANNELS, Artwork, Pixels, Space
from farbe.art.profiles import applied, black_alone, srgb_profile, to_ink
from farbe.distinct import distinct
from farbe.kept import Kept
from farbe.model.base import BadInput
from farbe.model.job import Intent, Numbers
from farbe.said import say

_MODES = {Space.GREY: "L", Space.RGB: "RGB", Space.CMYK: "CMYK"}
_ALL_COLOURS = 1 << 24
_PART = 1 << 18


def check_cmyk_profile(profile: bytes, name: str) -> None:
    """Raise BadInput unless ``profile`` is an ICC profile that turns colour into CMYK.

    Parameters
    ----------
    profile : ICC bytes
    name : of the file, for the message

    Raises
    ------
    BadInput
        If it is no output profile for CMYK.
    """
    found = _kind_of(profile)
    if found is None:
        raise BadInput(
            say("{name} is not an ICC profile; choose the printer's .icc file.", name=name)
        )
    if found != ("CMYK", "prtr"):
        raise BadInput(
            say("{name} is not a CMYK printer profile; choose the printer's .icc file.", name=name)
        )


def _kind_of(profile: bytes) -> tuple[str, str] | None:
    """Colour space and class of a profile; None of bytes that are none that can be used."""
    try:
        opened = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        found = opened.profile.xcolor_space.strip(), opened.profile.device_class
        if found[0] == "CMYK":
            # Damage in its tables shows when they are used.
            ImageCms.buildTransform(ImageCms.createProfile("sRGB"), opened, "RGB", "CMYK")
    except (OSError, ValueError, ImageCms.PyCMSError):
        return None
    return found


def check_profile_fits(profile: bytes, space: Space, name: str) -> None:
    """Raise BadInput unless ``profile`` is an ICC profile for colours of this space.

    Parameters
    ----------
    profile : ICC bytes
    space : of the colours
    name : as people know it

    Raises
    ------
    BadInput
        With one sentence that says what is wrong.
    """
    wanted = {Space.GREY: "GRAY", Space.RGB: "RGB", Space.CMYK: "CMYK"}[space]
    found = _kind_of(profile)
    if found is None:
        raise BadInput(say("{name} is not an ICC profile; choose an .icc file.", name=name))
    if found[0] != wanted:
        raise BadInput(
            say(
                "{name} is not a profile for {space} artwork; choose another.",
                name=name,
                space=space.value,
            )
        )


class Converter:
    """Colours of an artwork to CMYK coverage, each colour converted once.

    Safe to share between threads: both write the same values.

    Parameters
    ----------
    space, icc : as in :class:`Artwork`
    profile : the printer's CMYK profile
    black_point : black point compensation (ignored by the absolute and perceptual intents)

    Raises
    ------
    BadInput
        If LittleCMS cannot join the two profiles.
    """

    #: Of a full table.
    BYTES = 4 * _ALL_COLOURS

    def __init__(
        self,
        space: Space,
        icc: bytes | None,
        profile: bytes,
        *,
        intent: Intent = Intent.RELATIVE,
        black_point: bool = True,
    ) -> None:
        self._space = space
        self._table: npt.NDArray[np.uint32] | None = None
        self._transform: ImageCms.ImageCmsTransform | None = None
        if space is Space.CMYK and icc is None:
            return  # CMYK that says nothing of its press is taken as meant for this one.
        # Grey without a profile is the grey of sRGB.
        mode = "RGB" if space is Space.GREY and icc is None else _MODES[space]
        self._transform = to_ink(
            icc or srgb_profile(), profile, mode, intent, black_point=black_point
        )
        if space is Space.RGB:
            # Colours met before, by their code; inverted, so that 0 is "not met" (or solid in
            # all four inks, which then is converted again). Fresh zeros take no memory yet.
            self._table = np.zeros(_ALL_COLOURS, np.uint32)

    @property
    def weight(self) -> int:
        """Bytes of its table, once most colours were met."""
        return 0 if self._table is None else self.BYTES

    def _convert(self, colours: Pixels) -> Pixels:
        if self._transform is None:
            # What is given back may be written to.
            return colours.copy()
        if self._space is Space.GREY and self._transform.input_mode == "RGB":
            colours = np.ascontiguousarray(np.repeat(colours, 3, axis=2))
        mode, size = self._transform.input_mode, (colours.shape[1], colours.shape[0])
        picture = Image.frombuffer(mode, size, colours, "raw", mode, 0, 1)
        found = applied(self._transform, picture)
        return black_alone(colours, found) if self._space is Space.CMYK else found

    def __call__(self, colours: Pixels) -> Pixels:
        """CMYK coverage, uint8 (height, width, 4), of uint8 colours (height, width, n).

        Alpha behind them is not looked at.
        """
        count = CHANNELS[self._space]
        if colours.shape[2] not in (count, count + 1):
            raise ValueError(f"colours has {colours.shape[2]} channels for {self._space.value}")
        if self._table is None:
            return self._convert(np.ascontiguousarray(colours[..., :count]))
        if colours.shape[2] == count:
            padded = cv2.cvtColor(np.ascontiguousarray(colours), cv2.COLOR_RGB2RGBA)
            colours = np.asarray(padded, np.uint8)
        codes = colours.view("<u4")[..., 0] & np.uint32(0xFFFFFF)
        found = self._table.take(codes, mode="clip")
        if not found.min(initial=1):
            self._learn(self._table, distinct(codes[found == 0]))
            found = self._table.take(codes, mode="clip")
        return np.bitwise_not(found, out=found).view(np.uint8).reshape(*codes.shape, 4)

    def _learn(self, table: npt.NDArray[np.uint32], codes: npt.NDArray[np.uint32]) -> None:
        """Convert colours that were not met before, a part at a time to bound the memory."""
        for start in range(0, len(codes), _PART):
            part = codes[start : start + _PART]
            colours = part.astype("<u4").view(np.uint8).reshape(1, -1, 4)[..., :3]
            inks = self._convert(np.ascontiguousarray(colours))
            table[part] = ~np.ascontiguousarray(inks).reshape(-1, 4).view(np.uint32)[:, 0]


@dataclass(frozen=True)
class Blend:
    """Two conversions of the same colours, mixed by ``share`` of the second."""

    one: Converter
    other: Converter
    share: float

    def __call__(self, colours: Pixels) -> Pixels:
        """CMYK coverage, uint8 (height, width, 4)."""
        mixed = cv2.addWeighted(
            self.one(colours), 1.0 - self.share, self.other(colours), self.share, 0.0
        )
        return np.asarray(mixed, dtype=np.uint8)


#: Converters with what they have learnt, those that were used last; two at once are blended.
_CONVERTERS: Kept[tuple[object, ...], Converter] = Kept(
    16, most=2 * Converter.BYTES, weigh=lambda one: one.weight
)


def converter_between(
    space: Space, icc: bytes | None, profile: bytes, intent: Intent, black_point: bool
) -> Converter:
    """A converter that is kept with what it has learnt, for artworks that share their colours.

    Parameters
    ----------
    space : of the colours
    icc : bytes of a profile; None without one
    profile : ICC bytes
    intent : of the conversion
    black_point : whether it is compensated
    """
    return _CONVERTERS.get(
        (space, icc, profile, intent, black_point),
        lambda: Converter(space, icc, profile, intent=intent, black_point=black_point),
    )


def converter_for(
    artwork: Artwork,
    profile: bytes,
    *,
    intent: Intent,
    black_point: bool,
    numbers: Numbers = Numbers.CONVERT,
) -> Converter:
    """The converter of an artwork.

    Parameters
    ----------
    artwork : its space and embedded profile are what is converted from
    profile : the printer's CMYK profile, ICC bytes
    intent : rendering intent
    black_point : with black point compensation
    numbers : what becomes of CMYK with a profile; those of the printer's own profile stay

    Returns
    -------
    From uint8 (h, w, n) of the artwork's colours to coverage uint8 (h, w, 4): cyan, magenta,
    yellow, black.

    Raises
    ------
    BadInput
        If the profiles cannot be joined.
    """
    icc = None if artwork.icc is None else undated(artwork.icc)
    if artwork.space is Space.CMYK and (numbers is Numbers.KEEP or icc == undated(profile)):
        icc = None
    return converter_between(artwork.space, icc, profile, intent, black_point)


def undated(profile: bytes) -> bytes:
    """An ICC profile without its date of creation and its ID, which change no colour.

    Programs write the profile anew with each picture; without these it is the same one
    (ICC.1:2022, 7.2.8 and 7.2.18).

    Parameters
    ----------
    profile : ICC bytes
    """
    return profile[:24] + bytes(12) + profile[36:84] + bytes(16) + profile[100:]
