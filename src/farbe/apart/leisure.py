"""What is made once an answer is there, so that the next one comes sooner."""

from __future__ import annotations

from collections.abc import Callable
from contextvars import ContextVar

from farbe.render.raster import Report

#: What the next answer will mostly want.
Foresight = Callable[[Report], object]
#: What this thread is to do once it has answered, where that is asked of it from elsewhere.
LEISURE: ContextVar[list[Foresight] | None] = ContextVar("leisure", default=None)


def at_leisure(work: Foresight) -> None:
    """Have something done after the answer that this thread works on, if nobody asks meanwhile.

    Nothing happens where nobody waits in another process.

    Parameters
    ----------
    work : is told how to report, which ends it as soon as something is asked for that goes first
    """
    leisure = LEISURE.get()
    if leisure is not None:
        leisure.append(work)
