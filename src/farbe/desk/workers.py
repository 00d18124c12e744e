"""Long work off the window's thread: newest wins or all in turn, progress, cancel."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from itertools import count
from threading import Event
from typing import Any

from PySide6.QtCore import QCoreApplication, QEvent, QObject, Qt, QTimer, Signal

from farbe.desk.turns import TURN_MS
from farbe.mishap import mishap_of
from farbe.model.base import BadInput
from farbe.render.raster import Cancelled, Left, Report
from farbe.said import say

#: Things outside that are waited for at once.
MOST_WAITING = 24
#: Posted to tell that the window has drawn, behind what Qt posts to have it drawn.
_DRAWN = QEvent.Type(QEvent.registerEventType())
AFTER_DRAWING = Qt.EventPriority.LowEventPriority.value - 1
#: Turns in which the window draws: in the one after it was asked, and lists lay themselves out by
#: timers and are drawn after that.
TURNS = 3
#: By how much work stands back behind the window's thread; little, since other programs that go
#: before work would hold up the window, too, whenever it waits for its turn at Python.
BEHIND = 2


@dataclass(eq=False)
class Task:
    """One piece of work.

    A newer one of the same ``key`` replaces it, unless all are ``kept``; ``lasting`` work goes on
    until it is cancelled, and nobody waits for it.
    """

    key: str
    title: str
    shown: bool
    kept: bool = False
    lasting: bool = False
    cancelled: Event = field(default_factory=Event)
    #: It is under way: whoever does it was asked.
    begun: Event = field(default_factory=Event)
    #: Its result is there, or what it failed of.
    made: Event = field(default_factory=Event)
    done: float = 0.0
    #: By the clock that only goes on.
    began: float = field(default_factory=time.monotonic)


def _stand_back() -> None:
    """Let the window's thread go first where processors are few; threads begun here do as well."""
    # On Linux this is of one thread, not of the process.
    os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), BEHIND)


class Workers(QObject):
    """Runs tasks in threads and hands their results back on the window's thread.

    A result is applied only if its task is still the newest of its key and not cancelled.

    Parameters
    ----------
    parent : that they belong to
    paints : whether the window is about to paint
    """

    #: A task that the user should see began, moved on, or ended.
    moved = Signal(object)
    ended = Signal(object)
    #: Bad input that a task met, as one sentence.
    failed = Signal(str)
    #: An error that nobody foresaw, as a mishap.
    broke = Signal(object)
    _returned = Signal(object, object)

    def __init__(
        self, parent: QObject | None = None, *, paints: Callable[[], bool] = lambda: False
    ) -> None:
        super().__init__(parent)
        #: Whether the window is about to paint.
        self.paints = paints
        self._pool = ThreadPoolExecutor(2, thread_name_prefix="farbe", initializer=_stand_back)
        # What is seen at once waits for nothing else.
        self._prompt = ThreadPoolExecutor(
            2, thread_name_prefix="farbe-prompt", initializer=_stand_back
        )
        # What must all be done, in its order; and what mostly waits for something outside.
        self._line = ThreadPoolExecutor(1, thread_name_prefix="farbe-line", initializer=_stand_back)
        self._waiting = ThreadPoolExecutor(MOST_WAITING, thread_name_prefix="farbe-waits")
        self._turns = 0
        self._next_turn = QTimer(self, singleShot=True, interval=TURN_MS)
        self._next_turn.timeout.connect(self._ask_when_drawn)
        self._count = count()
        self._closing = False
        self._newest: dict[str, Task] = {}
        self._once_drawn: dict[str, Callable[[], object]] = {}
        self._at_rest: dict[str, Callable[[], object]] = {}
        self._next: dict[str, tuple[Callable[[Report], Any], Callable[[Any], object]]] = {}
        self._then: dict[Task, Callable[[Any], object]] = {}
        # Queued always: work that ends before it is waited for hands back its result here, too, and
        # would be shown before everyone knows the job that it belongs to.
        self._returned.connect(self._take, Qt.ConnectionType.QueuedConnection)
        self._held: list[tuple[Task, Future[Any]]] = []

    def start(
        self,
        key: str,
        work: Callable[[Report], Any],
        then: Callable[[Any], object],
        *,
        title: str = "",
        waits: bool = False,
        lasting: bool = False,
    ) -> Task:
        """Do work in a thread, in place of older work of the same key.

        Parameters
        ----------
        key : of the work
        work : is told how to report
        then : is called with its result, on the window's thread
        title : shows the task with its progress and a way to cancel it
        waits : it mostly waits for something outside, and keeps no processor busy
        lasting : it goes on until it is cancelled
        """
        self.cancel(key)
        task = Task(key, title, bool(title), lasting=lasting)
        return self._begin(task, self._waiting if waits or lasting else self._pool, work, then)

    def in_step(
        self,
        key: str,
        work: Callable[[Report], Any],
        then: Callable[[Any], object],
        *,
        at_rest: Callable[[], object],
    ) -> None:
        """Do work in a thread, the newest that was asked for once what goes on has ended.

        What goes on is not given up, so that something is shown however fast more is asked for,
        as while a slider is dragged.

        Parameters
        ----------
        key : of the work
        work : is told how to report
        then : is called with its result, on the window's thread
        at_rest : is called once nothing more is asked for, before the last result is shown and
            whatever came of it; not if it was cancelled
        """
        self._at_rest[key] = at_rest
        if key in self._newest:
            self._next[key] = work, then
        else:
            self._begin(Task(key, "", shown=False), self._prompt, work, then)

    def in_turn(
        self,
        key: str,
        work: Callable[[Report], Any],
        then: Callable[[Any], object],
        *,
        title: str = "",
    ) -> Task:
        """Do work after all that was given here before; none of it is dropped.

        What waits when the window closes is still done.

        Parameters
        ----------
        key : of the work
        work : is told how to report
        then : is called with its result, on the window's thread
        title : shows the task with its progress and a way to cancel it
        """
        task = Task(f"{key} {next(self._count)}", title, bool(title), kept=True)
        return self._begin(task, self._line, work, then)

    def _begin(
        self,
        task: Task,
        pool: ThreadPoolExecutor,
        work: Callable[[Report], Any],
        then: Callable[[Any], object],
    ) -> Task:
        self._newest[task.key] = task
        self._then[task] = then

        def go_on() -> None:
            if task.cancelled.is_set():
                raise Left if self._closing else Cancelled

        def report(done: float) -> None:
            go_on()
            task.begun.set()
            if task.shown and (done - task.done > 0.01 or done >= 1.0):
                task.done = done
                self.moved.emit(task)

        def guarded() -> Any:
            go_on()
            return work(report)

        future = pool.submit(guarded)
        future.add_done_callback(lambda finished: self._emit(task, finished))
        future.add_done_callback(lambda _: task.begun.set())
        future.add_done_callback(lambda _: task.made.set())
        if task.shown:
            self.moved.emit(task)
        return task

    def linger(self, key: str, seconds: float, *, until_asked: bool = False) -> None:
        """Wait a little for work of a key that may be nearly there.

        Alone it is done in a third of the time that it takes beside a window that draws, and what
        asks for it and what comes of it are then drawn together. Where another process is asked,
        the thread that asks would have its turn at Python only once this one waits for something.

        Parameters
        ----------
        key : of the work
        seconds : at the most
        until_asked : no longer than until whoever does it was asked
        """
        task = self._newest.get(key)
        if task is not None:
            (task.begun if until_asked else task.made).wait(seconds)

    def once_drawn(self, key: str, act: Callable[[], object]) -> None:
        """Do something on the window's thread after it has drawn what it has to draw now.

        What is of the same key and was not done yet is not done. What follows from an edit is told
        in a turn of its own, so that the window is not away for both, one thing after the other;
        pictures that come meanwhile go first.

        Parameters
        ----------
        key : of what is done
        act : the little that is done
        """
        begun = bool(self._once_drawn)
        self._once_drawn[key] = act
        if not begun:
            self._turns = TURNS
            self._ask_when_drawn()

    def do_now(self, key: str) -> None:
        """Do what was to be done by :meth:`once_drawn` now, if it was not done yet.

        Parameters
        ----------
        key : of what is done
        """
        act = self._once_drawn.pop(key, None)
        if act is not None:
            act()

    def _ask_when_drawn(self) -> None:
        QCoreApplication.postEvent(self, QEvent(_DRAWN), AFTER_DRAWING)

    def event(self, event: QEvent) -> bool:
        if event.type() == _DRAWN:
            self._turns -= 1
            ready = self._once_drawn and self._turns <= 0 and not self.paints()
            act = self._once_drawn.pop(next(iter(self._once_drawn))) if ready else None
            if self._once_drawn:
                self._next_turn.start()
            if act is not None:
                act()
            return True
        return super().event(event)

    def cancel(self, key: str) -> None:
        """End the work of a key; its result is dropped."""
        self._next.pop(key, None)
        self._at_rest.pop(key, None)
        task = self._newest.pop(key, None)
        if task is not None:
            task.cancelled.set()
            # What shows it need not wait until the work has noticed.
            self.ended.emit(task)

    def busy(self, *keys: str) -> bool:
        """Whether work of these keys, or any that comes to an end, is going on or to be done."""
        if keys:
            return any(key in self._newest or key in self._once_drawn for key in keys)
        going_on = any(not task.lasting for task in self._newest.values())
        return going_on or bool(self._once_drawn)

    def close(self) -> None:
        """Cancel everything but what is done in turn, and wait for the threads."""
        self._closing = True
        self._once_drawn.clear()
        self._next_turn.stop()
        for key, task in list(self._newest.items()):
            if not task.kept:
                self.cancel(key)
        self._returned.disconnect(self._take)
        self._held.clear()
        self._line.shutdown(wait=True)
        for pool in (self._pool, self._prompt, self._waiting):
            pool.shutdown(wait=True, cancel_futures=True)

    def _emit(self, task: Task, future: Future[Any]) -> None:
        if not future.cancelled():
            self._returned.emit(task, future)

    def _take(self, task: Task, future: Future[Any]) -> None:
        # What is about to be painted is painted by itself: the window would be away for both.
        if self._held or self.paints():
            self._held.append((task, future))
        else:
            self._receive(task, future)

    def receive_held(self) -> None:
        """Hand back what came while the window was about to paint, once it has."""
        while self._held and not self.paints():
            self._receive(*self._held.pop(0))

    def _receive(self, task: Task, future: Future[Any]) -> None:
        then = self._then.pop(task)
        newest = self._newest.get(task.key) is task
        if newest:
            del self._newest[task.key]
            self.ended.emit(task)
            self._go_on(task.key)
        error = future.exception()
        if isinstance(error, Cancelled) or not newest or task.cancelled.is_set():
            return
        if isinstance(error, BadInput):
            self.failed.emit(str(error))
        elif error is not None:
            self.broke.emit(mishap_of(task.title or say("Work ({key})", key=task.key), error))
        else:
            then(future.result())

    def _go_on(self, key: str) -> None:
        """Begin what was asked for meanwhile; once nothing was, what waited for that."""
        following, at_rest = self._next.pop(key, None), self._at_rest.get(key)
        if following is not None and at_rest is not None:
            self.in_step(key, *following, at_rest=at_rest)
        elif at_rest is not None:
            del self._at_rest[key]
            at_rest()
