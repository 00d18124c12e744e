"""What is found about a job: its checks and its estimate."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import chain

from farbe.checks.check import Check, Facts
from farbe.checks.filmrules import meeting
from farbe.checks.rules import run_checks
from farbe.checks.weight import Weight
from farbe.estimate.estimate import Estimate, estimate
from farbe.estimate.report import Way, compared
from farbe.estimate.steps import Step
from farbe.files.store import ArtStore
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced, faces_of
from farbe.layout.fill import Filled, choices
from farbe.layout.guide import guide_reach
from farbe.layout.laid import allotted
from farbe.mishap import guarded
from farbe.model.base import BadInput
from farbe.plan.stations import Station
from farbe.render.raster import Cancelled, Report
from farbe.said import say
from farbe.separate.grid import Grid
from farbe.survey.prints import PrintSurvey, are_known
from farbe.survey.shakejob import JobShake, job_shake


@dataclass(frozen=True)
class Findings:
    """Checks and estimate of a job, and how many pockets its board could hold.

    Attributes
    ----------
    ways : one run for all layers, and separate ones; none where the estimate failed
    met : numbers of artworks that lie on each other on a film
    exact : looked at in the resolution that prints; until then a closer look is going on
    prints : different prints that were looked at
    grid : the resolution at which they were
    """

    job: Faced
    checks: tuple[Check, ...]
    estimate: Estimate
    ways: tuple[Way, ...]
    fills: tuple[Filled, ...]
    met: frozenset[int] = frozenset()
    exact: bool = True
    prints: int = 0
    grid: Grid | None = None

    @property
    def steps(self) -> tuple[Step, ...]:
        """The run list of the way in which the job is run."""
        return self.ways[self.job.first.running.separate].steps if self.ways else ()

    def of(self, job: Faced) -> Findings:
        """The same, of an equal job.

        Parameters
        ----------
        job : that is held, in place of a copy of it
        """
        return replace(self, job=job)


def findings_of(job: Faced, store: ArtStore, report: Report, *, exact: bool = True) -> Findings:
    """Check all sides of a job, and estimate it.

    Parameters
    ----------
    job : as the face has it for which is told what mends it
    store : of the job's files
    report : is told how far it is
    exact : looked at in the resolution that prints, rather than on a coarse grid
    """
    # An edit that changes no plate needs no coarse look.
    exact = exact or all(are_known(face) for face in faces_of(job.job))
    facts = Facts(job, store, exact=exact, report=report, go_on=lambda: report(0.0))
    checks = run_checks(facts)
    whole = job.first
    foretold = guarded(
        say("The estimate"),
        lambda: (estimate(whole, store, report, exact=exact), compared(whole)),
        let=(BadInput, Cancelled),
    )
    figures, ways = foretold.made or (Estimate((), 0, 0.0), ())
    margin = max(job.bleed, guide_reach(job.guide))
    fills = (
        () if carrier_of(job).one_sheet else choices(job.jig, job.piece.shape, job.printer, margin)
    )
    met = frozenset(chain.from_iterable(_meeting(job, store)))
    if foretold.mishap is not None:
        failed = Check("estimate-failed", Weight.CAUTION, foretold.mishap.sentence, Station.RUN,
                       mishap=foretold.mishap)  # fmt: skip
        checks = (*checks, failed)
    looked = _looked_at(facts)
    prints = len(set(allotted(job).prints.values())) or len(looked)
    # A coarse grid may be as fine as what prints.
    fine = len(looked) == prints and all(one.survey.exact for one in looked)
    return Findings(
        job, checks, figures, ways, fills, met,
        exact=exact or (fine and bool(looked)),
        prints=prints,
        grid=Grid(job.printer.dpi_x, job.printer.dpi_y) if looked else None,
    )  # fmt: skip


def _looked_at(facts: Facts) -> tuple[PrintSurvey, ...]:
    try:
        return facts.surveys
    except BadInput:
        return ()  # said by the checks


def _meeting(job: Faced, store: ArtStore) -> list[tuple[int, int]]:
    """Artworks that lie on each other; the check of them says why that cannot be told."""
    let = (BadInput, Cancelled)
    return (
        guarded(say("Looking for overlaps"), lambda: meeting(Facts(job, store)), let=let).made or []
    )


def shake_of(job: Faced, store: ArtStore, report: Report) -> JobShake:
    """What choke and bleed of a job forgive.

    Parameters
    ----------
    job : as one of its faces has it
    store : of the job's files
    report : is told how far it is
    """
    return job_shake(job, store, job.running.may_show / 100.0, report)
