"""Films with reflectance and transmittance, and what a stack of them does to light."""

from __future__ import annotations

from dataclasses import dataclass
from functools import reduce
from typing import Any

import numpy as np
import numpy.typing as npt

Light = npt.NDArray[np.float32]
Figure = npt.NDArray[Any] | float


@dataclass(frozen=True, eq=False)
class Film:
    """A film or a stack of films: shares of light, 0 to 1, numbers or arrays that broadcast.

    Attributes
    ----------
    front, back : reflectance for light that comes from the reader, and from behind
    through : transmittance, which is the same both ways
    """

    front: Figure
    back: Figure
    through: Figure

    @classmethod
    def even(cls, reflected: Figure, through: Figure) -> Film:
        """A film that is the same from both sides."""
        return cls(reflected, reflected, through)

    def turned(self) -> Film:
        """The film seen from behind."""
        return Film(self.back, self.front, self.through)

    def covering(self, share: Figure) -> Film:
        """The film over a part of the area: light sees the mean of film and nothing."""
        return Film(share * self.front, share * self.back, share * self.through + (1.0 - share))


def join(front: Film, behind: Film) -> Film:
    """Two films, one behind the other, with all that light does to and fro between them.

    Kubelka, "New Contributions to the Optics of Intensely Light-Scattering Materials, Part II:
    Nonhomogeneous Layers", J. Opt. Soc. Am. 44, 1954.
    """
    if isinstance(front.back, float) and front.back == 0.0:
        # Nothing goes to and fro behind a film that reflects nothing.
        return Film(
            front=front.front + front.through * front.through * behind.front,
            back=behind.back,
            through=front.through * behind.through,
        )
    between = 1.0 - front.back * behind.front
    return Film(
        front=front.front + front.through * front.through * behind.front / between,
        back=behind.back + behind.through * behind.through * front.back / between,
        through=front.through * behind.through / between,
    )


def stack(films: list[Film]) -> Film:
    """Films from the reader's eye backwards, as one."""
    return reduce(join, films, Film.even(0.0, 1.0))


def hits(film: Film, count: int) -> Film:
    """So many layings down of the same film."""
    return stack([film] * count)


def over(film: Film, ground: Figure) -> Figure:
    """Reflectance of a film on a ground of this reflectance: what :func:`join` says, alone."""
    back = film.through * film.through * ground
    if isinstance(film.back, float) and film.back == 0.0:
        return back if isinstance(film.front, float) and film.front == 0.0 else film.front + back
    return film.front + back / (1.0 - film.back * ground)
