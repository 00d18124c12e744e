"""What may not be printed: stops, wherever a job is sent on."""

from __future__ import annotations

from farbe.checks.check import Check, Facts
from farbe.checks.rules import run_checks
from farbe.checks.weight import Weight
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.render.raster import Report, unwatched
from farbe.render.sources import Sources
from farbe.said import say


class Stopped(BadInput):
    """A check stops a job.

    Attributes
    ----------
    stops : all that stop it
    """

    def __init__(self, job: Job, stops: tuple[Check, ...]) -> None:
        more = say(" And {stops} more.", stops=len(stops) - 1) if len(stops) > 1 else ""
        super().__init__(
            say("{job} is stopped: {stops}{more}", job=job.name, stops=stops[0].text, more=more)
        )
        self.stops = stops


def stops(job: Job, sources: Sources, report: Report = unwatched) -> tuple[Check, ...]:
    """All that stops a job, looked at in the resolution that prints.

    Parameters
    ----------
    job : the order as a whole
    sources : pixels, fonts and profile
    report : told the share that is done, 0 to 1
    """
    found = run_checks(Facts(Faced(job), sources, report=report))
    return tuple(check for check in found if check.weight is Weight.STOP)


def refuse_stopped(job: Job, sources: Sources, report: Report = unwatched) -> None:
    """Raise :class:`Stopped` if a check stops a job.

    Parameters
    ----------
    job : the order as a whole
    sources : pixels, fonts and profile
    report : told the share that is done, 0 to 1

    Raises
    ------
    Stopped
        If a check stops it.
    Cancelled
        If ``report`` does.
    """
    found = stops(job, sources, report)
    if found:
        raise Stopped(job, found)
