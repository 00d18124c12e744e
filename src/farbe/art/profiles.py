"""Colour profiles that ship with Farbe."""

from __future__ import annotations

import io
from functools import lru_cache
from importlib.resources import files

import numpy as np
from PIL import Image, ImageCms

from farbe.art.artwork import Pixels
from farbe.model.base import BadInput
from farbe.model.job import Intent
from farbe.said import say

#: LittleCMS's numbers of rendering intents.
INTENTS = {
    Intent.PERCEPTUAL: ImageCms.Intent.PERCEPTUAL,
    Intent.RELATIVE: ImageCms.Intent.RELATIVE_COLORIMETRIC,
    Intent.SATURATION: ImageCms.Intent.SATURATION,
    Intent.ABSOLUTE: ImageCms.Intent.ABSOLUTE_COLORIMETRIC,
}


@lru_cache(maxsize=1)
def shipped_profile() -> bytes:
    """The CMYK profile of the test press's inks."""
    return (files("farbe") / "data" / "test-press-cmyk.icc").read_bytes()


@lru_cache(maxsize=1)
def srgb_profile() -> bytes:
    """sRGB, assumed where a picture says nothing of its colours."""
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


def to_ink(
    source: bytes, profile: bytes, mode: str, intent: Intent, *, black_point: bool
) -> ImageCms.ImageCmsTransform:
    """A transform of colours to process inks, in LittleCMS's full precision.

    Parameters
    ----------
    source : ICC profile of the colours
    profile : the printer's CMYK profile
    mode : of the colours, as Pillow names it
    intent : rendering intent
    black_point : with black point compensation

    Raises
    ------
    BadInput
        If the profiles cannot be joined.
    """
    flags = ImageCms.Flags.NOOPTIMIZE | ImageCms.Flags.NOCACHE
    if black_point:
        flags |= ImageCms.Flags.BLACKPOINTCOMPENSATION
    try:
        return ImageCms.buildTransform(
            io.BytesIO(source), io.BytesIO(profile), mode, "CMYK", INTENTS[intent], flags
        )
    except (ImageCms.PyCMSError, OSError) as error:
        raise BadInput(
            say("The artwork's profile does not join the printer's: {error}.", error=error)
        ) from error


def applied(transform: ImageCms.ImageCmsTransform, picture: Image.Image) -> Pixels:
    """Colours (h, w, n) through a transform; its own method copies the profile along each time.

    Parameters
    ----------
    transform : between two profiles
    picture : its colours

    Returns
    -------
    uint8 (h, w, n)
    """
    found = Image.new(transform.output_mode, picture.size)
    transform.transform.apply(picture.getim(), found.getim())
    return np.asarray(found)


def black_alone(colours: Pixels, inks: Pixels) -> Pixels:
    """Inks where what was black alone in CMYK colours is so again, as much of it as there was.

    Parameters
    ----------
    colours, inks : uint8 (h, w, 4)

    Returns
    -------
    uint8 (h, w, 4)
    """
    alone = colours[..., :3].max(axis=2) == 0
    if not alone.any():
        return inks
    kept = inks.copy()
    kept[alone] = colours[alone]
    return kept
