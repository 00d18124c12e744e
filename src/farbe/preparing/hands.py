"""Who does parts: processes here, or those of a Dask cluster; and their results in order."""

from __future__ import annotations

import multiprocessing
import time
from collections import deque
from collections.abc import Callable, Generator, Iterable
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from typing import Any, Protocol

from farbe.files.store import ArtStore
from farbe.model.base import BadInput
from farbe.preparing.tasks import Lacks, Task, do_task
from farbe.said import say

#: Seconds between looks at whether the result is still wanted, and after which a part that is
#: awaited is done here as well.
LOOK, SLOW = 0.5, 60.0
#: How often a part is given out before it is done here.
TRIES = 4


class Lost(Exception):
    """Whoever had a part is gone; it may be given out again."""


class Pending(Protocol):
    """A part that was given out."""

    def result(self, seconds: float) -> Any:
        """What came of it.

        Parameters
        ----------
        seconds : to wait

        Raises
        ------
        TimeoutError
            If it is not done by then.
        Lost
            If whoever had it is gone.
        """

    def drop(self) -> None:
        """It is wanted no more."""


class Hands(Protocol):
    """Workers, however many there are by now."""

    @property
    def ahead(self) -> int:
        """How many parts are given out at once."""

    def give(self, task: Task) -> Pending:
        """Give a part out.

        Parameters
        ----------
        task : says what
        """

    def bring(self, pending: Pending, lacks: Lacks) -> None:
        """Send what a worker lacks.

        Parameters
        ----------
        pending : the part that it could not do
        lacks : what it said
        """

    def close(self) -> None:
        """Need them no more."""


def in_order(
    hands: Hands,
    tasks: Iterable[Task],
    store: ArtStore,
    still_wanted: Callable[[], None],
    done_here: Callable[[], None] = lambda: None,
    *,
    ahead: int = 0,
) -> Generator[Any]:
    """Have parts done, so many at once that all workers are busy and little waits to be taken.

    Whatever becomes of the workers, each part is done, if need be here; it is the same then.

    Parameters
    ----------
    hands : that do them
    tasks : in the order in which their results are wanted
    store : that holds the files that they name
    still_wanted : asked while waiting; raises to end it
    done_here : told of each part that no worker did
    ahead : parts that are given out at once; 0 is as many as keep all workers busy

    Yields
    ------
    The results in the order of the tasks.
    """
    todo, waiting = iter(tasks), deque[tuple[Task, Pending]]()
    try:
        while True:
            while len(waiting) < (ahead or hands.ahead) and (task := next(todo, None)) is not None:
                waiting.append((task, hands.give(task)))
            if not waiting:
                return
            task, pending = waiting.popleft()
            found = _result(hands, task, pending, still_wanted)
            if found is None:
                done_here()
                found = do_task(task, str(store.folder))
            yield found
    finally:
        for _, pending in waiting:
            pending.drop()


def _result(hands: Hands, task: Task, pending: Pending, still_wanted: Callable[[], None]) -> Any:
    """What a worker made of a part; None if none of them did it, or not for long."""
    given, since = 1, time.monotonic()
    while given <= TRIES and time.monotonic() - since < SLOW:
        still_wanted()
        try:
            found = pending.result(LOOK)
        except TimeoutError:
            continue
        except Lost:
            found = Lacks()
        if not isinstance(found, Lacks):
            return found
        if found.differs:
            raise BadInput(
                say("A worker has another Farbe, or other packages ({theirs}); start all of them "
                    "with the same.", theirs=found.differs)
            )  # fmt: skip
        if found.files:
            hands.bring(pending, found)
        pending, given, since = hands.give(task), given + 1, time.monotonic()
    pending.drop()
    return None


class Processes:
    """As many processes of this machine as are wanted; they share the store.

    Parameters
    ----------
    count : of processes
    store : that holds the files
    """

    def __init__(self, count: int, store: ArtStore) -> None:
        self._count, self._folder = count, str(store.folder)
        self._pool = self._made()

    def _made(self) -> ProcessPoolExecutor:
        # Forked processes would inherit locks that other threads hold.
        return ProcessPoolExecutor(self._count, multiprocessing.get_context("spawn"))

    @property
    def ahead(self) -> int:
        return self._count + 2

    def give(self, task: Task) -> Pending:
        try:
            return _InProcess(self._pool.submit(do_task, task, self._folder))
        except BrokenProcessPool:
            self._pool.shutdown(wait=False)
            self._pool = self._made()
            return _InProcess(self._pool.submit(do_task, task, self._folder))

    def bring(self, pending: Pending, lacks: Lacks) -> None:
        """Nothing: what is not in the store that they share is nowhere."""

    def close(self) -> None:
        self._pool.shutdown(wait=False, cancel_futures=True)


class _InProcess:
    def __init__(self, future: Future[Any]) -> None:
        self._future = future

    def result(self, seconds: float) -> Any:
        try:
            return self._future.result(seconds)
        except BrokenProcessPool as error:
            raise Lost from error

    def drop(self) -> None:
        self._future.cancel()
