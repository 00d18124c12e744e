"""Several jobs beside each other on one bed."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product

from farbe.layout.bedframe import axes, keep_out_on_bed
from farbe.layout.faced import Faced
from farbe.layout.figures import measure, number
from farbe.layout.guide import guide_reach
from farbe.layout.laid import laid, places
from farbe.layout.rolls import film_length, sheet_lengths
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.model.piece import Reader
from farbe.model.printer import Printer
from farbe.model.running import Times
from farbe.said import say

#: Of a sheet that several jobs share, mm.
LONGEST_FILM = 20_000.0
#: Room beyond guide and bleed for the pockets' numbers, in mm.
NUMBERS = 5.0


@dataclass(frozen=True)
class Area:
    """A rectangle of the bed in mm."""

    left: float
    bottom: float
    right: float
    top: float

    def moved(self, x: float, y: float) -> Area:
        """The area, ``x`` and ``y`` mm further right and up.

        Parameters
        ----------
        x : mm to the right
        y : mm up
        """
        return Area(self.left + x, self.bottom + y, self.right + x, self.top + y)

    def meets(self, other: Area) -> bool:
        """Whether two areas share more than an edge.

        Parameters
        ----------
        other : of another job
        """
        return (
            self.left < other.right - 1e-6
            and other.left < self.right - 1e-6
            and self.bottom < other.top - 1e-6
            and other.bottom < self.top - 1e-6
        )


def area_of(job: Faced) -> Area:
    """What a job's used pockets take of the bed, with bleed, guide and numbers.

    Parameters
    ----------
    job : as one of its faces has it

    Raises
    ------
    BadInput
        If no pocket is on.
    """
    used = laid(job)
    if not used:
        raise BadInput(say("{job} has no pocket that is switched on.", job=job.name))
    reach = max(job.bleed, guide_reach(job.guide) + (NUMBERS if job.guide.numbers else 0.0))
    return Area(
        min(p.x - p.size[0] / 2 for p in used) - reach,
        min(p.y - p.size[1] / 2 for p in used) - reach,
        max(p.x + p.size[0] / 2 for p in used) + reach,
        max(p.y + p.size[1] / 2 for p in used) + reach,
    )


def moved(job: Faced, x: float, y: float) -> Faced:
    """The job with its grid elsewhere on the bed, by mm to the right and away.

    Parameters
    ----------
    job : the job as one of its faces has it
    x : mm to the right
    y : mm away
    """
    across, along = axes(job.jig.datum)
    jig, by = job.jig, (across * x, along * y)
    return job.replace(
        jig=jig.replace(
            first_x=round(jig.first_x + by[0], 4),
            first_y=round(jig.first_y + by[1], 4),
            places=tuple(
                one.model_copy(update={"x": round(one.x + by[0], 4), "y": round(one.y + by[1], 4)})
                for one in jig.places
            ),
        )
    )


def check_may_share(jobs: tuple[Faced, ...]) -> None:
    """Refuse jobs that cannot be printed in the same runs.

    Parameters
    ----------
    jobs : two or more

    Raises
    ------
    BadInput
        With the first reason.
    """
    first, *others = jobs
    for job in others:
        if _as_set(job.printer) != _as_set(first.printer):
            raise BadInput(
                say(
                    "{job} is for another printer or mode than {first}.",
                    job=job.name,
                    first=first.name,
                )
            )
        if job.receiver != first.receiver:
            raise BadInput(
                say("{job} is for another receiver than {first}.", job=job.name, first=first.name)
            )
        if job.running.replace(times=Times()) != first.running.replace(times=Times()):
            raise BadInput(
                say("{job} is run in another way than {first}.", job=job.name, first=first.name)
            )
        if job.bed_turned != first.bed_turned:
            raise BadInput(
                say(
                    "Of {job} and {first} one board is loaded turned.",
                    job=job.name,
                    first=first.name,
                )
            )
        if first.receiver.mirrors and (job.reader is Reader.FACE) is not (
            first.reader is Reader.FACE
        ):
            raise BadInput(
                say(
                    "The receiver mirrors whole files, but of {job} and {first} only one is "
                    "mirrored.",
                    job=job.name,
                    first=first.name,
                )
            )
    _check_media(jobs)
    heights = sorted((job.piece.height, job.name) for job in jobs)
    (low, lowest), (high, highest) = heights[0], heights[-1]
    if high - low > first.printer.gap + 1e-9:
        raise BadInput(
            say(
                "{highest} is {high} higher than {lowest}; the head bridges {gap}.",
                highest=highest,
                high=measure(high - low),
                lowest=lowest,
                gap=measure(first.printer.gap),
            )
        )


def _as_set(printer: Printer) -> Printer:
    """A printer without what it was measured to do: each job goes by its own condition."""
    return printer.model_copy(update={"conditions": ()})


def _check_media(jobs: tuple[Faced, ...]) -> None:
    """Refuse jobs that lie on different things, or on two sides of them."""
    first = jobs[0]
    if any((job.roll is None) is not (first.roll is None) for job in jobs):
        raise BadInput(say("Of these jobs some are printed on a roll, and some on the bed."))
    for job in jobs:
        if job.roll is not None and first.roll is not None:
            if job.roll.width != first.roll.width:
                raise BadInput(
                    say("{job} is for another film than {first}.", job=job.name, first=first.name)
                )
            if len(sheet_lengths(job)) > 1:
                raise BadInput(say("{job} takes several sheets; print it by itself.", job=job.name))
        if job.two_sided:
            raise BadInput(say("{job} has two sides; print it by itself.", job=job.name))


def beside(wanted: tuple[Job, ...]) -> tuple[Job, ...]:
    """The jobs where none lies on another: the first stays, others move only if they must.

    Parameters
    ----------
    wanted : jobs in the order of the queue

    Raises
    ------
    BadInput
        If they cannot share runs, or one finds no room.
    """
    # A strip is laid for one job alone; on another's board it could lie under that one's pieces.
    jobs = tuple(
        Faced(job.model_copy(update={"marks": job.marks.model_copy(update={"strip": False})}))
        for job in wanted
    )
    check_may_share(jobs)
    if jobs[0].roll is not None:
        return _counted(_along_the_film(jobs))
    placed, taken = list[Faced](), list[Area]()
    for job in jobs:
        found = _on_its_board(job, placed) or _room_for(job, taken)
        if found is None:
            raise BadInput(
                say(
                    "{job} finds no room on the bed beside the others; take one of them out.",
                    job=job.name,
                )
            )
        placed.append(found)
        taken.append(area_of(found))
    return _counted(tuple(placed))


def _counted(jobs: tuple[Faced, ...]) -> tuple[Job, ...]:
    """Jobs whose pieces are counted on from one to the next, so that no two have a number."""
    found, first = list[Faced](), 1
    for job in jobs:
        shared = next((one for one in found if share_a_board(one, job)), None)
        counted = first if shared is None else shared.jig.count_from
        found.append(job.replace(jig=job.jig.replace(count_from=counted)))
        if shared is None:
            first += len(job.jig.places) or max((one.number for one in places(job)), default=0)
    return tuple(one.job for one in found)


def share_a_board(one: Faced, other: Faced) -> bool:
    """Whether two jobs lie in pockets of the same board.

    Parameters
    ----------
    one, other : on the same bed
    """
    mine, theirs = one.jig, other.jig
    return bool(mine.places) and (mine.places, mine.board, mine.datum, mine.kinds) == (
        theirs.places, theirs.board, theirs.datum, theirs.kinds
    )  # fmt: skip


def _on_its_board(job: Faced, placed: list[Faced]) -> Faced | None:
    """The job as it is, if its board is there already and its pockets are free."""
    there = [one for one in placed if share_a_board(one, job)]
    used = {piece.number: one.name for one in there for piece in laid(one)}
    for piece in laid(job):
        if piece.number in used:
            raise BadInput(
                say(
                    "{job} and {other} both print into pocket {pocket} of their board; switch it "
                    "off in one of them.",
                    job=job.name,
                    other=used[piece.number],
                    pocket=piece.number,
                )
            )
    return job if there else None


def _along_the_film(jobs: tuple[Faced, ...]) -> tuple[Faced, ...]:
    """Jobs on one film, one behind the other; each knows of the whole length."""
    lengths = [film_length(job) for job in jobs]
    whole, start, placed = sum(lengths), 0.0, list[Faced]()
    if whole > LONGEST_FILM:
        raise BadInput(
            say(
                "Together these jobs take {length} m of film, and a sheet is {most} m at the "
                "most; take one of them out.",
                length=number(whole / 1000),
                most=number(LONGEST_FILM / 1000),
            )
        )
    for job, length in zip(jobs, lengths, strict=True):
        if job.roll is None:
            continue
        places = tuple(one.replace(y=round(one.y + start, 3)) for one in job.roll.places)
        # The trail reaches to the end of the last job's film.
        trail = job.roll.trail + whole - start - length
        placed.append(
            job.replace(medium=job.roll.replace(places=places, trail=trail, longest=LONGEST_FILM))
        )
        start += length
    return tuple(placed)


def _room_for(job: Faced, taken: list[Area]) -> Faced | None:
    """The job in the nearest free place; as it is, if that is free."""
    own, printer = area_of(job), job.printer
    if not any(own.meets(other) for other in taken):
        return job
    wide, high = own.right - own.left, own.top - own.bottom
    lefts = sorted({0.0, *(a.right for a in taken)})
    bottoms = sorted({0.0, *(a.top for a in taken)})
    for bottom, left in product(bottoms, lefts):
        if left + wide > printer.bed_width + 1e-6 or bottom + high > printer.bed_height + 1e-6:
            continue
        place = own.moved(left - own.left, bottom - own.bottom)
        if any(place.meets(other) for other in taken):
            continue
        made = moved(job, left - own.left, bottom - own.bottom)
        if len(places(made)) == len(places(job)) and not _on_keep_out(made):
            return made
    return None


def _on_keep_out(job: Faced) -> bool:
    """Whether a job that was moved has come onto one of its keep-outs."""
    area = area_of(job)
    return any(
        area.meets(Area(*keep_out_on_bed(k, job.jig.datum, job.printer).bounds))
        for k in job.jig.keep_outs
    )  # fmt: skip
