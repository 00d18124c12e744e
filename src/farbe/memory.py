"""How this process holds on to memory."""

from __future__ import annotations

import atexit
import ctypes
import gc

#: Parameters of the C library's mallopt(3).
_TRIM_THRESHOLD, _MMAP_THRESHOLD = -1, -3
#: Bytes: freed memory up to so much is kept, and blocks up to so much come out of it.
KEPT, BLOCK = 64 << 20, 32 << 20
#: After how many looks at what has lasted a while all is looked through; usually ten.
HARDLY_EVER = 1000


def keep_freed() -> None:
    """Keep freed memory for the next picture instead of giving it back to the system.

    Work on strips asks for and frees megabytes thousands of times; each time the system would take
    the pages away and hand them out anew, cleared, which takes a third of the time of writing a
    large file. A C library without this knob is left as it is.
    """
    library = ctypes.CDLL(None)
    if hasattr(library, "mallopt"):
        library.mallopt(_TRIM_THRESHOLD, KEPT)
        library.mallopt(_MMAP_THRESHOLD, BLOCK)


def leave_standing() -> None:
    """Have Python leave alone what there is now when it looks for what can go, and look seldom.

    To look through all that stands takes longer than a window may wait. What was made since and
    has lasted is looked through by :func:`let_go` alone.
    """
    gc.freeze()
    gc.set_threshold(*gc.get_threshold()[:2], HARDLY_EVER)


def end_at_once() -> None:
    """Have Python end without looking through all that stands for what could go.

    It all goes with the process; to look takes longer than a short command.
    """
    atexit.register(gc.freeze)


def let_go() -> None:
    """Look through all that was made since, and let go of what nothing leads to any more."""
    gc.collect()
