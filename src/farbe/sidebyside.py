"""Work on many parts, side by side in threads, taken in order."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Generator, Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager, nullcontext
from threading import Lock
from typing import TypeVar

import cv2

#: Threads that share the processor.
WORKERS = 2
Part = TypeVar("Part")
Result = TypeVar("Result")
_LOCK = Lock()
_pools = 0
_threads = 0
_tasks = 0


@contextmanager
def task() -> Iterator[None]:
    """One of several things that are worked on at a time, as in a window.

    While there are more than one, each works on one part after the other: more threads than
    processors would not end sooner, and hold up whoever draws meanwhile.
    """
    global _tasks
    with _LOCK:
        _tasks += 1
    try:
        yield
    finally:
        with _LOCK:
            _tasks -= 1


def in_order(
    work: Callable[[Part], Result], parts: Iterable[Part], *, threads: int = WORKERS, ahead: int = 0
) -> Generator[Result]:
    """Do ``work`` on every part in threads.

    Parameters
    ----------
    work : called from any thread
    parts : taken one by one as they are needed
    threads : 1 works in the caller's own
    ahead : parts in work or done that were not taken yet, at most; 0 is two more than threads

    Yields
    ------
    The results in the order of the parts. Who stops taking them waits for the parts in work.
    """
    if threads <= 1:
        yield from map(work, parts)
        return
    alone = Lock()

    def one(part: Part) -> Result:
        with alone if _tasks > 1 else nullcontext():
            return work(part)

    with _opencv_alone(), ThreadPoolExecutor(threads) as pool:
        waiting: deque[Future[Result]] = deque()
        try:
            for part in parts:
                waiting.append(pool.submit(one, part))
                if len(waiting) >= (ahead or threads + 2):
                    yield waiting.popleft().result()
            while waiting:
                yield waiting.popleft().result()
        finally:
            for future in waiting:
                future.cancel()


@contextmanager
def _opencv_alone() -> Iterator[None]:
    """OpenCV in one thread for each that calls it; more would only wait for each other."""
    global _pools, _threads
    with _LOCK:
        if _pools == 0:
            _threads = cv2.getNumThreads()
            cv2.setNumThreads(1)
        _pools += 1
    try:
        yield
    finally:
        with _LOCK:
            _pools -= 1
            if _pools == 0:
                cv2.setNumThreads(_threads)
