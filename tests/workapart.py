"""What the process that works apart is asked for by its tests; it imports little."""

from __future__ import annotations

import os
import threading
import time
from pathlib import Path
from typing import Any

import numpy as np

from farbe.apart.ahead import ahead
from farbe.apart.leisure import at_leisure
from farbe.layout.figures import measure
from farbe.model.base import BadInput
from farbe.render.raster import Cancelled, Report


def work(folder: Path, *, report: Report) -> str:
    """Go on until nobody waits, and tell of both."""
    (folder / "begun").touch()
    try:
        for step in range(2000):
            report(step / 2000)
            time.sleep(0.01)
    except Cancelled as error:
        (folder / type(error).__name__).touch()
        raise
    return "all done"


def refuse(word: str, *, report: Report) -> None:
    """Say a length, and no more."""
    raise BadInput(f"{word} of {measure(25.4)}.")


def fail(*, report: Report) -> None:
    """Meet what nobody foresaw."""
    raise OSError("no film")


def unsendable(*, report: Report) -> Any:
    """Give back what cannot be sent."""
    return threading.Lock()


def who(*, report: Report) -> int:
    """The number of the process."""
    return os.getpid()


def in_parts(*, report: Report) -> tuple[Any, ...]:
    """Pixels, some of which are sent before all of them are there."""
    first, last = (np.full((300, 400), level, np.uint8) for level in (1, 2))
    ahead((first,))
    return first, last


def with_leisure(folder: Path, *, report: Report) -> str:
    """Fail after the answer, go on until somebody asks, and do what is left."""
    at_leisure(lambda _: fail(report=report))
    at_leisure(lambda go_on: work(folder, report=go_on))
    at_leisure(lambda _: (folder / "the rest").touch())
    return "all done"
