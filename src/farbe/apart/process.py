"""The process that works apart: it does what it is asked over a socket, all at a time.

A request is its number, a function, and what that is called with; an answer is the number, and
what became of it. The function is told how to report. A request without a function says that
nobody waits for the one of that number any more.
"""

from __future__ import annotations

import gc
import os
import signal
import sys
import threading
import time
from contextlib import suppress
from functools import partial
from importlib import import_module
from socket import socket
from typing import Any

from farbe import sidebyside
from farbe.apart.ahead import SENDS
from farbe.apart.leisure import LEISURE, Foresight
from farbe.apart.messages import Answer, Became, Leave, Request
from farbe.apart.wire import Line
from farbe.art.limited import HELPERS
from farbe.layout.figures import tell_in
from farbe.memory import keep_freed
from farbe.mishap import guarded
from farbe.model.base import BadInput
from farbe.render.raster import Cancelled
from farbe.said import say

#: What is mostly asked for; it is loaded before anybody asks.
MOSTLY = ("farbe.follows.preview", "farbe.follows.pictures", "farbe.follows.findings")
#: By how much work stands back where processors are few: what somebody looks at; all else, which
#: would hold up the window even where it has Python to itself; and what nobody asked for.
AT_ONCE, BEHIND, LAST = 5, 10, 19
#: Share that work has moved on, and seconds since, before that is told.
STEP, OFTEN = 0.01, 0.03


class _Doing:
    """All that is being done."""

    def __init__(self, line: Line) -> None:
        self._line = line
        #: Why requests are to end, by their numbers.
        self._left: dict[int, type[Cancelled]] = {}
        self._begun: set[int] = set()
        #: The last request that goes before other work: what nobody asked for ends then.
        self._at_once = 0

    def leave(self, leave: Leave) -> None:
        if leave.number in self._begun:
            self._left[leave.number] = leave.error

    def begin(self, request: Request) -> None:
        self._begun.add(request.number)
        if request.at_once:
            self._at_once = request.number
        threading.Thread(target=self._do, args=(request,), daemon=True).start()

    def _do(self, request: Request) -> None:
        leisure = list[Foresight]()
        LEISURE.set(leisure)
        self._do_asked(request)
        for foresight in leisure:
            self._foresee(request, foresight)

    def _foresee(self, request: Request, foresight: Foresight) -> None:
        """Do what nobody asked for, as long as nobody asks for what goes first."""

        def go_on(_: float) -> None:
            if self._at_once > request.number:
                raise Cancelled

        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), LAST)
        with suppress(BadInput, Cancelled):
            go_on(0.0)
            # A fault is kept in the log; who asks for the same is told of it.
            guarded(_words(request), partial(foresight, go_on), let=(BadInput, Cancelled))

    def _do_asked(self, request: Request) -> None:
        try:
            answer = self._answer(request)
            # What cannot be sent is a fault, too.
            sent = guarded(_words(request), lambda: self._line.send(answer), let=(OSError,))
            if sent.mishap is not None:
                self._line.send(Answer(request.number, Became.BROKE, sent.mishap))
        except OSError:
            # Nobody is left.
            return
        finally:
            self._begun.discard(request.number)
            self._left.pop(request.number, None)

    def _answer(self, request: Request) -> Answer:
        number = request.number
        try:
            done = guarded(_words(request), lambda: self._made(request), let=(BadInput, Cancelled))
        except (BadInput, Cancelled) as error:
            return Answer(number, Became.REFUSED, error)
        if done.mishap is not None:
            return Answer(number, Became.BROKE, done.mishap)
        return Answer(number, Became.DONE, done.made)

    def _made(self, request: Request) -> Any:
        told, when = 0.0, 0.0

        def report(done: float) -> None:
            nonlocal told, when
            error = self._left.get(request.number)
            if error is not None:
                raise error
            now = time.monotonic()
            if (done - told > STEP or done >= 1.0) and now - when > OFTEN:
                told, when = done, now
                self._line.send(Answer(request.number, Became.MOVED, done))

        def send(part: object) -> None:
            answer = Answer(request.number, Became.AHEAD, part)
            threading.Thread(target=self._send_if_open, args=(answer,), daemon=True).start()

        SENDS.set(send)
        report(0.0)
        # On Linux this is of one thread, and of those that it begins.
        os.setpriority(
            os.PRIO_PROCESS, threading.get_native_id(), AT_ONCE if request.at_once else BEHIND
        )
        with sidebyside.task():
            return request.work(*request.args, **request.named, report=report)

    def _send_if_open(self, answer: Answer) -> None:
        with suppress(OSError):
            self._line.send(answer)


def _words(request: Request) -> str:
    return say("Work ({key})", key=getattr(request.work, "__name__", ""))


def main(handle: int) -> None:
    """Do what is asked until nobody asks any more.

    Parameters
    ----------
    handle : of the socket
    """
    # Ctrl+C in a terminal is for who asks.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    keep_freed()
    line = Line(socket(fileno=handle))
    doing = _Doing(line)
    HELPERS.warm_up()
    for module in MOSTLY:
        import_module(module)
    gc.freeze()
    while True:
        try:
            asked = line.receive()
        except (EOFError, OSError):
            # Nobody is left to take an answer.
            os._exit(0)
        if isinstance(asked, Leave):
            doing.leave(asked)
        else:
            tell_in(asked.manner)
            doing.begin(asked)


if __name__ == "__main__":
    main(int(sys.argv[1]))
