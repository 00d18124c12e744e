"""Folders for a moment that kills left in the system's temporary folder."""

from __future__ import annotations

import os
import shutil
import stat
import tempfile
import time
from pathlib import Path

#: How such folders begin, and after how many seconds nobody can be at work in one.
PREFIX, LONG_AGO = "farbe-", 2 * 86_400.0


def clear_left_over() -> int:
    """Remove what is ours and old; how many folders went.

    What is touched now and then, as the folder of the presses' sockets, stays.
    """
    removed, limit = 0, time.time() - LONG_AGO
    for path in Path(tempfile.gettempdir()).glob(f"{PREFIX}*"):
        try:
            found = path.lstat()
        except OSError:
            # Somebody else was quicker.
            continue
        ours = stat.S_ISDIR(found.st_mode) and found.st_uid == os.getuid()
        if ours and found.st_mtime < limit and path.name != f"{PREFIX}{os.getuid()}":
            shutil.rmtree(path, ignore_errors=True)
            removed += 1
    return removed
