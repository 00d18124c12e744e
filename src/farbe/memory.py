"""How this process holds on to memory."""

from __future__ import annotations

import ctypes

#: Parameters of the C library's mallopt(3).
_TRIM_THRESHOLD, _MMAP_THRESHOLD = -1, -3
#: Bytes: freed memory up to so much is kept, and blocks up to so much come out of it.
KEPT, BLOCK = 64 << 20, 32 << 20


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
