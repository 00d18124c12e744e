"""What is sent for what is wanted, by an ink's curve, and back again."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import numpy.typing as npt

from farbe.model.condition import InkCurve

Levels = npt.NDArray[np.uint8]


@lru_cache(maxsize=64)
def sent_levels(curve: InkCurve) -> Levels:
    """The level that is sent for each that is wanted.

    Parameters
    ----------
    curve : of an ink

    Returns
    -------
    uint8 (256,), never falling, 0 for 0.
    """
    wanted, sent = np.array(curve.points).T * 2.55
    return np.asarray(np.rint(np.interp(np.arange(256), wanted, sent)), np.uint8)


@lru_cache(maxsize=64)
def wanted_levels(curve: InkCurve) -> Levels:
    """The level that was wanted for each that is sent; the highest for what is never sent.

    Parameters
    ----------
    curve : of an ink

    Returns
    -------
    uint8 (256,), never falling, 0 for 0.
    """
    wanted, sent = np.array(curve.points).T * 2.55
    # Where the curve is level, the least that asks for so much.
    rising = np.concatenate(([True], np.diff(sent) > 0))
    found = np.interp(np.arange(256), sent[rising], wanted[rising])
    return np.asarray(np.rint(found), np.uint8)
