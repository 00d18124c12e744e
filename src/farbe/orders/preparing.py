"""The hand-offs of a plan's loads, made before they are wanted, by as many hands as there are."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from threading import Lock

from farbe.checks.stops import refuse_stopped
from farbe.files.handoff import hand_off
from farbe.files.jobfile import open_job
from farbe.files.store import ArtStore
from farbe.files.ticket import FILE_NAME
from farbe.model.base import BadInput
from farbe.orders.plan import BEGUN, Load, Plan
from farbe.preparing.hands import Hands
from farbe.preparing.job import Preparation, hands_for
from farbe.render.onepass import one_pass
from farbe.render.raster import Report, unwatched
from farbe.said import say
from farbe.sidebyside import in_order

#: Of a plan's folder.
FOLDER = "hand-offs"
#: Loads that are prepared at once by many hands, at the least and at the most.
LEAST_AT_ONCE, MOST_AT_ONCE = 2, 32
#: Share of the progress that looking takes; writing takes the rest.
LOOKING = 0.4


@dataclass(frozen=True)
class Prepared:
    """A load whose hand-off is there, or why it is not.

    Attributes
    ----------
    number : of the load
    folder : of its hand-off
    refused : why it was not written; empty if it was
    here : parts that no worker did, so that they were done by this process
    """

    number: int
    folder: Path
    refused: str = ""
    here: int = 0


def here_words(made: Prepared) -> str:
    """What is told of a load of which parts were done by no worker.

    Parameters
    ----------
    made : that has such parts
    """
    return say("{count} parts of load {number} were done here, as no worker did them.",
               count=made.here, number=made.number)  # fmt: skip


def prepare_loads(
    plan: Plan,
    folder: Path,
    store: ArtStore,
    *,
    scheduler: str = "",
    processes: int | None = None,
    report: Report = unwatched,
) -> Iterator[Prepared]:
    """Write the hand-off of every load that is not begun, unless it is there.

    Parameters
    ----------
    plan : of the folder
    folder : in which they come to lie, under their loads' numbers
    store : into which files go
    scheduler : address of a cluster's; empty stays on this machine
    processes : of this machine; None is one for each processor
    report : told the share that is done, 0 to 1

    Yields
    ------
    Load by load, as they are done; those that checks stop with their reason.

    Raises
    ------
    BadInput
        If the cluster cannot be had.
    Cancelled
        If ``report`` does; those that are done stay.
    """
    todo = [load for load in plan.loads if load.state not in BEGUN]
    shares, lock = [0.0] * len(todo), Lock()

    def told(at: int, done: float) -> None:
        with lock:
            shares[at] = max(shares[at], done)
            report(sum(shares) / len(todo))

    with hands_for(store, scheduler, processes) as hands:

        def one(numbered: tuple[int, Load]) -> Prepared:
            at, load = numbered
            return _prepared(folder, load, store, hands, partial(told, at))

        # What is done here for one load is done while workers have parts of the next.
        threads = 1 if hands is None else _at_once(hands)
        with closing(in_order(one, enumerate(todo), threads=threads, ahead=threads)) as made:
            yield from made


def _at_once(hands: Hands) -> int:
    return max(LEAST_AT_ONCE, min(MOST_AT_ONCE, hands.ahead // 2))


def _prepared(
    folder: Path, load: Load, store: ArtStore, hands: Hands | None, report: Report
) -> Prepared:
    # What is on a load is in the name: another load's hand-off is never taken for its.
    target = folder / FOLDER / f"{Path(load.job).stem}-{load.content[:8]}"
    here: list[None] = []
    if not (target / FILE_NAME).exists():
        try:
            _prepare(folder / load.job, target, store, hands, lambda: here.append(None), report)
        except BadInput as error:
            report(1.0)
            reason = say("Load {number}: {reason}", number=load.number, reason=error)
            return Prepared(load.number, target, reason)
    report(1.0)
    return Prepared(load.number, target, here=len(here))


def _prepare(
    path: Path,
    target: Path,
    store: ArtStore,
    hands: Hands | None,
    done_here: Callable[[], None],
    report: Report,
) -> None:
    job = open_job(path, store)
    if hands is None:
        with one_pass():
            refuse_stopped(job, store, lambda done: report(LOOKING * done))
            hand_off(job, store, target,
                     report=lambda done: report(LOOKING + (1 - LOOKING) * done))  # fmt: skip
        return
    # All loads together keep the hands busy, and no more.
    ahead = max(2, hands.ahead // _at_once(hands))
    with_hands = Preparation(job, store, hands, done_here, ahead)
    with_hands.survey(lambda done: report(LOOKING * done))
    refuse_stopped(job, store, lambda _: report(LOOKING))
    with_hands.hand_off(target, lambda done: report(LOOKING + (1 - LOOKING) * done))
