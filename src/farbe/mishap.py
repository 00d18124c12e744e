"""Errors of our own: caught in one place, kept as a report, and told in one sentence."""

from __future__ import annotations

import logging
import platform
import traceback
from collections.abc import Callable
from dataclasses import dataclass
from logging.handlers import RotatingFileHandler
from pathlib import Path
from typing import Generic, TypeVar

from farbe.model.base import BadInput
from farbe.said import say

Made = TypeVar("Made")
log = logging.getLogger("farbe")
# Without it, Python writes to standard error what no one keeps; users get a sentence instead.
log.addHandler(logging.NullHandler())


@dataclass(frozen=True)
class Mishap:
    """An error that nobody foresaw.

    Attributes
    ----------
    while_ : what was being done: "The check of bleeds"
    report : all that whoever mends it needs to know
    """

    while_: str
    report: str

    @property
    def sentence(self) -> str:
        return say(
            "{work} failed through a fault of Farbe; save a report and send it to us.",
            work=self.while_,
        )


def keep_log(path: Path) -> None:
    """Keep what is logged in a file, and the two before it when it is full.

    Where it cannot be written nothing is kept, which is said on standard error.

    Parameters
    ----------
    path : of the log
    """
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        kept = RotatingFileHandler(path, maxBytes=1_000_000, backupCount=2, encoding="utf-8")
    except OSError as error:
        log.warning("nothing is kept in the log %s: %s", path, error.strerror)
        return
    kept.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
    log.addHandler(kept)


def mishap_of(while_: str, error: BaseException) -> Mishap:
    """An error as a mishap; it is written to the log.

    Parameters
    ----------
    while_ : what was being done, in words
    error : that was raised
    """
    told = "".join(traceback.format_exception(error))
    log.error("%s failed\n%s", while_, told)
    system = f"Python {platform.python_version()}, {platform.platform()}"
    return Mishap(while_, f"{while_} failed.\n{system}\n\n{told}")


@dataclass(frozen=True)
class Guarded(Generic[Made]):
    """What came of some work: what it made, or its mishap."""

    made: Made | None
    mishap: Mishap | None = None


def guarded(
    while_: str, work: Callable[[], Made], *, let: tuple[type[Exception], ...] = (BadInput,)
) -> Guarded[Made]:
    """Do some work whose failing must not take the rest along.

    Parameters
    ----------
    while_ : what is being done, as the beginning of a sentence
    let : errors that are meant for the caller and pass through
    work : what is done

    Returns
    -------
    What was made, or the mishap in its place.
    """
    try:
        return Guarded(work())
    except let:
        raise
    # The one place where anything is caught: what nobody foresaw is told and kept.
    except Exception as error:  # noqa: BLE001
        return Guarded(None, mishap_of(while_, error))
