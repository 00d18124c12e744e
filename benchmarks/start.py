"""From the start of the program to a start page that can be used, and to all of the window.

``start.py`` starts it some times, the first not counted, and tells the medians.
"""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time

TIMES = 7
_CODE = """
import sys, time
from farbe.cli import app as command
from farbe.desk import app
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
began = float(sys.argv[1])

def soon(window, then):
    QApplication.processEvents()
    slow = sorted({"numpy", "cv2", "shapely"} & set(sys.modules))
    print(time.time() - began, flush=True)
    assert not slow, slow
    first(window, lambda w: (print(time.time() - began, flush=True), QApplication.exit(0)))

first, app.furnish_soon = app.furnish_soon, soon
app.run_desk()
"""


def once() -> tuple[float, float]:
    """Seconds until the start page is drawn, and until the window is whole."""
    with tempfile.TemporaryDirectory() as folder:
        own = {f"FARBE_{name}": f"{folder}/{name}" for name in ("CONFIG", "DATA", "STATE", "CACHE")}
        found = subprocess.run(
            [sys.executable, "-c", _CODE, str(time.time())], capture_output=True, text=True,
            check=True, env=os.environ | own | {"QT_QPA_PLATFORM": "offscreen"},
        )  # fmt: skip
    page, whole = map(float, found.stdout.split())
    return page, whole


def main() -> None:
    once()
    pages, wholes = zip(*(once() for _ in range(TIMES)), strict=True)
    for words, times in (("start page", pages), ("whole window", wholes)):
        print(f"{words:14} {statistics.median(times):.2f} s"
              f"  ({min(times):.2f} to {max(times):.2f})")  # fmt: skip


if __name__ == "__main__":
    main()
