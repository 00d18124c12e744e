"""All different prints of a job, each looked at once and kept by what it prints."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import closing
from dataclasses import dataclass
from functools import lru_cache, partial
from itertools import islice
from math import ceil

from farbe.kept import Kept
from farbe.layout.faced import Faced
from farbe.layout.forplates import PrintForPlates, print_for_plates
from farbe.layout.frame import sampling_grid
from farbe.layout.laid import different, first_print, printed
from farbe.layout.prints import PocketPrint, lone_piece, size_of
from farbe.layout.register import register_of
from farbe.model.base import BadInput
from farbe.model.piece import Reader, RoundBody
from farbe.plan.order import mirrored
from farbe.render import onepass
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

    print_: PrintForPlates
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
    known = _keys(job, exact)
    keys = {what: known[what] for what in pockets}
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
    return all(key in _KEPT for key in _keys(job, True).values())


def unseen(job: Faced) -> tuple[int, ...]:
    """Which different prints of a face were not looked at yet, in the pixels that print.

    Parameters
    ----------
    job : as the face has it

    Returns
    -------
    Their numbers in the order of the pockets, from 0.
    """
    keys = _keys(job, True).values()
    return tuple(number for number, key in enumerate(keys) if key not in _KEPT)


def look_at(job: Faced, number: int, sources: Sources) -> Survey:
    """Look at one different print of a face, in the pixels that print.

    Parameters
    ----------
    job : as the face has it
    number : of the print, as :func:`unseen` tells it
    sources : pixels, fonts and profile
    """
    key = tuple(_keys(job, True).values())[number]
    return _KEPT.get(key, partial(_look_at, key, sources, unwatched, 1))


def learn(job: Faced, number: int, survey: Survey) -> None:
    """Keep what another process saw of a print.

    Parameters
    ----------
    job : as the face has it
    number : of the print, as :func:`unseen` tells it
    survey : as :func:`look_at` gave it there
    """
    _KEPT.get(tuple(_keys(job, True).values())[number], lambda: survey)


@lru_cache(maxsize=8)
def _keys(job: Faced, exact: bool) -> Mapping[PocketPrint, _Key]:
    """What the survey of each different print of a face is kept by."""
    turns = _turns(job)
    prints = (what for what, _ in different(job)) if different(job) else (first_print(job),)
    return {what: _key(job, what, turns, exact=exact) for what in prints}


def _looked(
    keys: dict[PocketPrint, _Key], sources: Sources, report: Report
) -> Iterator[tuple[PocketPrint, Survey]]:
    """One print by strips side by side; of several, some prints side by side."""
    if len(keys) == 1:
        ((what, key),) = keys.items()
        yield what, _KEPT.get(key, lambda: _look_at(key, sources, report, WORKERS))
        return

    if all(key in _KEPT for key in keys.values()):
        # Nothing is left to do side by side; what was forgotten meanwhile is looked at again.
        for what, key in keys.items():
            yield what, _KEPT.get(key, partial(_look_at, key, sources, report, WORKERS))
        return

    def still_wanted(_: float) -> None:
        report(0.0)

    def one(key: _Key) -> Survey:
        return _KEPT.get(key, lambda: _look_at(key, sources, still_wanted, 1))

    with closing(in_order(one, keys.values())) as surveys:
        yield from zip(keys, surveys, strict=True)


def _look_at(key: _Key, sources: Sources, report: Report, threads: int) -> Survey:
    of = subject(key.print_.job, sources, key.grid, exact=key.exact, register=key.register,
                 turn=key.turn, edged=key.edged)  # fmt: skip
    print_ = onepass.Print(key.print_, key.grid, key.turn, of.separation.layers)
    return survey_of(of, report, threads=threads, keep=partial(onepass.keep, print_))


def _key(job: Faced, what: PocketPrint, turns: Mapping[PocketPrint, float], *, exact: bool) -> _Key:
    print_ = print_for_plates(job, what)
    fine, coarse = _grids(print_.base, what.turned, size_of(what))
    grid = fine if exact else coarse
    as_read = turns.get(what, 0.0) if exact else 0.0
    register = register_of(job, apart=job.running.separate)
    rounded = ceil(register / REGISTER_STEP - 1e-9) * REGISTER_STEP
    # A coarse grid may be as fine as the printer's.
    same = grid.dpi_x >= fine.dpi_x and grid.dpi_y >= fine.dpi_y
    edged = what.turned is None and job.reader is not Reader.TRANSFER
    edged &= not isinstance(job.piece.shape, RoundBody)
    return _Key(print_, grid, exact or same, rounded, as_read, edged)


@lru_cache(maxsize=1024)
def _grids(base: Faced, turned: int | None, size: tuple[float, float] | None) -> tuple[Grid, Grid]:
    """The grid that prints, upright, and a coarse one; of a print on film by its own size."""
    of = base if turned is None or size is None else lone_piece(base, turned, size)
    return upright_grid(of, Grid(base.printer.dpi_x, base.printer.dpi_y)), sampling_grid(of)


def _turns(job: Faced) -> dict[PocketPrint, float]:
    """Degrees, anticlockwise as read, by which each print is turned where it first lies."""
    try:
        pieces = printed(job)
    except BadInput:
        return {}  # said by the check of what was measured
    sign = -1.0 if mirrored(job.reader) else 1.0
    return {piece.what: sign * piece.turn for piece in reversed(pieces) if piece.what is not None}
