"""Readings to patches: wrong orders, missed rows and outliers are found, and said."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from farbe.colour.lab import difference, lab_of_xyz
from farbe.files.reference import Reference
from farbe.measure.readings import Readings
from farbe.model.base import BadInput
from farbe.optics.patches import Floats
from farbe.said import say

#: CIE76 on the mean beyond which readings are of another chart, whatever their order.
FOREIGN = 22.0
#: How much better another order has to be to be believed.
SURE = 0.75
#: CIEDE2000 and multiples of the usual difference beyond which a reading is an outlier.
FAR, TIMES = 9.0, 8.0
#: Patches that look most like one, by which it is judged; of fewer patches than so many none are.
NEAREST, FEW = 8, 50
#: Share of a chart that may be outliers or missed rows; with more it is read anew.
MOST_LOST = 0.2


@dataclass(frozen=True, eq=False)
class Matched:
    """Readings in the order of the reference.

    Attributes
    ----------
    xyz : under D50, float64 (n, 3); NaN where nothing was read, or nothing that can be believed
    said : what was found on the way, one sentence each
    """

    xyz: Floats
    said: tuple[str, ...]


def matched(reference: Reference, several: Sequence[Readings]) -> Matched:
    """Readings of one or more prints of a chart, in its order, and their mean.

    Parameters
    ----------
    reference : of the chart
    several : readings, at least one; each of another print, or of the same again

    Raises
    ------
    BadInput
        If readings are of another chart, or too much is missing.
    """
    prints, said = [], list[str]()
    for one in several:
        found, words = _in_order(reference, one)
        prints.append(found)
        said += words
    sure, words = _without_strays(reference, np.array(prints))
    said += words
    count = np.isfinite(sure[..., 0]).sum(axis=0)
    total = np.nansum(sure, axis=0)
    mean = np.where(count[:, None] > 0, total / np.maximum(count, 1)[:, None], np.nan)
    lost = int((count == 0).sum())
    if lost > MOST_LOST * len(mean):
        raise BadInput(
            say("{lost} of {patches} patches cannot be used; read the chart again.",
                lost=lost, patches=len(mean))
        )  # fmt: skip
    return Matched(mean, tuple(dict.fromkeys(said)))


def _in_order(reference: Reference, readings: Readings) -> tuple[Floats, list[str]]:
    """Readings of one print in the reference's order, NaN where there are none."""
    names = {spot.name.casefold(): at for at, spot in enumerate(reference.spots)}
    given = [name.casefold() for name in readings.names]
    if given and len(set(given)) == len(given) and all(name in names for name in given):
        at = np.array([names[name] for name in given])
        found = np.full((len(reference.spots), 3), np.nan)
        found[at] = readings.xyz
        if _far_off(reference, found) <= FOREIGN:
            words = []
            if len(given) < len(names):
                words.append(say("{where}: {count} patches were not read.",
                                 where=readings.where, count=len(names) - len(given)))  # fmt: skip
            if (np.diff(at) < 0).any():
                words.append(say("{where}: the patches came in another order; they were sorted by "
                                 "their names.", where=readings.where))  # fmt: skip
            return found, words
    return _by_rows(reference, readings)


def _far_off(reference: Reference, xyz: Floats) -> float:
    """CIE76 between what was read and what is expected, on the mean."""
    read = np.isfinite(xyz[:, 0])
    apart = lab_of_xyz(xyz[read]) - reference.expected[read]
    return float(np.linalg.norm(apart, axis=1).mean())


def _by_rows(reference: Reference, readings: Readings) -> tuple[Floats, list[str]]:
    """Readings without names that can be believed, by what their rows look like."""
    count, wide = len(reference.spots), reference.columns
    last = count % wide or wide
    given, where = len(readings.xyz), readings.where
    whole = given if given % wide == 0 else given - last
    if given > count or whole % wide or given < (1.0 - MOST_LOST) * count:
        raise BadInput(
            say("{where} has {given} readings; the chart {chart} has {count}, in rows of {wide}. "
                "Read what is missing, or choose the reference that belongs to it.",
                where=where, given=given, chart=reference.chart, count=count, wide=wide)
        )  # fmt: skip
    plain, turned = (_rows_placed(reference, xyz) for xyz in (readings.xyz, readings.xyz[::-1]))
    best = turned if turned.far < SURE * plain.far else plain
    if best.far > FOREIGN:
        raise BadInput(
            say("{where} is not of the chart {chart}, in whatever order; choose the reference "
                "that was written with it.", where=where, chart=reference.chart)
        )  # fmt: skip
    return best.xyz, _order_words(best, turned=best is turned, where=where)


@dataclass(frozen=True, eq=False)
class _Placed:
    """Rows of readings at the rows of a chart that they look like.

    ``rows`` is the chart's row of each that was read, ``backwards`` whether from right to left;
    ``missing`` are rows that nothing was read of, ``far`` is the CIE76 on the mean.
    """

    xyz: Floats
    rows: tuple[int, ...]
    backwards: tuple[bool, ...]
    missing: tuple[int, ...]
    far: float


def _rows_placed(reference: Reference, xyz: Floats) -> _Placed:
    wide, count = reference.columns, len(reference.spots)
    starts = range(0, count, wide)
    lab = lab_of_xyz(xyz)
    parts = _chunks(len(xyz), wide, count)
    cost = np.full((len(parts), len(starts)), 1e6)
    backward = np.zeros(cost.shape, bool)
    for i, part in enumerate(parts):
        for j, start in enumerate(starts):
            wanted = reference.expected[start : start + wide]
            if len(wanted) != part.stop - part.start:
                continue
            read = lab[part]
            both = (read, read[::-1])
            ways = [float(np.linalg.norm(one - wanted, axis=1).mean()) for one in both]
            # From left to right unless the other way is clearly nearer.
            backward[i, j] = ways[1] < SURE * ways[0]
            cost[i, j] = ways[1] if backward[i, j] else ways[0]
    # Half a second to load, which only who measures has to wait for.
    from scipy.optimize import linear_sum_assignment

    read_rows, chart_rows = linear_sum_assignment(cost)
    straight = list(range(len(parts)))
    if len(parts) == len(starts) and not backward[straight, straight].any():
        # As they came, unless another order is clearly better.
        as_is = cost[straight, straight].mean()
        if cost[read_rows, chart_rows].mean() > SURE * as_is:
            read_rows, chart_rows = np.array(straight), np.array(straight)
    found = np.full((count, 3), np.nan)
    for i, j in zip(read_rows.tolist(), chart_rows.tolist(), strict=True):
        part = xyz[parts[i]]
        found[starts[j] : starts[j] + len(part)] = part[::-1] if backward[i, j] else part
    return _Placed(
        found, tuple(chart_rows.tolist()),
        tuple(bool(backward[i, j]) for i, j in zip(read_rows, chart_rows, strict=True)),
        tuple(sorted(set(range(len(starts))) - set(chart_rows.tolist()))),
        float(cost[read_rows, chart_rows].mean()),
    )  # fmt: skip


def _chunks(given: int, wide: int, count: int) -> list[slice]:
    """Rows of what was read; a short one is the chart's last, which comes first if it is turned."""
    last = count % wide
    if given % wide == 0 or last == 0:
        return [slice(at, at + wide) for at in range(0, given, wide)]
    return [slice(at, min(at + wide, given)) for at in range(0, given, wide)]


def _order_words(placed: _Placed, *, turned: bool, where: str) -> list[str]:
    words = []
    if turned:
        words.append(say("{where}: the chart was read turned by half a turn; it was turned back.",
                         where=where))  # fmt: skip
    rows = placed.rows
    moved = [row + 1 for at, row in enumerate(rows) if sorted(rows)[at] != row]
    if moved:
        words.append(say("{where}: rows came in another order ({rows}); they were put in theirs.",
                         where=where, rows=_some(moved)))  # fmt: skip
    back = [row + 1 for row, yes in zip(rows, placed.backwards, strict=True) if yes]
    if back:
        words.append(say("{where}: read from right to left, and turned round: row {rows}.",
                         where=where, rows=_some(back)))  # fmt: skip
    if placed.missing:
        words.append(say("{where}: nothing was read of row {rows}.", where=where,
                         rows=_some([row + 1 for row in placed.missing])))  # fmt: skip
    return words


def _some(names: Sequence[object]) -> str:
    shown = ", ".join(str(name) for name in names[:8])
    return shown if len(names) <= 8 else say("{shown} and {more} more", shown=shown,
                                             more=len(names) - 8)  # fmt: skip


def _without_strays(reference: Reference, prints: Floats) -> tuple[Floats, list[str]]:
    """Prints (m, n, 3) without readings that are far from what all others say.

    What is far from what patches say that should look nearly the same is dust, a wrong place, or a
    patch that was not printed.
    """
    mean = np.nanmean(prints, axis=0) if len(prints) > 1 else prints[0]
    # What is bare or has other films shows what lies behind, which nobody knows before.
    colours = np.array([p.is_colour and p.white == reference.white for p in reference.patches])
    read = np.isfinite(mean[:, 0]) & colours
    lab = np.where(read[:, None], lab_of_xyz(np.where(read[:, None], mean, 0.5)), 0.0)
    expected = reference.expected[read]
    # A few patches far apart, as of a strip, say nothing of one another.
    usual = _usual(expected, lab[read]) if len(expected) >= FEW else expected
    off = np.zeros((len(prints), len(mean)))
    for at, one in enumerate(prints):
        there = np.isfinite(one[:, 0]) & read
        full = np.zeros_like(lab)
        full[read] = usual
        off[at, there] = difference(lab_of_xyz(one[there]), full[there])
    limit = max(FAR, TIMES * float(np.median(off[:, read])))
    stray = off > limit
    if not stray.any():
        return prints, []
    kept = np.where(stray[..., None], np.nan, prints)
    names = [reference.spots[at].name for at in np.flatnonzero(stray.any(axis=0)).tolist()]
    return kept, [
        say("Left out, since all others say something else: {names}.", names=_some(names))
    ]


def _usual(expected: Floats, read: Floats) -> Floats:
    """What each patch should have given, by what those gave that should look most like it.

    A polynomial takes what a printer does to all colours; the median of the nearest patches what
    is left of that.
    """
    smooth = _smooth(expected, read)
    count = min(len(expected), NEAREST + 1)
    from scipy.spatial import cKDTree

    _, near = cKDTree(expected).query(expected, count)
    # The nearest of each is itself.
    left = (read - smooth)[np.atleast_2d(near)[:, 1:]]
    return np.asarray(smooth + np.median(left, axis=1) if count > 2 else smooth)


def _smooth(expected: Floats, read: Floats) -> Floats:
    """What a polynomial of the second degree makes of what is expected, told robustly."""
    e = expected / 100.0
    terms = np.column_stack(
        [np.ones(len(e)), e, e**2, e[:, 0] * e[:, 1], e[:, 0] * e[:, 2], e[:, 1] * e[:, 2]]
    )
    weights = np.ones(len(e))
    made = read
    for _ in range(6):
        scale = np.sqrt(weights)[:, None]
        factors, *_ = np.linalg.lstsq(terms * scale, read * scale, rcond=None)
        made = terms @ factors
        off = np.linalg.norm(read - made, axis=1)
        # Cauchy's weights: what is far counts little.
        weights = 1.0 / (1.0 + (off / (2.0 * np.median(off) + 1e-6)) ** 2)
    return np.asarray(made)
