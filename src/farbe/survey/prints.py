"""All different prints of a job, each looked at once and kept by what it prints."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import closing
from dataclasses import dataclass
from itertools import islice
from math import ceil

from farbe.kept import Kept
from farbe.layout.faced import Faced
from farbe.layout.frame import sampling_grid
from farbe.layout.laid import allotted, different, first_print, printed
from farbe.layout.prints import PocketPrint, one_print
from farbe.layout.register import register_of
from farbe.model.base import BadInput
from farbe.model.face import SamePrint
from farbe.model.jig import Cutting, Guide
from farbe.model.job import Job
from farbe.model.marks import Marks
from farbe.model.medium import Bed
from farbe.model.piece import Reader, RoundBody
from farbe.model.running import Prices, Running
from farbe.plan.order import mirrored
from farbe.render.piecetile import upright_grid
from farbe.render.raster import Report, unwatched
from farbe.render.sources import Sources
from farbe.separate.grid import Grid
from farbe.sidebyside import WORKERS, in_order
from farbe.survey.look import survey_of
from farbe.survey.subject import subject
from farbe.survey.survey import Survey

#: Surveys that are kept; each is a few kilobytes.
MOST_KEPT = 6000
#: Different prints that are looked at coarsely.
MOST_COARSE = 24
#: Mm to which the stated misregister is rounded up, so that moving a pocket changes nothing.
REGISTER_STEP = 0.01


@dataclass(frozen=True)
class PrintSurvey:
    """A different print: what it is, the pockets that print it, and what was found."""

    what: PocketPrint
    pockets: tuple[int, ...]
    survey: Survey


@dataclass(frozen=True)
class _Key:
    """All that a survey depends on."""

    job: Faced
    grid: Grid
    exact: bool
    register: float
    turn: float
    edged: bool


_KEPT: Kept[_Key, Survey] = Kept(MOST_KEPT)


def surveys(
    job: Faced, sources: Sources, report: Report = unwatched, *, exact: bool = True
) -> tuple[PrintSurvey, ...]:
    """Look at every different print of a face.

    What was looked at before is not looked at again.

    Parameters
    ----------
    job : as the face has it
    sources : pixels, fonts and profile
    report : told the share that is done, 0 to 1
    exact : at the resolution that prints, rather than on a coarse grid

    Returns
    -------
    In the order of the pockets; what none prints stands for a job without pockets. Of very many,
    the first alone on a coarse grid.

    Raises
    ------
    BadInput
        If a file cannot be read.
    Cancelled
        If ``report`` does.
    """
    pockets = dict(different(job)) or {first_print(job): ()}
    if not exact:
        # At once: the first of very many stand for the others until those are looked at.
        pockets = dict(islice(pockets.items(), MOST_COARSE))
    turns = _turns(job)
    keys = {what: _key(job, what, turns, exact=exact) for what in pockets}
    found: dict[PocketPrint, Survey] = {}
    so_far = 0.0

    def told(done: float) -> None:
        nonlocal so_far
        so_far = max(so_far, done)
        report(so_far)

    for done, (what, survey) in enumerate(_looked(keys, sources, told), start=1):
        found[what] = survey
        told(done / len(keys))
    return tuple(PrintSurvey(what, numbers, found[what]) for what, numbers in pockets.items())


def are_known(job: Faced) -> bool:
    """Whether every different print of a face was looked at before, in the pixels that print.

    Parameters
    ----------
    job : as the face has it
    """
    prints = set(allotted(job).prints.values()) or {first_print(job)}
    turns = _turns(job)
    return all(_key(job, what, turns, exact=True) in _KEPT for what in prints)


def _looked(
    keys: dict[PocketPrint, _Key], sources: Sources, report: Report
) -> Iterator[tuple[PocketPrint, Survey]]:
    """One print by strips side by side; of several, some prints side by side."""
    if len(keys) == 1:
        ((what, key),) = keys.items()
        yield what, _KEPT.get(key, lambda: _look_at(key, sources, report, WORKERS))
        return

    def still_wanted(_: float) -> None:
        report(0.0)

    def one(key: _Key) -> Survey:
        return _KEPT.get(key, lambda: _look_at(key, sources, still_wanted, 1))

    with closing(in_order(one, keys.values())) as surveys:
        yield from zip(keys, surveys, strict=True)


def _look_at(key: _Key, sources: Sources, report: Report, threads: int) -> Survey:
    of = subject(key.job, sources, key.grid, exact=key.exact, register=key.register, turn=key.turn,
                 edged=key.edged)  # fmt: skip
    return survey_of(of, report, threads=threads)


def _key(job: Faced, what: PocketPrint, turns: Mapping[PocketPrint, float], *, exact: bool) -> _Key:
    of = one_print(job, what)
    fine = upright_grid(of, Grid(job.printer.dpi_x, job.printer.dpi_y))
    grid = fine if exact else sampling_grid(of)
    as_read = turns.get(what, 0.0) if exact else 0.0
    register = register_of(job, apart=job.running.separate)
    rounded = ceil(register / REGISTER_STEP - 1e-9) * REGISTER_STEP
    # A coarse grid may be as fine as the printer's.
    same = grid.dpi_x >= fine.dpi_x and grid.dpi_y >= fine.dpi_y
    edged = what.turned is None and job.reader is not Reader.TRANSFER
    edged &= not isinstance(job.piece.shape, RoundBody)
    return _Key(_plain(of), grid, exact or same, rounded, as_read, edged)


def _turns(job: Faced) -> dict[PocketPrint, float]:
    """Degrees, anticlockwise as read, by which each print is turned where it first lies."""
    try:
        pieces = printed(job)
    except BadInput:
        return {}  # said by the check of what was measured
    sign = -1.0 if mirrored(job.reader) else 1.0
    return {piece.what: sign * piece.turn for piece in reversed(pieces) if piece.what is not None}


def _plain(of: Faced) -> Faced:
    """A job of one print without all that its plates do not depend on."""
    job = of.job
    faces = tuple(
        face.model_copy(
            update={
                "artworks": tuple(art.replace(quantity=None) for art in face.artworks),
                "table": None, "changes": (), "correction": None,
            }
        )
        for face in job.faces
    )  # fmt: skip
    kept = isinstance(job.comes_up, SamePrint)
    printer = job.printer.model_copy(
        update={"name": "", "modes": (), "passes": 1, "speed": 1.0, "turn": 0.0, "swath": 1.0}
    )
    inks = tuple(ink.model_copy(update={"price": 0.0}) for ink in printer.inks)
    jig = job.jig.model_copy(
        update={"name": "", "rows": 1, "columns": 1, "first_x": 0.0, "first_y": 0.0,
                "first_only": None, "off": frozenset(), "keep_outs": (), "gap_x": 0.0,
                "gap_y": 0.0, "places": (), "kinds": (), "kind": 0}
    )  # fmt: skip
    made: Job = job.model_copy(
        update={
            "name": "", "made_guide": None, "load": 0,
            "faces": faces if kept else (faces[of.number],),
            "comes_up": job.comes_up if kept else None,
            "piece": job.piece if kept else of.piece,
            "printer": printer.model_copy(update={"inks": inks}),
            "jig": jig, "medium": Bed(), "garments": (), "marks": Marks(), "guide": Guide(),
            "running": Running(), "prices": Prices(), "accepted": (), "cutting": Cutting(),
            "receiver": job.receiver.model_copy(update={"name": ""}),
        }
    )  # fmt: skip
    return Faced(made, of.number if kept else 0)
