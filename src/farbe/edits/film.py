"""Edits of what lies on a roll's film, each a function of the job."""

from __future__ import annotations

from farbe.layout.faced import Faced
from farbe.layout.rolls import pairs_in_a_column, place_size, with_places
from farbe.model.base import BadInput
from farbe.model.medium import Bed
from farbe.model.roll import FilmPlace, Packing, Roll
from farbe.said import say


def on_roll(job: Faced, wanted: bool) -> Faced:
    """The job on film from a roll, or on its board again; the artworks are laid afterwards.

    Parameters
    ----------
    job : as one of its faces has it
    wanted : on film, or on a board
    """
    if not wanted:
        return job.replace(medium=Bed()) if job.roll is not None else job
    if job.roll is not None:
        return job
    width = min(600.0, job.printer.bed_width)
    return job.replace(medium=Roll(width=width))


def _roll(job: Faced) -> Roll:
    if job.roll is None:
        raise BadInput(say("This job is not printed on a roll."))
    return job.roll


def _by_hand(job: Faced, places: tuple[FilmPlace, ...]) -> Faced:
    roll = _roll(job).replace(packing=Packing.HAND)
    return with_places(job.replace(medium=roll), places)


def _changed(job: Faced, which: int, **fields: object) -> Faced:
    lies = list(_roll(job).places)
    lies[which - 1] = lies[which - 1].replace(**fields)
    return _by_hand(job, tuple(lies))


def dragged(
    job: Faced, which: int, by: tuple[float, float], near: float, start: Faced | None = None
) -> Faced:
    """An artwork moved by mm, with its edges snapped to others' and to the margins if ``near``.

    Parameters
    ----------
    job : as one of its faces has it
    which : an artwork on the film, counted from 1
    by : mm along and across the film
    near : mm within which edges snap; 0 snaps to none
    start : the job when the drag began, from whose places it is moved; None is the job as it is.
        What was edited since stays, and so does the artwork if it was laid elsewhere meanwhile.
    """
    roll = _roll(job if start is None else start)
    lies = roll.places[which - 1]
    now = _roll(job).places[which - 1 : which]
    if not now or now[0].replace(x=lies.x, y=lies.y) != lies:
        return job
    wide, high = place_size(job, lies)
    lines_x, lines_y = [roll.side, roll.width - roll.side], [roll.lead]
    for number, other in enumerate(roll.places, start=1):
        if number != which and other.sheet == lies.sheet:
            w, h = place_size(job, other)
            lines_x += [other.x - w / 2, other.x + w / 2, other.x - w / 2 - roll.gap,
                        other.x + w / 2 + roll.gap]  # fmt: skip
            lines_y += [other.y - h / 2, other.y + h / 2, other.y - h / 2 - roll.gap,
                        other.y + h / 2 + roll.gap]  # fmt: skip
    x = _snapped(lies.x + by[0], wide / 2, lines_x, near)
    y = _snapped(lies.y + by[1], high / 2, lines_y, near)
    return _changed(job, which, x=round(x, 2), y=round(y, 2))


def _snapped(middle: float, half: float, lines: list[float], near: float) -> float:
    moves = [line - edge for line in lines for edge in (middle - half, middle + half)]
    best = min(moves, key=abs, default=0.0)
    return middle + best if abs(best) <= near else middle


def turned(job: Faced, which: int) -> Faced:
    """An artwork on film, ``which`` from 1, turned by a quarter.

    Parameters
    ----------
    job : as one of its faces has it
    which : an artwork on the film, counted from 1
    """
    return _changed(job, which, turned=(_roll(job).places[which - 1].turned + 90) % 360)


def doubled(job: Faced, which: int) -> Faced:
    """One more of an artwork, ``which`` from 1, behind all others; one more of it is wanted.

    Parameters
    ----------
    job : as one of its faces has it
    which : an artwork on the film, counted from 1
    """
    roll = _roll(job)
    lies = roll.places[which - 1]
    high = place_size(job, lies)[1]
    ends = [o.y + place_size(job, o)[1] / 2 for o in roll.places if o.sheet == lies.sheet]
    more = lies.replace(y=round(max(ends) + roll.gap + high / 2, 2))
    return _by_hand(_with_count(job, lies.artwork, 1), (*roll.places, more))


def taken_off(job: Faced, which: int) -> Faced:
    """Without an artwork on the film, ``which`` from 1; one less of it is wanted.

    Parameters
    ----------
    job : as one of its faces has it
    which : an artwork on the film, counted from 1
    """
    lies = _roll(job).places
    gone = lies[which - 1]
    return _by_hand(_with_count(job, gone.artwork, -1), (*lies[: which - 1], *lies[which:]))


def _with_count(job: Faced, digest: str, more: int) -> Faced:
    arts = tuple(
        art.replace(quantity=max(0, (1 if art.quantity is None else art.quantity) + more))
        if art.key == digest
        else art
        for art in job.artworks
    )
    return job.replace(artworks=arts)


def moved_pair(job: Faced, which: int, up: bool) -> Faced:
    """A pair of sides, ``which`` from 1, printed one place earlier or later.

    Parameters
    ----------
    job : as one of its faces has it
    which : an artwork on the film, counted from 1
    up : earlier rather than later
    """
    # Which sheet each is on follows from the order.
    lies = [place.replace(sheet=0) for place in _roll(job).places]
    to = which - 2 if up else which
    if not job.two_sided or not 0 <= to < len(lies):
        return job
    lies[which - 1], lies[to] = lies[to], lies[which - 1]
    return pairs_in_a_column(with_places(job, tuple(lies)))


def with_roll(job: Faced, **fields: object) -> Faced:
    """A job on film with other values of it; others stay.

    Parameters
    ----------
    job : as one of its faces has it
    """
    return job if job.roll is None else job.replace(medium=job.roll.replace(**fields))


def with_offset(job: Faced, **fields: object) -> Faced:
    """A job on film with another measured offset of side B.

    Parameters
    ----------
    job : as one of its faces has it
    """
    return job if job.roll is None else with_roll(job, offset=job.roll.offset.replace(**fields))
