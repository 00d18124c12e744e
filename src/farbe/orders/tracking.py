"""Loads in the queue: put there, and what became of them."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from farbe.files.jobfile import open_job, read_job
from farbe.files.store import ArtStore
from farbe.model.base import BadInput
from farbe.orders.order import OrderState
from farbe.orders.plan import Load, LoadState, Plan, write_plan
from farbe.orders.states import with_states
from farbe.queue.states import State
from farbe.queue.store import Entry, Queue
from farbe.queue.work import add_job
from farbe.render.raster import Report, unwatched
from farbe.said import say

#: What an entry's state means for its load, where it does not depend on what was done before.
_STATES = {
    State.PRINTING: LoadState.HANDED, State.STOPPED: LoadState.HANDED,
    State.HANDED: LoadState.HANDED, State.TAKEN: LoadState.HANDED, State.ASIDE: LoadState.HANDED,
    State.DONE: LoadState.PRINTED, State.FAILED: LoadState.FAILED,
}  # fmt: skip


#: What may be packed; of what a front end took, who packs it knows.
_TO_PACK = (OrderState.HANDED, OrderState.PRINTED, OrderState.PACKED)


def _beginning(plan: Plan, load: Load) -> str:
    """How the tokens of a load's entries begin."""
    return f"{plan.key}-{load.number}-{load.content}"


def refreshed(plan: Plan, queue: Queue) -> Plan:
    """A plan whose loads are as far as the queue says.

    Parameters
    ----------
    plan : as it was
    queue : that has its loads
    """
    known: dict[str, list[Entry]] = {}
    for entry in queue.known_by(f"{plan.key}-"):
        known.setdefault(entry.token.rpartition("-")[0], []).append(entry)
    return with_states(
        plan.with_loads(
            _as_far(load, known.get(_beginning(plan, load), []), queue) for load in plan.loads
        )
    )


def _as_far(load: Load, found: list[Entry], queue: Queue) -> Load:
    if not found and load.token:
        # Somebody removed its entry, maybe after it was printed: it is not printed again by itself.
        return _changed(load, state=LoadState.HANDED) if load.state is LoadState.QUEUED else load
    entry = found[-1] if found else None
    if entry is None or entry.state is State.CANCELLED:
        return _planned(load)
    state = _STATES.get(entry.state, LoadState.HANDED if entry.step else LoadState.QUEUED)
    failed = entry.failed
    if state is LoadState.FAILED:
        failed = tuple(place.number for place in load.places)
    failed, again = _once_more(load, entry, failed, queue)
    return _changed(
        load, state=state, token=entry.token, entry=entry.number, failed=failed, again=again
    )


def _planned(load: Load) -> Load:
    return _changed(load, state=LoadState.PLANNED, token="", entry=0, failed=(), again=())


def _changed(load: Load, **fields: object) -> Load:
    return load.model_copy(update=fields)


def _once_more(
    load: Load, entry: Entry, failed: tuple[int, ...], queue: Queue
) -> tuple[tuple[int, ...], tuple[int, ...]]:
    """Places that failed and are not printed yet, and those that the queue prints once more.

    Somebody may have had the queue itself print pieces again; those are not planned twice.
    """
    again, done = set[int](), set[int]()
    for other in queue.entries((*State,)) if failed else ():
        if other.again_of != entry.number or other.state in (State.CANCELLED, State.FAILED):
            continue
        numbers = _numbers_again(load, failed, other, queue)
        if other.state is State.DONE:
            done |= set(numbers) - {numbers[n - 1] for n in other.failed if n <= len(numbers)}
        else:
            again |= set(numbers)
    left = tuple(number for number in failed if number not in done)
    return left, tuple(number for number in left if number in again)


def _numbers_again(load: Load, failed: tuple[int, ...], entry: Entry, queue: Queue) -> list[int]:
    """Places of a load that an entry prints once more, in the order of its own numbers."""
    job = read_job(queue.job_path(entry.token))
    if job.again is not None:
        return [number + job.jig.count_from - 1 for number in job.again.numbers]
    # On film they lie anew: which of an order's pieces is which does not matter.
    left: dict[str, list[int]] = {}
    for place in load.places:
        if place.number in failed:
            left.setdefault(place.order, []).append(place.number)
    return [left[pick.order].pop(0) for pick in job.picks if left.get(pick.order)]


def put_in_queue(
    plan: Plan,
    queue: Queue,
    folder: Path,
    store: ArtStore,
    numbers: Iterable[int] = (),
    *,
    report: Report = unwatched,
) -> tuple[Plan, tuple[str, ...]]:
    """Put planned loads into the queue, in their order; what is there already stays.

    A load is known to the queue by a word that follows from what is on it, so that one that a
    kill left without its plan knowing is found again.

    Parameters
    ----------
    plan : whose folder is this program's alone
    queue : that gets them
    folder : of the plan
    store : into which their files go
    numbers : of the loads; none are all that are not held
    report : told the share that is done, 0 to 1

    Returns
    -------
    The plan, and why loads could not be put there, a sentence for each.
    """
    chosen = tuple(numbers)
    plan = refreshed(plan, queue)
    wanted = [plan.load(number) for number in chosen] or [
        load for load in plan.loads if not load.held
    ]
    refused = []
    todo = [load for load in wanted if load.state is LoadState.PLANNED]
    for at, load in enumerate(todo):
        beginning = _beginning(plan, load)
        token = f"{beginning}-{len(queue.known_by(f'{beginning}-')) + 1}"
        try:
            job = open_job(folder / load.job, store)
            share = at / len(todo)
            number = add_job(queue, job, store, token=token,
                             report=lambda done, s=share: report(s + done / len(todo)))  # type: ignore[misc]  # fmt: skip
        except BadInput as error:
            refused.append(say("Load {number}: {reason}", number=load.number, reason=error))
            continue
        plan = plan.with_load(
            _changed(load, state=LoadState.QUEUED, token=token, entry=number, held=False)
        )
        write_plan(with_states(plan), folder)
    return with_states(plan), tuple(refused)


def withdrawn(plan: Plan, queue: Queue, numbers: Iterable[int]) -> Plan:
    """A plan with loads taken out of the queue again, which nobody has begun.

    One whose entry somebody removed there is planned again, too: who says so knows that it was
    not printed.

    Parameters
    ----------
    plan : as the queue knows it
    queue : that has them
    numbers : of the loads

    Raises
    ------
    BadInput
        If one is begun; those before it are taken out.
    """
    for number in numbers:
        load = plan.load(number)
        if load.state is LoadState.QUEUED:
            queue.withdraw(load.entry)
        elif load.token and not queue.known_by(f"{_beginning(plan, load)}-"):
            plan = plan.with_load(_planned(load))
        elif load.state is not LoadState.PLANNED:
            raise BadInput(
                say("Load {number} is {state}; it stays as it is.",
                    number=number, state=load.state.words)
            )  # fmt: skip
    return refreshed(plan, queue)


def with_packed(plan: Plan, numbers: Iterable[str], packed: bool = True) -> Plan:
    """A plan with orders that have left the bench, or are back on it.

    Parameters
    ----------
    plan : that has them
    numbers : of the orders
    packed : they have left

    Raises
    ------
    BadInput
        If one is not printed.
    """
    chosen = set(numbers)
    for number in sorted(chosen):
        order = plan.order(number)
        if packed and order.state not in _TO_PACK:
            raise BadInput(
                say("Order {number} is {state}; pack what is printed.",
                    number=number, state=order.state.words)
            )  # fmt: skip
    orders = tuple(
        order.model_copy(update={"packed": packed}) if order.number in chosen else order
        for order in plan.orders
    )
    return with_states(plan.model_copy(update={"orders": orders}))
