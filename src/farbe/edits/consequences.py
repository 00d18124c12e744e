"""What follows from an edit: each consequence in one place, for window and command line alike."""

from __future__ import annotations

from farbe.layout.faced import Faced
from farbe.layout.rolls import is_laid
from farbe.model.piece import Reader
from farbe.model.roll import Packing, SideOffset
from farbe.render.footprints import ganged
from farbe.render.sources import Sources


def film_work(job: Faced) -> object:
    """What the layout of a film follows from; None where nothing is laid by itself.

    If it changes, the artworks are laid anew.

    Parameters
    ----------
    job : as one of its faces has it
    """
    roll = job.roll
    if roll is None or job.came_up is not None:
        # Places follow from side A.
        return None
    if roll.packing is Packing.HAND and not job.two_sided:
        return None
    other = job.other if job.two_sided else None
    behind = [] if other is None else [(a.key, a.quantity) for a in other.artworks]
    counts = [(art.key, art.cropped, art.quantity) for art in job.artworks]
    # What is mirrored covers the mirror image of its place.
    plain = roll.replace(places=(), offset=SideOffset())
    return counts, behind, plain, job.bleed, job.reader is Reader.FACE


def asks_for_more(before: Faced | None, after: Faced) -> bool:
    """Whether an edit asks for work that :func:`settled` does; values only, so it is quick.

    Parameters
    ----------
    before : the job before the edit
    after : the job after it
    """
    work = film_work(after)
    if work is None:
        return False
    if before is None or before.roll is None or before.number != after.number:
        # Nothing of this film was seen before: what lies there stays, if it is what is wanted.
        return not (is_laid(after) and after.roll is not None and after.roll.places)
    return work != film_work(before)


def settled(job: Faced, sources: Sources) -> Faced:
    """The job with all that follows from what it states: artworks laid on its film.

    Parameters
    ----------
    job : as one of its faces has it
    sources : pixels and fonts of its artworks

    Raises
    ------
    BadInput
        If an artwork is larger than a sheet.
    """
    if film_work(job) is None:
        return job
    return ganged(job, sources)


def with_consequences(now: Faced, asked: Faced, made: Faced) -> Faced:
    """What follows, put into a job that may have been edited since it was asked for.

    It is dropped if the job now asks for something else; all else in it stays as it is now.

    Parameters
    ----------
    now : the job as it is
    asked : the job for which it was worked out
    made : the job with what follows
    """
    if film_work(now) != film_work(asked) or made.roll is None or now.roll is None:
        return now
    return now.replace(
        medium=now.roll.replace(places=made.roll.places),
        piece=now.piece.replace(shape=made.piece.shape),
    )
