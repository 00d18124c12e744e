"""Edits of what lies on a roll's film, each a function of the job."""

from __future__ import annotations

from farbe.layout.rolls import lain_size, pairs_in_a_column, with_lain
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.model.piece import Reader
from farbe.model.roll import Lain, Packing, Roll, SideOffset


def on_roll(job: Job, wanted: bool) -> Job:
    """The job on film from a roll, or on its board again; the artworks are laid afterwards."""
    if not wanted:
        return job.replace(roll=None)
    if job.roll is not None:
        return job
    width = min(600.0, job.printer.bed_width)
    return job.replace(roll=Roll(width=width))


def _roll(job: Job) -> Roll:
    if job.roll is None:
        raise BadInput("This job is not printed on a roll.")
    return job.roll


def _by_hand(job: Job, lain: tuple[Lain, ...]) -> Job:
    roll = _roll(job).replace(packing=Packing.HAND)
    return with_lain(job.replace(roll=roll), lain)


def _changed(job: Job, which: int, **fields: object) -> Job:
    lain = list(_roll(job).lain)
    lain[which - 1] = lain[which - 1].replace(**fields)
    return _by_hand(job, tuple(lain))


def dragged(job: Job, which: int, by: tuple[float, float], near: float) -> Job:
    """An artwork moved by mm, with its edges snapped to others' and to the margins if ``near``."""
    roll = _roll(job)
    lain = roll.lain[which - 1]
    wide, high = lain_size(job, lain)
    lines_x, lines_y = [roll.side, roll.width - roll.side], [roll.lead]
    for number, other in enumerate(roll.lain, start=1):
        if number != which and other.sheet == lain.sheet:
            w, h = lain_size(job, other)
            lines_x += [other.x - w / 2, other.x + w / 2, other.x - w / 2 - roll.gap,
                        other.x + w / 2 + roll.gap]  # fmt: skip
            lines_y += [other.y - h / 2, other.y + h / 2, other.y - h / 2 - roll.gap,
                        other.y + h / 2 + roll.gap]  # fmt: skip
    x = _snapped(lain.x + by[0], wide / 2, lines_x, near)
    y = _snapped(lain.y + by[1], high / 2, lines_y, near)
    return _changed(job, which, x=round(x, 2), y=round(y, 2))


def _snapped(middle: float, half: float, lines: list[float], near: float) -> float:
    moves = [line - edge for line in lines for edge in (middle - half, middle + half)]
    best = min(moves, key=abs, default=0.0)
    return middle + best if abs(best) <= near else middle


def turned(job: Job, which: int) -> Job:
    """An artwork turned by a quarter."""
    return _changed(job, which, turned=(_roll(job).lain[which - 1].turned + 90) % 360)


def doubled(job: Job, which: int) -> Job:
    """One more of an artwork behind all others; one more of it is wanted."""
    roll = _roll(job)
    lain = roll.lain[which - 1]
    high = lain_size(job, lain)[1]
    ends = [o.y + lain_size(job, o)[1] / 2 for o in roll.lain if o.sheet == lain.sheet]
    more = lain.replace(y=round(max(ends) + roll.gap + high / 2, 2))
    return _by_hand(_with_count(job, lain.artwork, 1), (*roll.lain, more))


def taken_off(job: Job, which: int) -> Job:
    """Without an artwork on the film; one less of it is wanted."""
    lain = _roll(job).lain
    gone = lain[which - 1]
    return _by_hand(_with_count(job, gone.artwork, -1), (*lain[: which - 1], *lain[which:]))


def _with_count(job: Job, digest: str, more: int) -> Job:
    arts = tuple(
        art.replace(quantity=max(0, (1 if art.quantity is None else art.quantity) + more))
        if art.digest == digest
        else art
        for art in job.artworks
    )
    return job.replace(artworks=arts)


def asks_for(job: Job) -> object:
    """What an automatic layout follows from: if it changes, the artworks are laid anew."""
    roll = job.roll
    if roll is None or job.jig.over is not None:
        # Places follow from side A.
        return None
    if roll.packing is Packing.HAND and job.back is None:
        return None
    behind = [] if job.back is None else [(a.digest, a.quantity) for a in job.back.artworks]
    counts = [(art.digest, art.cropped, art.quantity) for art in job.artworks]
    # What is mirrored covers the mirror image of its place.
    plain = roll.replace(lain=(), offset=SideOffset())
    return counts, behind, plain, job.bleed, job.reader is Reader.FACE


def moved_pair(job: Job, which: int, up: bool) -> Job:
    """A pair of sides printed one place earlier or later."""
    lain = list(_roll(job).lain)
    to = which - 2 if up else which
    if job.back is None or not 0 <= to < len(lain):
        return job
    lain[which - 1], lain[to] = lain[to], lain[which - 1]
    return pairs_in_a_column(with_lain(job, tuple(lain)))
