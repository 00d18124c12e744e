"""Artwork in memory: pixels, resolution, profile."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Protocol

import numpy as np
import numpy.typing as npt

from farbe.model.artwork import PageBox
from farbe.model.base import MM_PER_INCH as MM_PER_INCH
from farbe.said import Spoken

Pixels = npt.NDArray[np.uint8]


class Space(Spoken):
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


class RowStream(RowSource, Protocol):
    """Pixels that are read as they are asked for, and kept for a while."""

    def parts(self, start: int, stop: int) -> list[Pixels]:
        """The same in the parts in which they are there, one after the other; BadInput, too.

        Parameters
        ----------
        start : first row
        stop : row after the last
        """

    def alphas(self, start: int, stop: int) -> list[Pixels]:
        """The last channel of the same parts, picked once for all who ask, only to be looked at.

        Parameters
        ----------
        start : first row
        stop : row after the last
        """


@dataclass(frozen=True)
class Stated:
    """What is known of a picture besides its pixels: little enough to be kept for thousands.

    Attributes
    ----------
    width, height : in pixels
    in_mm : width and height in mm, at an assumed resolution where the file states none
    sized : the file states a resolution, or a size
    plates, pages, remark, knocked, lost, unfit_profile : see :class:`Artwork`; of plates the
        names
    """

    width: int
    height: int
    in_mm: tuple[float, float]
    sized: bool
    plates: frozenset[str]
    pages: int
    remark: str
    knocked: Mapping[str, float]
    lost: tuple[str, ...]
    unfit_profile: bool


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
    small : a small copy of a very large picture, for the screen
    looked_at : told how many bytes of mapped pixels were looked at
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
    stream: RowStream | None = None
    layers: tuple[tuple[str, bool], ...] = ()
    boxes: tuple[PageBox, ...] = ()
    alternates: Mapping[str, tuple[float, float, float, float]] = field(default_factory=dict)
    knocked: Mapping[str, float] = field(default_factory=dict)
    lost: tuple[str, ...] = ()
    size: tuple[float, float] | None = None
    small: Pixels | None = None
    looked_at: Callable[[int], None] | None = None

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
        if self.stream is not None:
            return self.stream.rows(start, stop)
        found = self.pixels[start:stop]
        if self.looked_at is not None:
            # What is given out does not change when the mapping is let go.
            found = found.copy()
            self.looked_at(found.nbytes)
        return found

    def parts(self, start: int, stop: int) -> list[Pixels]:
        """The same rows in one or more parts, as they are there: nothing is put together.

        Parameters
        ----------
        start : first row
        stop : row after the last

        Returns
        -------
        uint8 (some rows, width, channels) each, from top to bottom
        """
        if self.stream is not None:
            return self.stream.parts(start, stop)
        return [self.rows(start, stop)]

    def alphas(self, start: int, stop: int) -> list[Pixels]:
        """Alpha of the same parts, only to be looked at; of artwork that has it.

        Parameters
        ----------
        start : first row
        stop : row after the last

        Returns
        -------
        uint8 (some rows, width) each, from top to bottom
        """
        if self.stream is not None:
            return self.stream.alphas(start, stop)
        return [np.ascontiguousarray(part[..., -1]) for part in self.parts(start, stop)]

    @property
    def seen(self) -> Pixels:
        """The pixels, or the small copy of very many."""
        return self.pixels if self.small is None else self.small

    def coarse(self) -> Artwork:
        """The artwork as its small copy has it, in the size that it is printed; itself without one.

        Plates stay as they are: none comes with pictures that are so large.
        """
        if self.small is None:
            return self
        by = self.pixels.shape[1] / self.small.shape[1]
        dpi = None if self.dpi is None else (self.dpi[0] / by, self.dpi[1] / by)
        return replace(self, pixels=self.small, small=None, looked_at=None, dpi=dpi)

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

    @property
    def stated(self) -> Stated:
        """What is known of it besides its pixels."""
        return Stated(
            width=self.width, height=self.height, in_mm=self.size_mm(),
            sized=self.dpi is not None or self.size is not None, plates=frozenset(self.plates),
            pages=self.pages, remark=self.remark, knocked=self.knocked, lost=self.lost,
            unfit_profile=self.unfit_profile,
        )  # fmt: skip

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
