"""The file of the open job: who else has it open, and whether it was changed elsewhere."""

from __future__ import annotations

from pathlib import Path

from farbe.folders import lock_file
from farbe.owners import Owner, owner_of

Stamp = tuple[int, int, int]


def stamp_of(path: Path) -> Stamp | None:
    """What tells a file from what it was: its number, size and time; None if it is not there.

    Parameters
    ----------
    path : of the file
    """
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_ino, found.st_size, found.st_mtime_ns


class OpenFile:
    """The file that a window's job was opened from or saved to."""

    def __init__(self) -> None:
        self.path: Path | None = None
        self._stamp: Stamp | None = None
        self._owner: Owner | None = None

    def take(self, path: Path | None) -> bool:
        """It is this file now, as it is; whether no other window has it.

        Parameters
        ----------
        path : of the job; None if it has no file
        """
        if path is not None and path == self.path and self._owner is not None:
            self._stamp = stamp_of(path)
            return True
        self.let_go()
        self.path = path
        if path is None:
            return True
        self._stamp = stamp_of(path)
        self._owner = owner_of(lock_file("open", path))
        return self._owner is not None

    def changed_elsewhere(self, path: Path) -> bool:
        """Whether saving there would overwrite what somebody else wrote since.

        Parameters
        ----------
        path : where the job is to be saved
        """
        now = stamp_of(path)
        return path == self.path and now is not None and now != self._stamp

    def let_go(self) -> None:
        """No job has it open here."""
        if self._owner is not None:
            self._owner.let_go()
        self.path, self._stamp, self._owner = None, None, None
