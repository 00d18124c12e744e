"""A printer's lane: what is to be printed there, one after the other."""

from __future__ import annotations

from collections.abc import Callable

from farbe.atomic import CannotWrite
from farbe.estimate.steps import Step
from farbe.files.store import ArtStore
from farbe.folders import press_folder
from farbe.model.base import BadInput
from farbe.press.client import PressLine, press_of
from farbe.queue.store import Queue, State
from farbe.queue.work import Write, carry_out
from farbe.render.raster import Report, unwatched


def line_to(printer: str, *, pace: float = 0.0) -> PressLine:
    """A connection to the test press that stands for a printer; it is started if it is off.

    Parameters
    ----------
    printer : its name
    pace : share of real time that printing takes, if it is started; 0 is at once
    """
    return press_of(press_folder(printer), pace=pace)


def work_off(
    queue: Queue,
    lane: str,
    line: Callable[[str], PressLine],
    store: ArtStore,
    *,
    by_itself: Callable[[], bool] = lambda: False,
    report: Report = unwatched,
    began: Callable[[int], None] = lambda _: None,
    step_done: Callable[[int, int, Step], None] = lambda *_: None,
    failed: Callable[[str], None] = lambda _: None,
    write: Write | None = None,
) -> bool:
    """Print what is asked for on a printer, and what starts by itself, until there is no more.

    One that stops does not keep those from printing that somebody asked for.

    Parameters
    ----------
    queue : the shop's jobs
    lane : the printer
    line : a connection to the press of a printer
    store : where the files are that jobs name
    by_itself : whether what nobody asked for starts, too; asked again before each
    report : told the share of an entry that is done, 0 to 1
    began : told the number of each entry that begins
    step_done : told the number of an entry, the place of a step, and the step, as each is done
    failed : told why one stopped
    write : writes hand-offs; None is :func:`prepare`

    Returns
    -------
    Whether the next one waits for room on a disk, or for a folder; ask again in a while.

    Raises
    ------
    Cancelled
        If ``report`` does; the entry that printed has stopped.
    """
    while (entry := queue.next_for(lane, by_itself=by_itself())) is not None:
        number = entry.number
        began(number)
        try:
            carry_out(
                queue, number, line, store, report=report,
                step_done=lambda index, step, n=number: step_done(n, index, step),  # type: ignore[misc]
                write=write,
            )  # fmt: skip
        except CannotWrite as error:
            failed(str(error))
            return True
        except BadInput as error:
            failed(str(error))
            if queue.entry(number).state is State.WAITING:
                # It was never claimed; it would be the next again and again.
                return False
    return False
