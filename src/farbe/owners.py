"""Who works on an entry: a lock that dies with its process.

A process number may be another's after a reboot; a lock of the system is never.
"""

from __future__ import annotations

import fcntl
import os
from pathlib import Path

from farbe.atomic import make_folder, writing_failed


class Owner:
    """A lock on a file, held until it is let go or the process ends, however it ends."""

    def __init__(self, handle: int) -> None:
        self._handle: int | None = handle

    def let_go(self) -> None:
        """Own it no longer."""
        if self._handle is not None:
            os.close(self._handle)
            self._handle = None


def owner_of(path: Path) -> Owner | None:
    """The lock of a file, or None if somebody has it, in this process or another.

    Parameters
    ----------
    path : of the lock's file, which is made

    Raises
    ------
    BadInput
        If it cannot be made.
    """
    make_folder(path.parent)
    try:
        handle = os.open(path, os.O_CREAT | os.O_RDWR | os.O_CLOEXEC, 0o600)
    except OSError as error:
        raise writing_failed(path, error) from error
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        os.close(handle)
        return None
    return Owner(handle)
