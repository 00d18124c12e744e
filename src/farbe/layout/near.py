"""Which pieces lie near which, and in how many ways."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely import STRtree, affinity
from shapely.geometry.base import BaseGeometry

from farbe.layout.laid import LaidPiece

#: Mm to which the way from one piece to another is rounded: pairs that lie alike are told once.
ALIKE = 1e-3


@dataclass(frozen=True, eq=False)
class Near:
    """Pairs of pieces of which something around the one comes near the other.

    Attributes
    ----------
    one, other : places in the list of pieces, int64 (n,); the first is the one that reaches out
    way : from the one's middle to the other's, in thousandths of a millimetre, int64 (n, 2)
    """

    one: npt.NDArray[np.int64]
    other: npt.NDArray[np.int64]
    way: npt.NDArray[np.int64]


def middles(pieces: Sequence[LaidPiece]) -> npt.NDArray[np.float64]:
    """The middles of pieces.

    Parameters
    ----------
    pieces : that lie on one bed

    Returns
    -------
    mm, float64 (n, 2).
    """
    return np.array([(piece.x, piece.y) for piece in pieces], np.float64).reshape(-1, 2)


def near(
    pieces: Sequence[LaidPiece],
    reach: npt.NDArray[np.float64],
    within: npt.NDArray[np.float64],
) -> Near:
    """Pairs whose boxes meet.

    Parameters
    ----------
    pieces : that lie on one bed
    reach : the box of what reaches out from each piece, around its middle: left, bottom, right,
        top in mm, float64 (n, 4)
    within : the same of what it may come near to
    """
    at = np.tile(middles(pieces), 2)
    tree = STRtree(shapely.box(*(within + at).T))
    one, other = tree.query(shapely.box(*(reach + at).T))
    apart = one != other
    one, other = one[apart].astype(np.int64), other[apart].astype(np.int64)
    way = np.rint((at[other, :2] - at[one, :2]) / ALIKE).astype(np.int64)
    order = np.lexsort((other, one))
    return Near(one[order], other[order], way[order])


def boxes(shapes: Sequence[BaseGeometry]) -> npt.NDArray[np.float64]:
    """The boxes of shapes.

    Parameters
    ----------
    shapes : in mm

    Returns
    -------
    Left, bottom, right, top in mm, float64 (n, 4); NaN of empty ones.
    """
    return np.asarray(shapely.bounds(np.array(shapes, dtype=object)), np.float64).reshape(-1, 4)


def least_distance(pieces: Sequence[LaidPiece], within: float) -> float | None:
    """The least distance between two pieces' outlines; None if all are surely further apart.

    Parameters
    ----------
    pieces : that lie on one bed
    within : mm that matter

    Returns
    -------
    Millimetres.
    """
    if len(pieces) < 2:
        return None
    outline, form = _outlines(pieces)
    reach = boxes(outline)[form]
    pairs = near(pieces, reach + within * np.array((-1.0, -1.0, 1.0, 1.0)), reach)
    told = np.column_stack([form[pairs.one], form[pairs.other], pairs.way])
    gaps = (
        outline[one].distance(_moved(outline[other], x, y))
        for one, other, x, y in np.unique(told, axis=0).tolist()
    )
    return min(gaps, default=None)


def _outlines(
    pieces: Sequence[LaidPiece],
) -> tuple[list[BaseGeometry], npt.NDArray[np.int64]]:
    """The outline of each form, and which one each piece has."""
    outline = {piece.form: piece.outline for piece in pieces}
    forms = sorted(outline)
    form = np.searchsorted(forms, [piece.form for piece in pieces])
    return [outline[one] for one in forms], form.astype(np.int64)


def _moved(shape: BaseGeometry, x: int, y: int) -> BaseGeometry:
    return affinity.translate(shape, x * ALIKE, y * ALIKE)


def meets(
    pieces: Sequence[LaidPiece],
    around: Sequence[BaseGeometry],
    kinds: Sequence[int],
    least: float,
) -> list[int]:
    """Which pieces have surroundings that reach into another piece.

    Pairs that lie alike are looked at once, so a grid costs no more than a few pieces.

    Parameters
    ----------
    pieces : that lie on one bed
    around : the surroundings of each kind, in mm around the piece's middle
    kinds : the kind of each piece
    least : mm² that they share at least

    Returns
    -------
    Places in the list of pieces.
    """
    if len(pieces) < 2:
        return []
    outline, form = _outlines(pieces)
    kind = np.asarray(kinds, np.int64)
    pairs = near(pieces, boxes(around)[kind], boxes(outline)[form])
    if not len(pairs.one):
        return []
    told = np.column_stack([kind[pairs.one], form[pairs.other], pairs.way])
    alike, which = np.unique(told, axis=0, return_inverse=True)
    found = np.zeros(len(alike), bool)
    for at, (own, other, x, y) in enumerate(alike.tolist()):
        found[at] = around[own].intersection(_moved(outline[other], x, y)).area > least
    return sorted(set(pairs.one[found[which.reshape(-1)]].tolist()))
