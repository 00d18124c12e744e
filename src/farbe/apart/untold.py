"""Work that does not tell how far it is."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from farbe.render.raster import Report

Made = TypeVar("Made")


def untold(work: Callable[..., Made], *args: Any, report: Report) -> Made:
    """Call a function that knows no report, unless nobody waits for it any more.

    Parameters
    ----------
    work : a function of a module
    *args : what it is called with
    report : is told that it begins

    Raises
    ------
    BadInput, Cancelled
        If the function or ``report`` does.
    """
    report(0.0)
    return work(*args)
