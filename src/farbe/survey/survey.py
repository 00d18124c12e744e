"""What was found: sums, and places where something is lost, uncovered, too thin or too much."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np
import numpy.typing as npt

from farbe.separate.grid import Grid


class Matter(StrEnum):
    """What is the matter at a place; what ``worst`` is of each is told in brackets."""

    WHITE_BARE = "white of the artwork without white ink"  # widest mm that is lost
    WHITE_CHOKED = "white of the artwork that the choke took"  # widest mm that is lost
    COLOUR_BARE = "colour without white behind it"  # widest mm that is lost
    COLOUR_CHOKED = "colour whose white the choke took"  # widest mm that is lost
    HIDDEN = "colour behind ink that hides it"  # most cover, percent
    LOOKS_OUT = "ink that looks out from under the colour"  # mm that it looks out
    OVER_TOTAL = "process ink over its limit"  # most, percent
    OVER_FILM = "ink film over its limit"  # most, ml per square metre
    STROKE = "strokes that are too thin to print"  # thinnest mm
    GAP = "gaps that are too narrow to stay open"  # narrowest mm
    BEYOND = "ink where there is no artwork"  # most cover, percent
    SHORT_OF_BLEED = "artwork that stops short of the bleed"  # mm along the edge
    SHORT_OF_EDGE = "artwork that stops close to the edge"  # mm along the edge
    SOFT = "soft edges with thin white"  # widest mm
    LIKE_SURFACE = "colour that hardly differs from the surface"  # least colour difference
    CUT_OFF = "artwork that the piece cuts off"  # mm that reach beyond


#: Of these the smallest figure is the worst.
LESS_IS_WORSE = frozenset({Matter.STROKE, Matter.GAP, Matter.LIKE_SURFACE})


@dataclass(frozen=True)
class Spot:
    """A place: its box in mm around the piece's middle, y up; area in mm², the worst figure.

    ``x`` and ``y`` are where most of it is.
    """

    left: float
    bottom: float
    width: float
    height: float
    area: float
    worst: float
    x: float
    y: float


@dataclass(frozen=True)
class Mark:
    """One matter of one print.

    Attributes
    ----------
    layer : the layer that it is about; empty if it is about all
    area : mm² in all
    worst : the worst figure, as :class:`Matter` tells of each
    count : places
    spots : the largest of them, largest first
    """

    matter: Matter
    layer: str
    area: float
    worst: float
    count: int
    spots: tuple[Spot, ...]


def _no_edge() -> npt.NDArray[np.float32]:
    return np.zeros((0, 4), np.float32)


@dataclass(frozen=True)
class Survey:
    """One different print of a job, looked at.

    Attributes
    ----------
    grid, size : the pixels that were looked at, as the reader sees the piece
    exact : whether they are those that print
    sums : sum of coverage, 0 to 255 a pixel, of each plate as :meth:`Separation.plates` orders them
    marks : what was found, each matter of each layer once
    shape, white, colour : mm² that artwork, its white, and its process ink cover
    on_edge : share of the piece's outline that artwork lies on
    edge : places on the artwork's edge that tell of all of it, and directions out of it, in mm,
        float32 (n, 4): x, y and the direction's two parts
    """

    grid: Grid
    size: tuple[int, int]
    exact: bool
    sums: tuple[int, ...]
    marks: tuple[Mark, ...]
    shape: float
    white: float
    colour: float
    on_edge: float = 0.0
    edge: npt.NDArray[np.float32] = field(default_factory=_no_edge, compare=False)

    def of(self, matter: Matter) -> tuple[Mark, ...]:
        """What was found of one matter, of all layers.

        Parameters
        ----------
        matter : what is asked for

        Returns
        -------
        The marks, most area first; none if all is well.
        """
        found = (mark for mark in self.marks if mark.matter is matter)
        return tuple(sorted(found, key=lambda mark: -mark.area))
