"""New places for entries that change their order."""

from __future__ import annotations

from farbe.model.base import BadInput
from farbe.queue.base import Entry
from farbe.queue.states import State
from farbe.said import say


def _groups(listed: list[Entry]) -> list[tuple[Entry, ...]]:
    """Entries that move as one: those of a nest, or one alone; in the order of the first."""
    found: dict[int, list[Entry]] = {}
    for entry in listed:
        found.setdefault(entry.nest or -entry.number, []).append(entry)
    return [tuple(group) for group in found.values()]


def _is_chosen(group: tuple[Entry, ...], chosen: frozenset[int]) -> bool:
    return any(entry.number in chosen for entry in group)


def moved(listed: list[Entry], chosen: frozenset[int], up: bool) -> dict[int, float]:
    """Entries one place earlier or later among those for the same printer.

    Parameters
    ----------
    listed : all that are open, in their order
    chosen : numbers of those that move
    up : towards the front

    Returns
    -------
    New places by number, of those that change.
    """
    places: dict[int, float] = {}
    for lane in dict.fromkeys(entry.lane for entry in listed):
        groups = _groups([entry for entry in listed if entry.lane == lane])
        order = groups if up else groups[::-1]
        for at in range(1, len(order)):
            if _is_chosen(order[at], chosen) and not _is_chosen(order[at - 1], chosen):
                order[at - 1], order[at] = order[at], order[at - 1]
        places |= _in_order(order if up else order[::-1])
    return places


def placed_before(
    listed: list[Entry], chosen: frozenset[int], before: int | None
) -> dict[int, float]:
    """Entries put before another one, or behind all.

    Parameters
    ----------
    listed : all that are open, in their order
    chosen : numbers of those that are put there
    before : the other's number

    Returns
    -------
    New places by number, of those that change.
    """
    groups = _groups(listed)
    taken = [group for group in groups if _is_chosen(group, chosen)]
    mark = next((g for g in groups if any(e.number == before for e in g)), None)
    if mark is not None and mark in taken:
        # Dropped on one of themselves: before the next that stays.
        behind = groups[groups.index(mark) :]
        mark = next((group for group in behind if group not in taken), None)
    rest = [group for group in groups if group not in taken]
    at = len(rest) if mark is None else rest.index(mark)
    return _in_order([*rest[:at], *taken, *rest[at:]])


def _in_order(groups: list[tuple[Entry, ...]]) -> dict[int, float]:
    """The places that there are, given out again in an order."""
    free = sorted(group[0].place for group in groups)
    for at in range(1, len(free)):
        # Two of one place would be in the order of their numbers.
        free[at] = max(free[at], free[at - 1] + 1e-3)
    return {
        entry.number: place
        for group, place in zip(groups, free, strict=True)
        for entry in group
        if entry.place != place
    }


def check_loose(entry: Entry) -> None:
    """Refuse entries that cannot change the board they share.

    Parameters
    ----------
    entry : that is to be nested or taken out

    Raises
    ------
    BadInput
        If it does not wait, or has begun to print.
    """
    if entry.state not in (State.WAITING, State.HELD):
        raise BadInput(
            say(
                "Job {number}, {name}, is {state}; only jobs that wait or are held are "
                "nested or taken out.",
                number=entry.number,
                name=entry.name,
                state=entry.state.words,
            )
        )
    if entry.step:
        raise BadInput(
            say(
                "Job {number}, {name}, has begun to print; print it from the start first.",
                number=entry.number,
                name=entry.name,
            )
        )
