"""Curves and limits of inks, from ramps that were measured."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from farbe.colour.lab import difference, lab_of_xyz, xyz_of_lab
from farbe.model.condition import InkCurve
from farbe.optics.patches import Floats

#: Percents of a curve's points.
WANTED = tuple(float(percent) for percent in range(0, 101, 5))
#: CIEDE2000 that more ink has to make, or it is not worth it.
MATTERS = 1.0


def tones_by_look(paper: Floats, ramp: Floats) -> Floats:
    """How far each step of a ramp has come from the paper, so that even steps look even.

    The length in CIE L*a*b* (ISO/CIE 11664-4) of the way from the paper to each step, as a share
    of that to the last.

    Parameters
    ----------
    paper : CIE L*a*b*, (3,)
    ramp : CIE L*a*b* of rising steps, (n, 3); the last is solid

    Returns
    -------
    float64 (n,), 1 at the end.
    """
    far = np.linalg.norm(ramp - paper, axis=1)
    return np.asarray(far / max(float(far[-1]), 1e-6))


def tones_by_area(ground: Floats, ramp: Floats) -> Floats:
    """The area that each step of a ramp covers, as light sees it.

    Murray and Davies, "Monochrome reproduction in photoengraving", J. Franklin Inst. 221, 1936,
    along the line from the ground to the solid in XYZ.

    Parameters
    ----------
    ground : CIE L*a*b* of what is bare, (3,)
    ramp : CIE L*a*b* of rising steps, (n, 3); the last is solid

    Returns
    -------
    float64 (n,), 1 at the end.
    """
    bare, steps = xyz_of_lab(ground), xyz_of_lab(ramp)
    way = steps[-1] - bare
    return np.asarray((steps - bare) @ way / max(float(way @ way), 1e-12))


def curve_of(ink: str, sent: Sequence[float], tones: Floats) -> InkCurve:
    """The curve that makes an ink's tones even; whatever was read, it never falls.

    Readings that fall are levelled by the nearest rising ones in the sense of least squares
    (isotonic regression), then turned round.

    Parameters
    ----------
    ink : its name
    sent : percents that were sent, rising, above 0 and up to 100
    tones : what came of them, 1 for solid
    """
    level = np.concatenate(([0.0], np.asarray(sent, np.float64)))
    # Half a second to load, which only who measures has to wait for.
    from scipy.optimize import isotonic_regression

    rising = isotonic_regression(np.clip(np.concatenate(([0.0], tones)), 0.0, 1.0)).x
    rising = np.asarray(rising, np.float64)
    rising[0] = 0.0
    rising[-1] = 1.0
    # Of levels that do the same, the least is sent.
    first = np.concatenate(([True], np.diff(rising) > 1e-9))
    found = np.interp(np.array(WANTED) / 100.0, rising[first], level[first])
    found = np.maximum.accumulate(np.clip(np.round(found, 2), 0.0, 100.0))
    found[0] = 0.0
    return InkCurve(ink=ink, points=tuple(zip(WANTED, found.tolist(), strict=True)))


def wanted_of(curve: InkCurve | None, sent: Floats) -> Floats:
    """Percents that were wanted of those that were sent.

    Parameters
    ----------
    curve : of the ink; None for one that is sent as it is wanted
    sent : percent, any shape
    """
    if curve is None:
        return sent
    wanted, levels = np.array(curve.points).T
    rising = np.concatenate(([True], np.diff(levels) > 0))
    return np.asarray(np.interp(sent, levels[rising], wanted[rising]))


def enough(sent: Sequence[float], looks: Floats) -> float:
    """The percent from which on more of an ink stops to matter.

    Parameters
    ----------
    sent : percents of a ramp, rising; the last is the most
    looks : CIE L*a*b* of its steps, (n, 3)

    Returns
    -------
    The least of ``sent`` that looks as the most does, within :data:`MATTERS`.
    """
    far = difference(looks, looks[-1])
    for at, percent in enumerate(sent):
        if bool((far[at:] <= MATTERS).all()):
            return float(percent)
    return float(sent[-1])


def looks_of(xyz: Floats) -> Floats:
    """CIE L*a*b* of readings; NaN stays NaN.

    Parameters
    ----------
    xyz : under D50, (n, 3)
    """
    read = np.isfinite(xyz[..., :1])
    return np.where(read, lab_of_xyz(np.where(read, xyz, 0.5)), np.nan)
