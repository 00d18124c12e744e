"""Films by the levels of their plates: tables of what a stack does, in place of pictures of it.

A plate has 256 levels, so what a film of one ink does is known for each of them; of two plates
together there are 65,536 pairs. Tables are joined with all the care of :func:`films.join`, and a
look-up for each pixel is all that is left.
"""

from __future__ import annotations

import sys
from dataclasses import dataclass
from functools import reduce
from typing import Any, Protocol

import cv2
import numpy as np
import numpy.typing as npt

from farbe.kept import once
from farbe.optics.films import Bands, Film, FilmFigure, Light, alike, each, hits, joined
from farbe.optics.light import Patch
from farbe.separate.choke import Plate

#: So many plates share a table.
PLATES = 2


@dataclass(frozen=True, eq=False)
class Leveled:
    """Films over the levels of up to two plates.

    Attributes
    ----------
    films : their figures have an axis of 256 levels for each plate; numbers without plates
    plates : uint8 (h, w) each, in the order of the axes
    """

    films: Bands
    plates: tuple[Plate, ...] = ()

    @classmethod
    def covering(cls, films: Bands, plate: Plate, count: int) -> Leveled:
        """``count`` hits of films where a plate, uint8 (h, w), says.

        Parameters
        ----------
        films : one for each band, or one for all
        plate : coverage, uint8 (h, w)
        count : hits, 0 or more
        """
        shares = np.arange(256) / 255.0
        if alike(films):
            return cls((hits(films[0].covering(shares), count),) * 3, (plate,))
        return cls(each(hits(film.covering(shares), count) for film in films), (plate,))

    def before(self, behind: Leveled) -> Leveled:
        """These films in front of others, as one.

        Parameters
        ----------
        behind : farther from the eye
        """
        ahead = len(behind.plates)
        front = self if not ahead else Leveled(_with_axes(self.films, ahead), self.plates)
        return Leveled(joined(front.films, behind.films), self.plates + behind.plates)

    def reflected(self, tile: Patch) -> list[FilmFigure]:
        """What a tile reflects in each band, float32 (h, w), or numbers.

        Parameters
        ----------
        tile : rows and columns of the picture
        """
        index = _index([plate[tile] for plate in self.plates])
        return [_looked_up(film.front, index) for film in self._tables]

    def in_place(self, tile: Patch) -> Bands:
        """The film of a tile, figures float32 (h, w), or numbers where it is the same all over.

        Parameters
        ----------
        tile : rows and columns of the picture
        """
        index = _index([plate[tile] for plate in self.plates])
        if alike(self.films):
            return (_picked(self._tables[0], index),) * 3
        return each(_picked(film, index) for film in self._tables)

    @once
    def _tables(self) -> Bands:
        """The films with every figure a table, float32, of all levels in one axis."""
        size = (256,) * len(self.plates)

        def table(figure: FilmFigure) -> FilmFigure:
            return np.array(np.broadcast_to(figure, size), np.float32).reshape(-1)

        def tables(film: Film) -> Film:
            front, through = table(film.front), table(film.through)
            return Film(front, front if film.back is film.front else table(film.back), through)

        return (tables(self.films[0]),) * 3 if alike(self.films) else each(map(tables, self.films))


@dataclass(frozen=True, eq=False)
class LevelPicture:
    """Something opaque that looks so, linear sRGB float32 (h, w, 3)."""

    light: Light

    def reflected(self, tile: Patch) -> list[FilmFigure]:
        """What a tile reflects in each band, float32 (h, w).

        Parameters
        ----------
        tile : rows and columns of the picture
        """
        return list(cv2.split(self.light[tile]))

    def in_place(self, tile: Patch) -> Bands:
        """The tile as a film that lets nothing through.

        Parameters
        ----------
        tile : rows and columns of the picture
        """
        return each(Film.even(level, 0.0) for level in self.reflected(tile))


class StackPart(Protocol):
    """A part of a stack."""

    def reflected(self, tile: Patch) -> list[FilmFigure]:
        """What a tile reflects in each band, float32 (h, w), or numbers.

        Parameters
        ----------
        tile : rows and columns of the picture
        """

    def in_place(self, tile: Patch) -> Bands:
        """The film of a tile, figures float32 (h, w), or numbers.

        Parameters
        ----------
        tile : rows and columns of the picture
        """


def grouped(parts: list[StackPart]) -> list[StackPart]:
    """A stack from its back, with neighbours joined whose tables allow it.

    Parameters
    ----------
    parts : from the back to the front
    """
    groups: list[StackPart] = []
    for part in parts:
        last = groups[-1] if groups else None
        if (
            isinstance(part, Leveled)
            and isinstance(last, Leveled)
            and len(part.plates) + len(last.plates) <= PLATES
        ):
            groups[-1] = part.before(last)
        else:
            groups.append(part)
    return groups


def _with_axes(films: Bands, more: int) -> Bands:
    def wider(figure: FilmFigure) -> FilmFigure:
        return figure[(..., *[None] * more)] if isinstance(figure, np.ndarray) else figure

    def film(one: Film) -> Film:
        return Film(wider(one.front), wider(one.back), wider(one.through))

    return (film(films[0]),) * 3 if alike(films) else each(film(one) for one in films)


#: Where a tile's figures are in a table: at one place if its plates are the same all over, else
#: uint8 (h, w) for one plate or uint16 (h, w) for two.
Index = int | npt.NDArray[Any]


def even(plate: Plate) -> bool:
    """Whether a plate has the same level all over.

    Parameters
    ----------
    plate : coverage, uint8 (rows, width)
    """
    return bool(plate.min() == plate.max())


def _index(plates: list[Plate]) -> Index:
    if all(even(plate) for plate in plates):
        return reduce(lambda at, plate: at * 256 + int(plate[0, 0]), plates, 0)
    if len(plates) == 1:
        return plates[0]
    high, low = plates
    pair = (low, high) if sys.byteorder == "little" else (high, low)
    return cv2.merge(pair).view(np.uint16)[..., 0]


def _picked(film: Film, index: Index) -> Film:
    front, through = _looked_up(film.front, index), _looked_up(film.through, index)
    return Film(front, front if film.back is film.front else _looked_up(film.back, index), through)


def _looked_up(table: FilmFigure, index: Index) -> FilmFigure:
    if not isinstance(table, np.ndarray):
        return table
    return float(table[index]) if isinstance(index, int) else np.asarray(cv2.LUT(index, table))
