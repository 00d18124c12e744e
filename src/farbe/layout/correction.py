"""From measured pockets to how the artwork's run is moved."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from farbe.layout.bedframe import axes, from_bed, to_bed
from farbe.layout.faced import Faced
from farbe.layout.figures import bare_length, decimal, units
from farbe.layout.pockets import bed_pockets
from farbe.model.base import BadInput
from farbe.model.correction import Correction, Terms
from farbe.said import say

MeasuredPoints = npt.NDArray[np.float64]

#: MeasuredPoints that each kind of correction needs so that they determine it.
LEAST = {Terms.SHIFT: 1, Terms.TURN: 2, Terms.SCALE: 2, Terms.ALL: 3}
#: A point is wild if it lies so many times further off than the others do, and at least so far.
WILD_TIMES, WILD_LEAST = 4.0, 0.15


@dataclass(frozen=True)
class Fitted:
    """An affine map of the bed's frame, p' = matrix p + shift, and how well it meets the points.

    Attributes
    ----------
    matrix : float64 (2, 2)
    shift : float64 (2,), mm
    centre : middle of the points, mm; moves are told there
    residuals : mm by pocket, what is left at each point
    wild : pockets whose point does not go with the others
    """

    terms: Terms
    matrix: MeasuredPoints
    shift: MeasuredPoints
    centre: MeasuredPoints
    residuals: dict[int, float]
    wild: tuple[int, ...]

    def moved(self, x: float, y: float) -> tuple[float, float]:
        """Where a place really is.

        Parameters
        ----------
        x : mm to the right
        y : mm away
        """
        found = self.matrix @ (x, y) + self.shift
        return float(found[0]), float(found[1])

    @property
    def offset(self) -> tuple[float, float]:
        """The move of the points' middle in mm."""
        found = self.matrix @ self.centre + self.shift - self.centre
        return float(found[0]), float(found[1])

    @property
    def rotation(self) -> float:
        """Turn in degrees, anticlockwise: that of the bed's x axis."""
        return math.degrees(math.atan2(self.matrix[1, 0], self.matrix[0, 0]))

    @property
    def scales(self) -> tuple[float, float]:
        """Scale along x and along y, as shares near 1."""
        along = float(np.hypot(self.matrix[0, 0], self.matrix[1, 0]))
        return along, float(np.linalg.det(self.matrix)) / along

    @property
    def skew(self) -> float:
        """How far the axes are from a right angle, in degrees."""
        one, two = self.matrix[:, 0], self.matrix[:, 1]
        return math.degrees(math.asin(float(one @ two) / float(np.hypot(*one) * np.hypot(*two))))


def best_terms(points: MeasuredPoints) -> Terms:
    """As many terms as points can bear: those on one line tell nothing across it.

    Parameters
    ----------
    points : float64 (n, 2), mm
    """
    if len(points) == 1:
        return Terms.SHIFT
    spread = np.linalg.svd(points - points.mean(axis=0), compute_uv=False)
    flat = len(points) == 2 or spread[1] < 0.02 * spread[0]
    if flat:
        return Terms.TURN
    return Terms.SCALE if len(points) == 3 else Terms.ALL


def solve(
    should: MeasuredPoints, found: MeasuredPoints, terms: Terms
) -> tuple[MeasuredPoints, MeasuredPoints]:
    """The map that carries ``should`` onto ``found`` with the least sum of squares.

    Parameters
    ----------
    should, found : float64 (n, 2), mm
    terms : what the map may do: shift, turn, scale, or all

    Returns
    -------
    matrix (2, 2) and shift (2,). Turn and scale follow Umeyama, "Least-squares estimation of
    transformation parameters between two point patterns", IEEE PAMI 13 (4), 1991; the affine map
    is the linear least squares solution.
    """
    a, b = should.mean(axis=0), found.mean(axis=0)
    p, q = should - a, found - b
    if terms is Terms.SHIFT:
        matrix = np.eye(2)
    elif terms is Terms.ALL:
        matrix = np.linalg.lstsq(p, q, rcond=None)[0].T
    else:
        u, s, vt = np.linalg.svd(q.T @ p)
        keep = np.diag([1.0, np.sign(np.linalg.det(u @ vt))])
        scale = float(np.trace(np.diag(s) @ keep) / (p**2).sum()) if terms is Terms.SCALE else 1.0
        matrix = scale * u @ keep @ vt
    return matrix, b - matrix @ a


def fit(
    should: MeasuredPoints, found: MeasuredPoints, pockets: tuple[int, ...], terms: Terms | None
) -> Fitted:
    """Fit a correction; see :func:`solve`.

    A wild point is looked for by leaving each one out: it lies far from where the others say.

    Parameters
    ----------
    should : where places are stated, float64 (n, 2), mm
    found : where they were found, float64 (n, 2), mm
    pockets : their numbers
    terms : what the correction may contain; None as much as the points bear

    Returns
    -------
    Terms, offset and what is left at each pocket.

    Raises
    ------
    BadInput
        If the points are too few, or on one line, for the terms wanted.
    """
    bear = best_terms(should)
    wanted = terms or bear
    order = list(Terms)
    enough = len(should) >= LEAST[wanted] and (wanted is not Terms.ALL or bear is not Terms.TURN)
    if not enough or (len(should) < 2 and order.index(wanted) > 0):
        raise BadInput(
            say(
                "{should} measured pockets cannot tell {wanted}; measure more of them, not in "
                "one line.",
                should=len(should),
                wanted=wanted.words,
            )
        )
    matrix, shift = solve(should, found, wanted)
    left = np.hypot(*(should @ matrix.T + shift - found).T)
    return Fitted(
        wanted, matrix, shift, should.mean(axis=0),
        dict(zip(pockets, (float(v) for v in left), strict=True)),
        _wild(should, found, pockets, wanted),
    )  # fmt: skip


def _wild(
    should: MeasuredPoints, found: MeasuredPoints, pockets: tuple[int, ...], terms: Terms
) -> tuple[int, ...]:
    """The one point that the others contradict most, if it stands out from them."""
    if len(should) < LEAST[terms] + 2:
        return ()
    off, rest = [], []
    for i in range(len(should)):
        others = np.arange(len(should)) != i
        matrix, shift = solve(should[others], found[others], terms)
        left = np.hypot(*(should @ matrix.T + shift - found).T)
        off.append(float(left[i]))
        rest.append(float(left[others].max()))
    worst = int(np.argmax(off))
    stands_out = off[worst] > max(WILD_LEAST, WILD_TIMES * rest[worst])
    return (pockets[worst],) if stands_out else ()


def fitted_correction(job: Faced, correction: Correction) -> Fitted:
    """What measured pockets of a job say.

    Parameters
    ----------
    job : as one of its faces has it
    correction : its measured pockets

    Raises
    ------
    BadInput
        If the points cannot tell what is wanted, or name pockets that are not there.
    """
    pockets = {pocket.number: pocket for pocket in bed_pockets(job)}
    absent = [point.pocket for point in correction.points if point.pocket not in pockets]
    if absent:
        raise BadInput(
            say(
                "Pocket {absent} was measured but is not there; take its row out.", absent=absent[0]
            )
        )
    should = np.array([(pockets[p.pocket].x, pockets[p.pocket].y) for p in correction.points])
    found = np.array([to_bed(job.jig.datum, job.printer, p.x, p.y) for p in correction.points])
    return fit(should, found, tuple(p.pocket for p in correction.points), correction.terms)


def by_datum(job: Faced, x: float, y: float) -> tuple[float, float]:
    """A place of the bed measured from the datum, as the operator reads it.

    Parameters
    ----------
    job : whose datum it is
    x, y : mm from the bed's near left corner

    Returns
    -------
    x and y in mm from the datum.
    """
    return from_bed(job.jig.datum, job.printer, x, y)


def in_words(job: Faced, fitted: Fitted) -> str:
    """A correction in words, along the datum's axes.

    Parameters
    ----------
    job : whose datum the words go by
    fitted : a correction

    Returns
    -------
    Moves in mm, turns in degrees, scales in percent.
    """
    across, along = axes(job.jig.datum)
    x, y = fitted.offset
    by = [bare_length(one, signed=True) for one in (across * x, along * y)]
    words = [say("moved {by} {units}", by=", ".join(by), units=units().value)]
    if fitted.terms is not Terms.SHIFT:
        words.append(
            say(
                "turned {across}°", across=decimal(across * along * fitted.rotation, 3, signed=True)
            )
        )
    if fitted.terms is Terms.SCALE:
        words.append(say("scaled {scales} %", scales=decimal(fitted.scales[0] * 100, 3)))
    if fitted.terms is Terms.ALL:
        one, two = (100 * s for s in fitted.scales)
        skew = decimal(fitted.skew, 3, signed=True)
        words.append(
            say(
                "scaled {one} × {two} %, skewed {skew}°",
                one=decimal(one, 3),
                two=decimal(two, 3),
                skew=skew,
            )
        )
    return ", ".join(words)
