"""Artwork in memory: pixels, resolution, profile."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Protocol

import numpy as np
import numpy.typing as npt

from farbe.model.artwork import PageBox

Pixels = npt.NDArray[np.uint8]
MM_PER_INCH = 25.4


class Space(StrEnum):
    """What the colour channels of an artwork are."""

    GREY = "grey"
    RGB = "rgb"
    CMYK = "cmyk"


#: Colour channels of each space.
CHANNELS = {Space.GREY: 1, Space.RGB: 3, Space.CMYK: 4}


class RowSource(Protocol):
    """Pixels that are read as they are asked for."""

    def rows(self, start: int, stop: int) -> Pixels:
        """Rows, uint8 (stop - start, width, channels); BadInput if the file is damaged.

        Parameters
        ----------
        start : first row
        stop : row after the last

        Returns
        -------
        uint8 (stop - start, width, channels)
        """


@dataclass(frozen=True)
class Artwork:
    """A picture as read.

    Attributes
    ----------
    pixels : uint8 array, shape (height, width, colours) or (height, width, colours + 1)
        Straight alpha comes last where there is one. CMYK is 0 for no ink.
    dpi : (x, y) as the file states it, or None where it states none.
    icc : the embedded profile, or None.
    unfit_profile : a profile is embedded but damaged or for other colours; it is not used.
    plates : further channels by name, uint8 (height, width), 255 solid
    pages : how many pages the file has
    remark : a sentence on how the file was read; empty if there is nothing to say
    groups : names of groups of a drawing that could be plates and are not
    layers : of a PDF by name, and whether its maker has them printed
    boxes : of a PDF page, those that it states
    alternates : percent of the process inks that a plate's ink looks like, by name
    knocked : mm² of a plate that lie under other things and are left out of it, by name
    lost : sentences on what the file asks for and does not bring along
    size : width and height in mm, where the file states them apart from its resolution
    stream : where the pixels are if there are too many to hold; ``pixels`` then has their shape
        alone, and they are had by :meth:`rows`
    """

    pixels: Pixels
    space: Space
    dpi: tuple[float, float] | None
    icc: bytes | None
    unfit_profile: bool = False
    plates: Mapping[str, Pixels] = field(default_factory=dict)
    pages: int = 1
    remark: str = ""
    groups: tuple[str, ...] = ()
    stream: RowSource | None = None
    layers: tuple[tuple[str, bool], ...] = ()
    boxes: tuple[PageBox, ...] = ()
    alternates: Mapping[str, tuple[float, float, float, float]] = field(default_factory=dict)
    knocked: Mapping[str, float] = field(default_factory=dict)
    lost: tuple[str, ...] = ()
    size: tuple[float, float] | None = None

    def rows(self, start: int, stop: int) -> Pixels:
        """Rows of the pixels, (stop - start, width, channels).

        Parameters
        ----------
        start : first row
        stop : row after the last

        Returns
        -------
        uint8 (stop - start, width, channels)
        """
        return self.stream.rows(start, stop) if self.stream else self.pixels[start:stop]

    @property
    def width(self) -> int:
        """In pixels."""
        return int(self.pixels.shape[1])

    @property
    def height(self) -> int:
        """In pixels."""
        return int(self.pixels.shape[0])

    @property
    def has_alpha(self) -> bool:
        return int(self.pixels.shape[2]) == CHANNELS[self.space] + 1

    def size_mm(self, *, default_dpi: float = 300.0) -> tuple[float, float]:
        """Width and height in mm as stated, at the stated resolution, or at ``default_dpi``.

        Parameters
        ----------
        default_dpi : for files that state none

        Returns
        -------
        Width and height in mm.
        """
        if self.size is not None:
            return self.size
        x, y = self.dpi or (default_dpi, default_dpi)
        return self.width / x * MM_PER_INCH, self.height / y * MM_PER_INCH
