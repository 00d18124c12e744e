"""Marked pixels as places: counted by cells of about a millimetre, joined at the end."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from farbe.separate.choke import Plate
from farbe.separate.grid import Grid
from farbe.survey.survey import LESS_IS_WORSE, Mark, Matter, Spot

#: Millimetres along a cell; places that are closer than this are one.
CELL = 1.0
#: Places that are named.
MOST_SPOTS = 8
Figures = npt.NDArray[np.float32]
Table = npt.NDArray[np.float64]


def cell_size(grid: Grid) -> tuple[int, int]:
    """Columns and rows of a cell, at least one.

    Parameters
    ----------
    grid : resolution
    """
    return max(1, round(CELL * grid.per_mm_x)), max(1, round(CELL * grid.per_mm_y))


@dataclass(frozen=True, eq=False)
class Cells:
    """Cells in which something is marked: float64 (n, 8).

    A cell's row and column, count of pixels, first and last row, first and last column, and the
    worst figure.
    """

    matter: Matter
    layer: str
    table: Table


def cells_of(
    matter: Matter,
    layer: str,
    mask: npt.NDArray[np.bool_] | Plate,
    corner: tuple[int, int],
    size: tuple[int, int],
    worst: Figures | float = 0.0,
) -> Cells | None:
    """The cells of marked pixels.

    Parameters
    ----------
    matter, layer : what is marked, and the layer that it is about
    mask : (h, w), not 0 where marked; its first row is the first of a cell
    corner : first row and column of the mask on the canvas
    size : columns and rows of a cell
    worst : a figure for each pixel, float32 (h, w), or one for all

    Returns
    -------
    None where nothing is marked.
    """
    found = cv2.findNonZero(np.ascontiguousarray(mask).view(np.uint8))
    if found is None:
        return None
    columns, rows = np.asarray(found).reshape(-1, 2).T.astype(np.int64)
    figures = worst[rows, columns] if isinstance(worst, np.ndarray) else np.full(len(rows), worst)
    return cells_at(matter, layer, rows + corner[0], columns + corner[1], size, figures)


def cells_at(
    matter: Matter,
    layer: str,
    rows: npt.NDArray[np.int64],
    columns: npt.NDArray[np.int64],
    size: tuple[int, int],
    figures: npt.NDArray[Any],
) -> Cells:
    """The cells of pixels, at least one, of the canvas, with a figure for each.

    Parameters
    ----------
    matter, layer : what is marked, and the layer that it is about
    rows, columns : of the pixels, (n,)
    size : columns and rows of a cell
    figures : (n,)
    """
    at_row, at_column = rows // size[1], columns // size[0]
    first_row, first_column = int(at_row.min()), int(at_column.min())
    across = int(at_column.max()) - first_column + 1
    flat = (at_row - first_row) * across + (at_column - first_column)
    count = np.bincount(flat)
    there = np.flatnonzero(count)
    small, large = np.iinfo(np.int64).min, np.iinfo(np.int64).max
    bounds = [np.full(len(count), start, np.int64) for start in (large, small, large, small)]
    np.minimum.at(bounds[0], flat, rows)
    np.maximum.at(bounds[1], flat, rows)
    np.minimum.at(bounds[2], flat, columns)
    np.maximum.at(bounds[3], flat, columns)
    judge = least_of if matter in LESS_IS_WORSE else most_of
    extreme = judge(figures, flat, len(count))
    table = np.column_stack([
        there // across + first_row, there % across + first_column, count[there],
        *(bound[there] for bound in bounds), extreme[there],
    ]).astype(np.float64)  # fmt: skip
    return Cells(matter, layer, table)


def marks_of(
    cells: Iterable[Cells],
    grid: Grid,
    millimetres: Callable[[npt.NDArray[np.float64]], npt.NDArray[np.float64]],
    least: Callable[[Matter], float],
) -> tuple[Mark, ...]:
    """Marks with their places, from the cells of all strips.

    Parameters
    ----------
    cells : of all strips; none is cut by the end of a strip
    grid : resolution
    millimetres : pixels of the canvas (n, 2) to mm around the piece's middle, y up
    least : area in mm² under which a matter is not worth a word

    Returns
    -------
    Each matter of each layer once.
    """
    together: dict[tuple[Matter, str], list[Table]] = {}
    for one in cells:
        together.setdefault((one.matter, one.layer), []).append(one.table)
    found = []
    pixel = 1.0 / (grid.per_mm_x * grid.per_mm_y)
    for (matter, layer), tables in together.items():
        table = np.concatenate(tables)
        area = float(table[:, 2].sum()) * pixel
        if area >= least(matter):
            spots = _spots(matter, table, pixel, millimetres)
            worst = min if matter in LESS_IS_WORSE else max
            found.append(Mark(matter, layer, area, worst(spot.worst for spot in spots),
                              len(spots), tuple(spots[:MOST_SPOTS])))  # fmt: skip
    order = list(Matter)
    return tuple(sorted(found, key=lambda mark: (order.index(mark.matter), mark.layer)))


def least_of(
    figures: npt.NDArray[Any], own: npt.NDArray[Any], count: int
) -> npt.NDArray[np.float64]:
    """The least figure of each group.

    Parameters
    ----------
    figures : (n,)
    own : the group of each, 0 and up, (n,)
    count : of groups

    Returns
    -------
    float64 (count,); infinite where a group has none.
    """
    found = np.full(count, np.inf)
    np.minimum.at(found, own, figures)
    return found


def most_of(
    figures: npt.NDArray[Any], own: npt.NDArray[Any], count: int
) -> npt.NDArray[np.float64]:
    """The largest figure of each group, float64 (count,); see :func:`least_of`.

    Parameters
    ----------
    figures : one for each member
    own : the group of each member
    count : of groups
    """
    return -least_of(-figures, own, count)


def _spots(
    matter: Matter,
    table: Table,
    pixel: float,
    millimetres: Callable[[npt.NDArray[np.float64]], npt.NDArray[np.float64]],
) -> list[Spot]:
    """Cells that touch as one place, largest first."""
    rows, columns = table[:, 0].astype(int), table[:, 1].astype(int)
    there = np.zeros((np.ptp(rows) + 1, np.ptp(columns) + 1), bool)
    there[rows - rows.min(), columns - columns.min()] = True
    count, labels = cv2.connectedComponents(there.astype(np.uint8), connectivity=8)
    own = np.asarray(labels)[rows - rows.min(), columns - columns.min()] - 1
    area = np.bincount(own, table[:, 2]) * pixel
    top, left = (least_of(table[:, k], own, count - 1) for k in (3, 5))
    bottom, right = (most_of(table[:, k], own, count - 1) + 1 for k in (4, 6))
    judge = least_of if matter in LESS_IS_WORSE else most_of
    worst = judge(table[:, 7], own, count - 1)
    # Where most of each place is: the middle of its fullest cell.
    full = np.lexsort((-table[:, 2], own))
    fullest = full[np.unique(own[full], return_index=True)[1]]
    middles = np.column_stack([
        (table[fullest, 5] + table[fullest, 6] + 1) / 2,
        (table[fullest, 3] + table[fullest, 4] + 1) / 2,
    ])  # fmt: skip
    most = millimetres(middles)
    spots = []
    for which in np.argsort(-area, kind="stable"):
        corners = np.array([
            (x, y) for x in (left[which], right[which]) for y in (top[which], bottom[which])
        ], np.float64)  # fmt: skip
        places = millimetres(corners)
        (x0, y0), (x1, y1) = places.min(axis=0), places.max(axis=0)
        spots.append(Spot(float(x0), float(y0), float(x1 - x0), float(y1 - y0),
                          float(area[which]), float(worst[which]),
                          float(most[which, 0]), float(most[which, 1])))  # fmt: skip
    return spots
