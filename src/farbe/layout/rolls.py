"""Where artworks lie on a roll's film, and how much of it they take."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from functools import lru_cache

from shapely.geometry import box
from shapely.strtree import STRtree

from farbe.layout.packing import Mask, Spot, Strip, TooLarge, pack_boxes, pack_shapes
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.model.piece import Rectangle
from farbe.model.roll import Lain, Packing, Roll
from farbe.model.side import ArtworkFile, Turn


def wanted(job: Job) -> list[ArtworkFile]:
    """Each artwork as often as it is wanted; one without a quantity once."""
    return _each(job.artworks)


def _each(artworks: tuple[ArtworkFile, ...]) -> list[ArtworkFile]:
    return [art for art in artworks for _ in range(1 if art.quantity is None else art.quantity)]


def lain_size(job: Job, lain: Lain) -> tuple[float, float]:
    """Width and height in mm that an artwork takes as it lies; nothing if the job lacks it."""
    art = next((one for one in job.artworks if one.digest == lain.artwork), None)
    if art is None:
        return 0.0, 0.0
    wide, high = art.cropped
    return (high, wide) if lain.turned % 180 else (wide, high)


def _roll(job: Job) -> Roll:
    if job.roll is None:
        raise BadInput(f"{job.name} is not printed on a roll.")
    return job.roll


@lru_cache(maxsize=8)
def sheet_lengths(job: Job) -> tuple[float, ...]:
    """Length in mm of each sheet: lead, what lies on it, trail; one empty sheet at least."""
    roll = _roll(job)
    ends = [roll.lead]
    for lain in roll.lain:
        ends += [roll.lead] * (lain.sheet + 1 - len(ends))
        top = lain.y + lain_size(job, lain)[1] / 2 + job.bleed
        if job.back is not None and job.jig.over is None:
            # Room for the line behind the last side A.
            top += 2 * roll.line
        ends[lain.sheet] = max(ends[lain.sheet], top)
    return tuple(end + roll.trail for end in ends)


def film_length(job: Job) -> float:
    """Millimetres of film that a job takes."""
    return sum(sheet_lengths(job))


def used_share(job: Job) -> float:
    """Share of the film's area that artworks' rectangles take, 0 to 1."""
    roll = _roll(job)
    area = sum(wide * high for wide, high in (lain_size(job, lain) for lain in roll.lain))
    return min(1.0, area / (film_length(job) * roll.width))


def missing(job: Job) -> list[tuple[ArtworkFile, int]]:
    """Artworks of which fewer lie on the film than are wanted, or more, and by how many."""
    lying = Counter(lain.artwork for lain in _roll(job).lain)
    asked = Counter(art.digest for art in wanted(job))
    return [
        (art, asked[art.digest] - lying[art.digest])
        for art in job.artworks
        if asked[art.digest] != lying[art.digest]
    ]


def overlapping(job: Job, gap: float = 0.0) -> list[tuple[int, int]]:
    """Pairs of numbers, from 1, whose rectangles are nearer than a gap in mm."""
    areas = []
    starts = [sheet_start(job, sheet) for sheet in range(len(sheet_lengths(job)))]
    for lain in _roll(job).lain:
        wide, high = lain_size(job, lain)
        grow = gap / 2 - 1e-6
        y = lain.y + starts[lain.sheet]
        areas.append(
            box(lain.x - wide / 2 - grow, y - high / 2 - grow, lain.x + wide / 2 + grow,
                y + high / 2 + grow)
        )  # fmt: skip
    tree = STRtree(areas)
    found = []
    for one, area in enumerate(areas):
        for other in tree.query(area):
            if other > one and area.intersection(areas[int(other)]).area > 0:
                found.append((one + 1, int(other) + 1))
    return sorted(found)


def sheet_start(job: Job, sheet: int) -> float:
    """Where a sheet begins along the film, in mm."""
    return sum(sheet_lengths(job)[:sheet])


def sheets(job: Job) -> tuple[Job, ...]:
    """A job for each sheet of a roll; the job itself, if there is one or it is no roll."""
    if job.roll is None or len(sheet_lengths(job)) == 1:
        return (job,)
    roll, count = job.roll, len(sheet_lengths(job))
    return tuple(
        job.replace(
            name=f"{job.name[:60]}, sheet {number + 1} of {count}",
            roll=roll.replace(
                lain=tuple(la.replace(sheet=0) for la in roll.lain if la.sheet == number)
            ),
        )
        for number in range(count)
    )


def _pairs(job: Job) -> list[tuple[str, str | None]]:
    """Digests of sides A and B that belong together, in the order of the artworks."""
    fronts = [art.digest for art in _each(job.artworks)]
    backs = [art.digest for art in _each(job.back.artworks)] if job.back is not None else []
    return [(f, backs[i] if i < len(backs) else None) for i, f in enumerate(fronts)]


def is_laid(job: Job) -> bool:
    """Whether all that is wanted lies on the film, and each side A with its B."""
    if missing(job):
        return False
    lying = Counter((lain.artwork, lain.behind) for lain in _roll(job).lain)
    return job.back is None or lying == Counter(_pairs(job))


def pairs_in_a_column(job: Job) -> Job:
    """The job with pairs of side A and B one behind the other along the film, each in the middle.

    Those that lie there keep their order; others follow. A line comes behind each.
    """
    roll = _roll(job)
    pairs = _pairs(job)
    kept = [(la.artwork, la.behind) for la in roll.lain]
    ordered = kept if Counter(kept) == Counter(pairs) else pairs
    y, lain = roll.lead, list[Lain]()
    for front, behind in ordered:
        one = Lain(artwork=front, behind=behind, x=roll.width / 2, y=0.0)
        high = lain_size(job, one)[1]
        y += job.bleed + high / 2
        lain.append(one.replace(y=round(y, 3)))
        y += high / 2 + job.bleed + 2 * roll.line + roll.gap
    return with_lain(job, tuple(lain))


def turned_film(job: Job, lain: tuple[Lain, ...], turn: Turn) -> tuple[Lain, ...]:
    """What lies on film that was cut off, turned over and loaded again; twice gives it again.

    Its last end goes in first, so all comes in reverse order: a place keeps its distance from the
    side of the film, and the way along it is counted from the other end. ``turn`` is how the
    reader turns a piece over: like a page, B stands on its head on the film.
    """
    whole = film_length(job)
    flip = 180 if turn is Turn.SIDEWAYS else 0
    return tuple(
        one.replace(
            artwork=one.behind or one.artwork,
            behind=one.artwork if one.behind else None,
            y=round(whole - one.y, 3), turned=(flip - one.turned) % 360,
        )
        for one in lain
    )  # fmt: skip


def line_places(job: Job) -> list[tuple[int, float, float]]:
    """Number, and middle in mm, of the line behind each side A as it lies on side A's film."""
    roll = _roll(job)
    return [
        (number, lain.x, lain.y + lain_size(job, lain)[1] / 2 + job.bleed + roll.line)
        for number, lain in enumerate(roll.lain, start=1)
    ]


def packed(job: Job, masks: Mapping[str, Mask]) -> Job:
    """The job with its artworks laid on the film anew; laid by hand, as they are.

    Parameters
    ----------
    masks : for true shapes: what each artwork covers, by its digest, a bool a square millimetre

    Raises
    ------
    BadInput
        If an artwork is larger than a sheet.
    """
    roll = _roll(job)
    if job.back is not None:
        return pairs_in_a_column(job)
    if roll.packing is Packing.HAND:
        return job
    items, grow = wanted(job), 2 * job.bleed
    strip = Strip(
        roll.room - grow, roll.longest - roll.lead - roll.trail - grow, roll.gap + grow,
        roll.turning,
    )  # fmt: skip
    try:
        ways = [pack_boxes([art.cropped for art in items], strip)]
        if roll.packing is Packing.SHAPES:
            kinds = [one.digest for one in job.artworks]
            shapes = [masks[digest] for digest in kinds]
            ways.append(pack_shapes(shapes, [kinds.index(i.digest) for i in items], strip))
    except TooLarge as error:
        art = items[error.item]
        wide, high = art.cropped
        raise BadInput(
            f"{art.file_name} is {wide:g} × {high:g} mm and does not fit on a sheet of"
            f" {strip.width:g} × {strip.longest:g} mm; make it smaller or take a wider film."
        ) from error
    laid = (
        with_lain(job, tuple(_lain(items, spot, roll, job.bleed) for spot in spots))
        for spots in ways
    )
    # Where shapes leave little between them, their rectangles may pack closer.
    return min(laid, key=lambda made: (len(sheet_lengths(made)), film_length(made)))


def _lain(items: list[ArtworkFile], spot: Spot, roll: Roll, bleed: float) -> Lain:
    return Lain(
        artwork=items[spot.item].digest,
        x=round(spot.x + roll.side + bleed, 3),
        y=round(spot.y + roll.lead + bleed, 3),
        turned=spot.turned,
        sheet=spot.sheet,
    )


def with_lain(job: Job, lain: tuple[Lain, ...]) -> Job:
    """The job with these on its film, sheet by sheet; its piece is the first artwork's size."""
    ordered = tuple(sorted(lain, key=lambda one: one.sheet))
    made = job.replace(roll=_roll(job).replace(lain=ordered))
    if job.artwork is None:
        return made
    wide, high = job.artwork.cropped
    return made.replace(piece=made.piece.replace(shape=Rectangle(width=wide, height=high)))
