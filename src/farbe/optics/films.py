"""Films with reflectance and transmittance, and what a stack of them does to light."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import reduce
from typing import Any

import numpy as np
import numpy.typing as npt

from farbe.kept import once

Light = npt.NDArray[np.float32]
FilmFigure = npt.NDArray[Any] | float


@dataclass(frozen=True, eq=False)
class Film:
    """A film or a stack of films: shares of light, 0 to 1, numbers or arrays that broadcast.

    Attributes
    ----------
    front, back : reflectance for light that comes from the reader, and from behind
    through : transmittance, which is the same both ways
    """

    front: FilmFigure
    back: FilmFigure
    through: FilmFigure

    @classmethod
    def even(cls, reflected: FilmFigure, through: FilmFigure) -> Film:
        """A film that is the same from both sides.

        Parameters
        ----------
        reflected, through : by band, 0 to 1; together 1 at the most

        Returns
        -------
        A film that looks alike from both sides.
        """
        return cls(reflected, reflected, through)

    @once
    def twice(self) -> FilmFigure:
        """What is left of light that crosses the film to and fro."""
        return self.through * self.through

    def turned(self) -> Film:
        """The film seen from behind."""
        return Film(self.back, self.front, self.through)

    def covering(self, share: FilmFigure) -> Film:
        """The film over a part of the area: light sees the mean of film and nothing.

        Parameters
        ----------
        share : of the area, 0 to 1

        Returns
        -------
        The film where it covers so much.
        """
        front, through = share * self.front, share * self.through + (1.0 - share)
        if self.back is self.front:
            return Film.even(front, through)
        return Film(front, share * self.back, through)


def join(front: Film, behind: Film) -> Film:
    """Two films, one behind the other, with all that light does to and fro between them.

    Kubelka, "New Contributions to the Optics of Intensely Light-Scattering Materials, Part II:
    Nonhomogeneous Layers", J. Opt. Soc. Am. 44, 1954.

    Parameters
    ----------
    front : nearer to the eye
    behind : farther from the eye
    """
    if isinstance(front.back, float) and front.back == 0.0:
        # Nothing goes to and fro behind a film that reflects nothing.
        return Film(
            front=front.front + front.twice * behind.front,
            back=behind.back,
            through=front.through * behind.through,
        )
    between = 1.0 - front.back * behind.front
    return Film(
        front=front.front + front.twice * behind.front / between,
        back=behind.back + behind.twice * front.back / between,
        through=front.through * behind.through / between,
    )


def stack(films: list[Film]) -> Film:
    """Films from the reader's eye backwards, as one.

    Parameters
    ----------
    films : from the reader's eye backwards, at least one
    """
    return reduce(join, films, Film.even(0.0, 1.0))


def hits(film: Film, count: int) -> Film:
    """So many layings down of the same film.

    Parameters
    ----------
    film : reflectance and transmittance by band, 0 to 1
    count : of hits
    """
    return film if count == 1 else stack([film] * count)


def thicker(film: Film, by: float) -> Film:
    """An even film laid down with another amount of ink.

    A film of unit thickness with reflectance R and transmittance T has, after Stokes ("On the
    intensity of the light reflected from or transmitted through a pile of plates", Proc. R. Soc.
    Lond. 11, 1862), R = p (1 - v²) / (1 - p² v²) and T = v (1 - p²) / (1 - p² v²), with p the
    reflectance of an endless pile and v = e^(-b S X); s times as thick, it has v^s in place of v.
    Where nothing is absorbed the limit is R = s r / (1 + (s - 1) r).

    Parameters
    ----------
    film : the same from both sides, its figures numbers
    by : its thickness in the film's own, more than 0
    """
    reflected, through = float(film.front), float(film.through)
    if by == 1.0:
        return film
    if reflected < 1e-12:
        return Film.even(0.0, through**by)
    if reflected + through >= 1.0 - 1e-9:
        made = by * reflected / (1.0 + (by - 1.0) * reflected)
        return Film.even(made, 1.0 - made)
    a = (1.0 + reflected**2 - through**2) / (2.0 * reflected)
    pile = 1.0 / (a + math.sqrt(a * a - 1.0))
    left = ((1.0 - reflected / pile) / (1.0 - pile * reflected)) ** (by / 2.0)
    rest = 1.0 - (pile * left) ** 2
    return Film.even(pile * (1.0 - left**2) / rest, left * (1.0 - pile**2) / rest)


def over(film: Film, ground: FilmFigure) -> FilmFigure:
    """Reflectance of a film on a ground of this reflectance: what :func:`join` says, alone.

    Parameters
    ----------
    film : what lies on top
    ground : reflectance under it by band, 0 to 1

    Returns
    -------
    Reflectance by band, 0 to 1.
    """
    returned = film.twice * ground
    if isinstance(film.back, float) and film.back == 0.0:
        return (
            returned
            if isinstance(film.front, float) and film.front == 0.0
            else film.front + returned
        )
    between = film.back * ground
    between = 1.0 - between
    returned /= between
    returned += film.front
    return returned


#: A film in red, green and blue light; the same object thrice if it is alike in all.
Bands = tuple[Film, Film, Film]


def each(films: Iterable[Film]) -> Bands:
    """Films of red, green and blue light.

    Parameters
    ----------
    films : of red, green and blue light
    """
    red, green, blue = films
    return red, green, blue


def alike(film: Bands) -> bool:
    """Whether a film is the same in all bands.

    Parameters
    ----------
    film : what it reflects and lets through, 0 to 1
    """
    return film[0] is film[1] is film[2]


def joined(front: Bands, behind: Bands) -> Bands:
    """Two films as one in each band; once where both are alike in all.

    Parameters
    ----------
    front : nearer to the eye
    behind : farther from the eye
    """
    if alike(front) and alike(behind):
        return (join(front[0], behind[0]),) * 3
    return each(join(a, b) for a, b in zip(front, behind, strict=True))


def stacked(films: list[Bands]) -> Bands:
    """Films from the reader's eye backwards, as one; what is alike in all bands is joined once.

    Parameters
    ----------
    films : from the reader's eye backwards, at least one
    """
    runs: list[Bands] = []
    for film in films:
        if runs and alike(film) and alike(runs[-1]):
            runs[-1] = joined(runs[-1], film)
        else:
            runs.append(film)
    return each(stack([film[band] for film in runs]) for band in range(3))
