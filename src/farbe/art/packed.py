"""Artwork that is put by: packed without loss, which takes less time than to read it again."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import imagecodecs
import numpy as np

from farbe.art.artwork import Artwork

#: Of the bytes of its pixels, what an artwork takes at the most that is worth being packed.
WORTH = 0.3
_codecs: Any = imagecodecs


@dataclass(frozen=True, eq=False)
class PackedArtwork:
    """An artwork whose pixels are packed.

    Attributes
    ----------
    rest : the artwork without rows
    shape : of its pixels
    pixels : packed
    """

    rest: Artwork
    shape: tuple[int, ...]
    pixels: bytes

    @property
    def weight(self) -> int:
        """Bytes that it takes."""
        return len(self.pixels)

    def unpacked(self) -> Artwork:
        """The artwork as it was."""
        flat = np.empty(int(np.prod(self.shape)), np.uint8)
        _codecs.lz4_decode(self.pixels, out=flat)
        flat.setflags(write=False)
        return replace(self.rest, pixels=flat.reshape(self.shape))


def packed(artwork: Artwork) -> PackedArtwork | None:
    """An artwork, packed; None where that is not worth it: photographs, and what is in files.

    Parameters
    ----------
    artwork : with pixels, uint8 (height, width, channels)
    """
    if artwork.stream is not None or artwork.looked_at is not None or artwork.plates:
        return None
    found = bytes(_codecs.lz4_encode(np.ascontiguousarray(artwork.pixels)))
    if len(found) > WORTH * artwork.pixels.nbytes:
        return None
    # A part of the pixels would hold all of them in memory.
    rest = replace(artwork, pixels=np.empty((0, *artwork.pixels.shape[1:]), np.uint8))
    return PackedArtwork(rest, artwork.pixels.shape, found)
