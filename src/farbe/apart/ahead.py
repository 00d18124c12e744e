"""Parts of a result that are on their way to who asked while the rest is made."""

from __future__ import annotations

from collections.abc import Callable
from contextvars import ContextVar

#: What sends parts of the result that this thread works on, where that is worked out apart.
SENDS: ContextVar[Callable[[object], None] | None] = ContextVar("sends", default=None)


def ahead(part: object) -> None:
    """Have a part of a result sent; who asked gets all of it with the result, which waits less.

    Nothing happens where nobody waits in another process.

    Parameters
    ----------
    part : such as pixels, which are not sent again
    """
    send = SENDS.get()
    if send is not None:
        send(part)
