"""Artwork with what its own plates mean: inks that belong to the picture, and inks that do not."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from farbe.art.artwork import Artwork, Pixels, Space
from farbe.model.artwork import PlateUse
from farbe.model.meaning import Meaning

_ROWS = 512


def is_seen(use: PlateUse, artwork: Artwork) -> bool:
    """Whether a plate is seen as colour.

    What nobody told about is seen in its own colours until somebody does, if it has any.

    Parameters
    ----------
    use : of one of the artwork's plates
    artwork : as it was read
    """
    return use.meaning is Meaning.COLOUR or (
        use.meaning is Meaning.UNKNOWN and use.name in artwork.alternates
    )


def settled(artwork: Artwork, uses: tuple[PlateUse, ...]) -> Artwork:
    """An artwork whose picture holds the plates that are colour, and not those that are not.

    Parameters
    ----------
    artwork : as it was read
    uses : what its plates are for

    Returns
    -------
    The artwork. Where only white, varnish or lines lie on a page there is no picture; where colour
    plates lie in CMYK artwork, their recipes are in its inks.
    """
    known = {use.name: use for use in uses if use.name in artwork.plates}
    colour = [use for use in known.values() if is_seen(use, artwork) and any(use.inks)]
    # Plates of pictures lie beside the picture; those of a page are parts of it.
    apart = [use.name for use in known.values()
             if not is_seen(use, artwork) and use.name in artwork.alternates]  # fmt: skip
    if artwork.space is not Space.CMYK or not (colour or apart):
        return artwork
    pixels = artwork.pixels.copy()
    for start in range(0, artwork.height, _ROWS):
        rows = slice(start, start + _ROWS)
        part = pixels[rows]
        if apart and artwork.has_alpha:
            special = np.max([artwork.plates[name][rows] for name in apart], axis=0) > 0
            drawn = part[..., :4].max(axis=2)
            for use in colour:
                drawn = np.maximum(drawn, artwork.plates[use.name][rows])
            part[..., 4][special & (drawn == 0)] = 0
        for use in colour:
            _lay(part, artwork.plates[use.name][rows], use.inks, artwork)
    return replace(artwork, pixels=pixels)


def _lay(
    part: Pixels, plate: Pixels, recipe: tuple[float, float, float, float], artwork: Artwork
) -> None:
    """Lay a plate's recipe over inks, in place: the more ink stays."""
    there = plate > 0
    if not there.any():
        return
    levels = plate[there].astype(np.float32)
    if artwork.has_alpha and artwork.alternates:
        # A page's plates were mixed with paper; its picture was not.
        part[..., 4][there] = np.maximum(part[..., 4][there], plate[there])
        levels *= np.float32(255.0) / part[..., 4][there]
    for i, percent in enumerate(recipe):
        if percent:
            ink = np.rint(np.minimum(levels, 255.0) * np.float32(percent / 100.0))
            part[..., i][there] = np.maximum(part[..., i][there], ink.astype(np.uint8))
