"""Colour profiles that ship with Farbe."""

from __future__ import annotations

from functools import lru_cache
from importlib.resources import files

from PIL import ImageCms


@lru_cache(maxsize=1)
def shipped_profile() -> bytes:
    """The CMYK profile of the test press's inks."""
    return (files("farbe") / "data" / "test-press-cmyk.icc").read_bytes()


@lru_cache(maxsize=1)
def srgb_profile() -> bytes:
    """sRGB, assumed where a picture says nothing of its colours."""
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
