"""Rectangles on a strip of film, with little of it used.

Each rectangle is put into the lowest gap of the skyline that those before it make, the one that
fits this gap best first; which come first is settled by trying orders and keeping the better one.
"""

from __future__ import annotations

import math
import random
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from farbe.layout.packing import Spot, Strip, must_fit

#: Rectangles are packed in whole hundredths of a millimetre.
FINE = 100
#: Steps of work after which no better order is looked for; one step looks at one rectangle once.
EFFORT = 400_000
#: Orders that every search begins with at the least.
FIRST = 3
#: Orders that are tried in vain before the search ends.
PATIENCE = 150
#: Lengths that a strip may have, by the least that its rectangles need; the first found counts.
LENGTHS = (1.01, 1.03, 1.06, 1.1, 1.15, 1.2, 1.3, 1.45, 1.7, 2.0, 3.0)
#: A strip that is longer than what lies on it needs by this much at most is not bettered.
CLOSE = 1.002


class _Way(NamedTuple):
    """A rectangle as it may be laid: its sides with the gap, its kind, degrees."""

    width: int
    height: int
    kind: int
    turned: int


class _Lain(NamedTuple):
    """A rectangle where it lies, by its near left corner."""

    way: _Way
    x: int
    y: int


class _Step(NamedTuple):
    """A level part of the skyline."""

    x: int
    y: int
    width: int


#: Sheet after sheet, what lies on each.
_Sheets = list[list[_Lain]]


@dataclass(frozen=True)
class _Order:
    """What is to be laid: how often each kind, on which sheets."""

    counts: tuple[int, ...]
    width: int
    longest: int


def pack_boxes(sizes: Sequence[tuple[float, float]], strip: Strip) -> list[Spot]:
    """Lay rectangles on as few sheets as found, and on little film.

    Parameters
    ----------
    sizes : width and height in mm of each item
    strip : the film between its margins, and the gap, in mm

    Returns
    -------
    Where each rectangle lies, sheet by sheet.

    Raises
    ------
    TooLarge
        If an item does not fit a sheet at all.
    """
    if not sizes:
        return []
    kinds, items, gap, order = _in_cells(sizes, strip)
    sheets = _search(_ways(kinds, order, strip.turning), order)
    left = {kind: iter(items[size]) for kind, size in enumerate(kinds)}
    return [
        Spot(next(left[way.kind]), (x + (way.width - gap) / 2) / FINE,
             (y + (way.height - gap) / 2) / FINE, way.turned, number)
        for number, sheet in enumerate(sheets) for way, x, y in sheet
    ]  # fmt: skip


def go_on_a_sheet(sizes: Sequence[tuple[float, float]], strip: Strip) -> bool:
    """Whether rectangles are sure to be laid on one sheet, found by few tries.

    Parameters
    ----------
    sizes : width and height in mm of each item
    strip : the film between its margins, and the gap, in mm

    Raises
    ------
    TooLarge
        If an item does not fit a sheet at all.
    """
    if not sizes:
        return True
    kinds, _, _, order = _in_cells(sizes, strip)
    # These are among those that every search begins with.
    begun = list(_orders(_ways(kinds, order, strip.turning)))[:FIRST]
    return any(_laid(ways, order, 1, order.longest) is not None for ways in begun)


_Kinds = list[tuple[int, ...]]


def _in_cells(
    sizes: Sequence[tuple[float, float]], strip: Strip
) -> tuple[_Kinds, dict[tuple[int, ...], list[int]], int, _Order]:
    """The different rectangles, which items are of each, the gap, and what is to be laid."""
    for number, (wide, high) in enumerate(sizes):
        must_fit(number, wide, high, strip)
    # The gap is a part of each rectangle, and of the sheet once.
    gap = math.ceil(strip.gap * FINE)
    whole = [tuple(math.ceil(side * FINE - 1e-6) + gap for side in size) for size in sizes]
    items: defaultdict[tuple[int, ...], list[int]] = defaultdict(list)
    for number, size in enumerate(whole):
        items[size].append(number)
    kinds = list(items)
    # A side that only fits because it was rounded up still fits.
    width = max(math.floor(strip.width * FINE + 1e-6) + gap, 1)
    longest = max(math.floor(strip.longest * FINE + 1e-6) + gap, 1)
    order = _Order(tuple(len(items[kind]) for kind in kinds), width, longest)
    return kinds, items, gap, order


def _ways(kinds: list[tuple[int, ...]], order: _Order, turning: bool) -> list[_Way]:
    ways = []
    for kind, (wide, high) in enumerate(kinds):
        if wide <= order.width and high <= order.longest:
            ways.append(_Way(wide, high, kind, 0))
        if turning and wide != high and high <= order.width and wide <= order.longest:
            ways.append(_Way(high, wide, kind, 90))
    return ways


_SORTS: tuple[Callable[[_Way], tuple[int, ...]], ...] = (
    lambda way: (-way.height, -way.width),
    lambda way: (-way.width, -way.height),
    lambda way: (-way.width * way.height, -way.width),
    lambda way: (-max(way[:2]), -way.height),
    lambda way: (-max(way[:2]), -way.width),
)


def _orders(ways: list[_Way]) -> Iterator[list[_Way]]:
    """Orders to begin with: by size, with both ways of laying mixed, or one of them before."""
    yield from (sorted(ways, key=sort) for sort in _SORTS)
    if any(way.turned for way in ways):
        yield from (sorted(ways, key=lambda w: (w.width < w.height, s(w))) for s in _SORTS)
        yield from (sorted(ways, key=lambda w: (w.width > w.height, s(w))) for s in _SORTS)


def _search(ways: list[_Way], order: _Order) -> _Sheets:
    """The shortest sheets found."""
    tries = max(FIRST, EFFORT // (sum(order.counts) * max(len(ways), 8)))
    begun = list(_orders(ways))[: max(FIRST, tries)]
    made = [(sheets, ways) for ways in begun if (sheets := _laid(ways, order)) is not None]
    best, first = min(made, key=lambda pair: (len(pair[0]), _end(pair[0])))
    count, least = len(best), _least(ways, order, len(best))
    # Where a strip may be as long as it likes, rectangles stand up in its last gaps; told how
    # long it may be, they lie down.
    for share in LENGTHS:
        most = int(least * share)
        if most >= _end(best) or tries <= 0:
            break
        tries -= len(begun)
        found = [(s, ways) for ways in begun if (s := _laid(ways, order, count, most)) is not None]
        if found:
            best, first = min(found, key=lambda pair: _end(pair[0]))
            break
    return _bettered(best, first, order, tries, least)


def _bettered(best: _Sheets, ways: list[_Way], order: _Order, tries: int, least: float) -> _Sheets:
    """The same on less film, by moving one rectangle in the order at a time."""
    chance, vain = random.Random(len(ways)), 0
    for _ in range(tries if len(ways) > 1 else 0):
        if _end(best) <= least * CLOSE or vain > PATIENCE:
            break
        other = list(ways)
        one, two = chance.randrange(len(other)), chance.randrange(len(other))
        if chance.random() < 0.5:
            other[one], other[two] = other[two], other[one]
        else:
            other.insert(two, other.pop(one))
        found = _laid(other, order, len(best), _end(best))
        vain += 1
        if found is not None:
            vain = 0 if _end(found) < _end(best) else vain
            best, ways = found, other
    return best


def _end(sheets: _Sheets) -> int:
    """Where the last sheet ends."""
    return max(lain.y + lain.way.height for lain in sheets[-1])


def _least(ways: list[_Way], order: _Order, count: int) -> float:
    """Length that the last of so many sheets has at least."""
    sizes = {way.kind: way.width * way.height for way in ways}
    area = sum(sizes[kind] * many for kind, many in enumerate(order.counts))
    least = (area - (count - 1) * order.width * order.longest) / order.width
    if count == 1:
        low: Counter[int] = Counter()
        for way in ways:
            low[way.kind] = min(low[way.kind] or way.height, way.height)
        least = max(least, *low.values())
    return max(least, 1.0)


def _laid(
    ways: list[_Way], order: _Order, count: int | None = None, last: int = 0
) -> _Sheets | None:
    """Sheet after sheet by an order; None if a number of them, the last one so long, is too few."""
    counts, sheets = list(order.counts), _Sheets()
    while any(counts):
        if count is not None and len(sheets) == count:
            return None
        at_end = count is not None and len(sheets) == count - 1
        laid = _filled(ways, counts, order.width, last if at_end else order.longest)
        if not laid:
            return None
        sheets.append(laid)
    return sheets


def _filled(ways: list[_Way], counts: list[int], width: int, longest: int) -> list[_Lain]:
    """One sheet; what was laid is taken off the counts."""
    line = [_Step(0, 0, width)]
    laid: list[_Lain] = []
    left = [way for way in ways if counts[way.kind]]
    while left:
        which = min(range(len(line)), key=lambda i: line[i].y)
        step = line[which]
        before = line[which - 1].y - step.y if which else None
        behind = line[which + 1].y - step.y if which + 1 < len(line) else None
        way = _fitting(left, step.width, longest - step.y, (before, behind))
        if way is None:
            walls = [wall for wall in (before, behind) if wall is not None]
            if not walls:
                break
            _put(line, which, [_Step(step.x, step.y + min(walls), step.width)])
            continue
        rest = step.width - way.width
        if _goes_to_the_right(way.height, before, behind):
            at = step.x + rest
            parts = [_Step(step.x, step.y, rest), _Step(at, step.y + way.height, way.width)]
        else:
            at = step.x
            parts = [_Step(at, step.y + way.height, way.width),
                     _Step(at + way.width, step.y, rest)]  # fmt: skip
        laid.append(_Lain(way, at, step.y))
        _put(line, which, [part for part in parts if part.width])
        counts[way.kind] -= 1
        if not counts[way.kind]:
            left = [other for other in left if other.kind != way.kind]
    return laid


def _fitting(
    ways: list[_Way], room: int, high: int, walls: tuple[int | None, int | None]
) -> _Way | None:
    """The first that fits a gap best: its whole width counts most, then a wall of its height."""
    best, most = None, -1
    for way in ways:
        width, height = way[0], way[1]
        if width <= room and height <= high:
            fit = (4 if width == room else 0) + (2 if height in walls else 0)
            if fit > most:
                best, most = way, fit
                if fit >= 4:
                    break
    return best


def _goes_to_the_right(height: int, before: int | None, behind: int | None) -> bool:
    """Whether a rectangle lies at the right of its gap: where that wall is its height or higher."""
    if before is None or behind is None or height == before:
        return False
    return height == behind or behind > before


def _put(line: list[_Step], which: int, parts: list[_Step]) -> None:
    """Put parts of a skyline in the place of one, and join what is level."""
    low, high = max(0, which - 1), min(len(line), which + 2)
    joined: list[_Step] = []
    for step in (*line[low:which], *parts, *line[which + 1 : high]):
        if joined and joined[-1].y == step.y:
            last = joined[-1]
            joined[-1] = _Step(last.x, last.y, last.width + step.width)
        else:
            joined.append(step)
    line[low:high] = joined
