"""How work is asked of the process that works apart."""

from __future__ import annotations

import atexit
import os
import subprocess
import sys
from collections.abc import Callable
from contextlib import suppress
from itertools import count
from queue import Empty, SimpleQueue
from socket import socketpair
from threading import Lock, Thread
from typing import Any, TypeVar

from farbe.apart.messages import Answer, Became, Leave, Request
from farbe.apart.wire import Line
from farbe.layout.figures import manner
from farbe.render.raster import Cancelled, Report
from farbe.said import VARIABLE, language

Made = TypeVar("Made")
#: Seconds between two looks at whether a result is still wanted.
LOOK = 0.02
#: For who mends it.
ENDED = "the process that works apart ended"


class Fault(Exception):
    """Work met an error that nobody foresaw, or its process ended."""


class _Process:
    """One process, and who waits for answers of it."""

    def __init__(self) -> None:
        here, there = socketpair()
        with there:
            self._process = subprocess.Popen(
                [sys.executable, "-m", "farbe.apart.process", str(there.fileno())],
                stdin=subprocess.DEVNULL, pass_fds=[there.fileno()],
                env=os.environ | {VARIABLE: language()},
            )  # fmt: skip
        self.language, self.pid = language(), self._process.pid
        self.line = Line(here)
        self.waiting: dict[int, SimpleQueue[Answer]] = {}
        self.ended = False
        Thread(target=self._listen, name="farbe-apart", daemon=True).start()

    def _listen(self) -> None:
        try:
            while not self.ended:
                answer = self.line.receive()
                waiting = self.waiting.get(answer.number)
                if waiting is not None:
                    waiting.put(answer)
        except (EOFError, OSError):
            # It ended, by itself or by others.
            pass
        finally:
            # Who waits looks for it now and then.
            self.ended = True

    def end(self) -> None:
        """It has nothing to clear up."""
        self.ended = True
        self._process.kill()
        self._process.wait()


class Apart:
    """Asks one process, which is started when it is first needed, and again if it ended."""

    def __init__(self) -> None:
        self._process: _Process | None = None
        self._lock = Lock()
        self._numbers = count(1)

    @property
    def pid(self) -> int:
        """The number of the process, which is started if need be."""
        return self._running().pid

    def warm_up(self) -> None:
        """Have the process ready by the time it is asked."""
        self._running()

    def _running(self) -> _Process:
        with self._lock:
            now = self._process
            if now is None or now.ended or now.language != language():
                if now is not None:
                    now.end()
                now = self._process = _Process()
            return now

    def ask(
        self,
        work: Callable[..., Made],
        *args: Any,
        report: Report,
        at_once: bool = False,
        ahead: Callable[[Any], object] | None = None,
        **named: Any,
    ) -> Made:
        """Have a function called apart, and wait for what comes of it.

        Parameters
        ----------
        work : a function of a module that is told how to ``report``
        *args, **named : what it is called with
        report : is told once it was asked, and how far it is; what it raises ends the work
        at_once : it goes before other work
        ahead : is told of parts of the result that come before it

        Returns
        -------
        What the function gives back; pixels and values that are sent again are the very same.

        Raises
        ------
        BadInput, Cancelled
            If the function or ``report`` does.
        Fault
            If it meets an error that nobody foresaw, or its process ends.
        """
        process, number = self._running(), next(self._numbers)
        answers = process.waiting[number] = SimpleQueue[Answer]()
        try:
            process.line.send(Request(number, work, args, named, manner(), at_once))
            report(0.0)
            made: Made = _awaited(process, answers, report, ahead)
            return made
        except Cancelled as error:
            with suppress(OSError):
                process.line.send(Leave(number, type(error)))
            raise
        except OSError:
            raise Fault(ENDED) from None
        finally:
            del process.waiting[number]

    def end(self) -> None:
        """End the process."""
        with self._lock:
            if self._process is not None:
                self._process.end()
            self._process = None


def _awaited(
    process: _Process,
    answers: SimpleQueue[Answer],
    report: Report,
    ahead: Callable[[Any], object] | None,
) -> Any:
    done = 0.0
    while True:
        try:
            answer = answers.get(timeout=LOOK)
        except Empty:
            if process.ended:
                raise Fault(ENDED) from None
            report(done)
            continue
        match answer.became:
            case Became.DONE:
                return answer.told
            case Became.MOVED:
                done = answer.told
                report(done)
            case Became.AHEAD:
                report(done)
                if ahead is not None:
                    ahead(answer.told)
            case Became.REFUSED:
                raise answer.told
            case Became.BROKE:
                raise Fault(answer.told.report)


APART = Apart()
atexit.register(APART.end)
ask = APART.ask
