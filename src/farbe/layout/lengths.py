"""How much film a job takes, from what lies on it."""

from __future__ import annotations

from functools import lru_cache

from farbe.model.artwork import ArtworkFile
from farbe.model.base import BadInput
from farbe.model.face import Turn, Turning
from farbe.model.job import Job
from farbe.model.patch import STRIP_INKS
from farbe.model.roll import FilmPlace, Roll
from farbe.said import say

#: Mm of a control strip: of a patch, of the line of words below them, and what stays free around.
STRIP_WIDE, STRIP_HIGH, STRIP_LINE, STRIP_GAP = 8.0, 9.0, 3.5, 2.0
#: Patches of a strip at the most: of inks, bare, of white, of blackout behind it.
STRIP_PATCHES = len(STRIP_INKS) + 1 + 2 + 2


def strip_room(job: Job) -> float:
    """Mm along each sheet of film that are kept for a control strip; 0 without one.

    Parameters
    ----------
    job : on film
    """
    columns = int(roll_of(job).room / STRIP_WIDE)
    if not job.marks.strip or isinstance(job.comes_up, Turning) or not columns:
        return 0.0
    rows = -(-STRIP_PATCHES // columns)
    return rows * STRIP_HIGH + STRIP_LINE + 2 * STRIP_GAP


def roll_of(job: Job) -> Roll:
    """The film that a job is printed on.

    Parameters
    ----------
    job : on film

    Raises
    ------
    BadInput
        If it is printed on something else.
    """
    if not isinstance(job.medium, Roll):
        raise BadInput(say("{job} is not printed on a roll.", job=job.name))
    return job.medium


def size_on_film(by_digest: dict[str, ArtworkFile], place: FilmPlace) -> tuple[float, float]:
    """Width and height in mm that an artwork takes as it lies; nothing if it is not known.

    Parameters
    ----------
    by_digest : the artworks that are known
    place : of an artwork on film
    """
    art = by_digest.get(place.artwork)
    if art is None:
        return 0.0, 0.0
    wide, high = art.cropped
    return (high, wide) if place.turned % 180 else (wide, high)


def sheet_ends(
    job: Job, roll: Roll, by_digest: dict[str, ArtworkFile], *, lines: bool
) -> tuple[float, ...]:
    """Length in mm of each sheet: lead, what lies on it, trail; one empty sheet at least.

    ``lines`` leaves room for the line behind each side A.

    Parameters
    ----------
    job : the order as a whole
    roll : the film
    by_digest : the artworks that are known
    lines : with room for the line behind each side A
    """
    ends = [roll.lead]
    for place in roll.places:
        ends += [roll.lead] * (place.sheet + 1 - len(ends))
        top = place.y + size_on_film(by_digest, place)[1] / 2 + job.bleed
        if lines:
            top += 2 * roll.line
        ends[place.sheet] = max(ends[place.sheet], top)
    return tuple(end + strip_room(job) + roll.trail for end in ends)


@lru_cache(maxsize=8)
def first_lengths(job: Job) -> tuple[float, ...]:
    """Length in mm of each sheet as its first face is printed.

    Parameters
    ----------
    job : the order as a whole
    """
    by_digest = {art.key: art for art in job.faces[0].artworks}
    return sheet_ends(job, roll_of(job), by_digest, lines=isinstance(job.comes_up, Turning))


def turned_roll(roll: Roll, lengths: tuple[float, ...], turn: Turn) -> Roll:
    """Film that was cut off, turned over and loaded again; twice gives it again.

    The last end of a sheet goes in first, so all on it comes in reverse order: a place keeps its
    distance from the side of the film, and the way along it is counted from the other end; lead
    and trail change with the ends. Like a page, B stands on its head on the film.

    Parameters
    ----------
    roll : the film
    lengths : of each sheet in mm
    turn : how the reader turns a piece over
    """
    flip = 180 if turn is Turn.SIDEWAYS else 0
    places = tuple(
        place.replace(
            artwork=place.behind or place.artwork,
            behind=place.artwork if place.behind else None,
            y=round(lengths[place.sheet] - place.y, 3), turned=(flip - place.turned) % 360,
        )
        for place in roll.places
    )  # fmt: skip
    return roll.model_copy(update={"places": places, "lead": roll.trail, "trail": roll.lead})
