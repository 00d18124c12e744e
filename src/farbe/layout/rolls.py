"""Where artworks lie on a roll's film, and how much of it they take."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from functools import lru_cache

from shapely.geometry import box
from shapely.strtree import STRtree

from farbe.layout.faced import Faced
from farbe.layout.figures import sizes
from farbe.layout.lengths import first_lengths, sheet_ends, size_on_film, strip_room
from farbe.layout.packboxes import pack_boxes
from farbe.layout.packing import Mask, Spot, Strip, TooLarge, pack_shapes
from farbe.model.artwork import ArtworkFile
from farbe.model.base import BadInput
from farbe.model.face import Face
from farbe.model.job import Job
from farbe.model.piece import Rectangle
from farbe.model.roll import FilmPlace, Packing, Roll
from farbe.said import say


def wanted(job: Faced) -> list[ArtworkFile]:
    """Each artwork as often as it is wanted; one without a quantity once.

    Parameters
    ----------
    job : as one of its faces has it
    """
    return _each(job.artworks)


def _each(artworks: tuple[ArtworkFile, ...]) -> list[ArtworkFile]:
    return [art for art in artworks for _ in range(1 if art.quantity is None else art.quantity)]


def place_size(job: Faced, place: FilmPlace) -> tuple[float, float]:
    """Width and height in mm that an artwork takes as it lies; nothing if the job lacks it.

    Parameters
    ----------
    job : the job as one of its faces has it
    place : of an artwork on film
    """
    return size_on_film({art.key: art for art in job.artworks}, place)


def roll_of_face(job: Faced) -> Roll:
    """The film as it is loaded for a face; BadInput if the job is printed on something else.

    Parameters
    ----------
    job : as one of its faces has it

    Raises
    ------
    BadInput
        With one sentence that says what is wrong.
    """
    roll = job.roll
    if roll is None:
        raise BadInput(say("{job} is not printed on a roll.", job=job.name))
    return roll


@lru_cache(maxsize=8)
def sheet_lengths(job: Faced) -> tuple[float, ...]:
    """Length in mm of each sheet as it is loaded for a face; one empty sheet at least.

    Parameters
    ----------
    job : on film, as one of its faces has it

    Returns
    -------
    Millimetres, sheet by sheet.

    Raises
    ------
    BadInput
        If it is printed on something else.
    """
    if job.came_up is None:
        return first_lengths(job.first.job)
    by_digest = {art.key: art for art in job.artworks}
    return sheet_ends(job.job, roll_of_face(job), by_digest, lines=False)


def film_length(job: Faced) -> float:
    """Millimetres of film that a job takes.

    Parameters
    ----------
    job : on film

    Returns
    -------
    Millimetres.

    Raises
    ------
    BadInput
        If it is printed on something else.
    """
    return sum(sheet_lengths(job))


def used_share(job: Faced) -> float:
    """Share of the film's area that artworks' rectangles take, 0 to 1.

    Parameters
    ----------
    job : the job as one of its faces has it
    """
    roll = roll_of_face(job)
    known = {art.key: art for art in job.artworks}
    area = sum(wide * high for wide, high in (size_on_film(known, lies) for lies in roll.places))
    return min(1.0, area / (film_length(job) * roll.width))


def missing(job: Faced) -> list[tuple[ArtworkFile, int]]:
    """Artworks of which fewer lie on the film than are wanted, or more, and by how many.

    Parameters
    ----------
    job : the job as one of its faces has it
    """
    lying = Counter(place.artwork for place in roll_of_face(job).places)
    asked = Counter(art.key for art in wanted(job))
    return [
        (art, asked[art.key] - lying[art.key])
        for art in job.artworks
        if asked[art.key] != lying[art.key]
    ]


def near_boxes(job: Faced, gap: float = 0.0) -> list[tuple[int, int]]:
    """Pairs of numbers, from 1, whose rectangles are nearer than a gap in mm.

    Parameters
    ----------
    job : on film
    gap : mm

    Returns
    -------
    Pairs of numbers from 1, the smaller first, in their order.
    """
    areas = []
    starts = [sheet_start(job, sheet) for sheet in range(len(sheet_lengths(job)))]
    known = {art.key: art for art in job.artworks}
    for place in roll_of_face(job).places:
        wide, high = size_on_film(known, place)
        grow = gap / 2 - 1e-6
        y = place.y + starts[place.sheet]
        areas.append(
            box(place.x - wide / 2 - grow, y - high / 2 - grow, place.x + wide / 2 + grow,
                y + high / 2 + grow)
        )  # fmt: skip
    if not areas:
        return []
    tree = STRtree(areas)
    found = []
    for one, area in enumerate(areas):
        for other in tree.query(area):
            if other > one and area.intersection(areas[int(other)]).area > 0:
                found.append((one + 1, int(other) + 1))
    return sorted(found)


def sheet_start(job: Faced, sheet: int) -> float:
    """Where a sheet begins along the film, in mm.

    Parameters
    ----------
    job : the job as one of its faces has it
    sheet : from 0
    """
    return sum(sheet_lengths(job)[:sheet])


def sheets(job: Job) -> tuple[Job, ...]:
    """A job for each sheet of a roll on which anything lies; the job itself without several sheets.

    Parameters
    ----------
    job : on film, or on anything else
    """
    roll = job.medium
    if not isinstance(roll, Roll) or len(first_lengths(job)) == 1:
        return (job,)
    # All that lay on one of them may have been moved to others.
    used = sorted({place.sheet for place in roll.places})
    return tuple(_sheet(job, roll, at, used) for at in range(len(used)))


def _sheet(job: Job, roll: Roll, number: int, used: list[int]) -> Job:
    """A job of what lies on one sheet: of each artwork, as many are wanted as there are."""
    lying = [at for at, place in enumerate(roll.places) if place.sheet == used[number]]
    places = tuple(roll.places[at].replace(sheet=0) for at in lying)
    return told_by_place(
        job.replace(
            name=f"{job.name[:60]}, sheet {number + 1} of {len(used)}",
            faces=lying_faces(job, places),
            medium=roll.replace(places=places),
        ),
        lying,
    )


def told_by_place(job: Job, was: Sequence[int]) -> Job:
    """A job on film whose tables and orders follow what lies there, as that was put in order anew.

    Parameters
    ----------
    job : with its places in their new order
    was : which place each of them was before, from 0
    """
    picks = {pick.number: pick for pick in job.picks}
    faces = tuple(
        face
        if face.table is None
        else face.replace(table=face.table.replace(rows=tuple(
            face.table.rows[at] for at in was if at < len(face.table.rows)
        )))
        for face in job.faces
    )  # fmt: skip
    return job.replace(
        faces=faces,
        picks=tuple(
            picks[at + 1].replace(number=number)
            for number, at in enumerate(was, start=1)
            if at + 1 in picks
        ),
    )


def lying_faces(job: Job, places: tuple[FilmPlace, ...]) -> tuple[Face, ...]:
    """The faces of a job with as many of each artwork as lie in some places; others are left out.

    Parameters
    ----------
    job : on film
    places : some of it
    """
    lying: tuple[Counter[str | None], ...] = (
        Counter(place.artwork for place in places), Counter(place.behind for place in places)
    )  # fmt: skip
    return tuple(
        face.replace(artworks=tuple(
            art.replace(quantity=on[art.key]) for art in face.artworks if on[art.key]
        ))
        for face, on in zip(job.faces, lying, strict=False)
    )  # fmt: skip


def _pairs(job: Faced) -> list[tuple[str, str | None]]:
    """Digests of sides A and B that belong together, in the order of the artworks."""
    fronts = [art.key for art in _each(job.artworks)]
    behind = job.other if job.two_sided else None
    backs = [art.key for art in _each(behind.artworks)] if behind is not None else []
    return [(f, backs[i] if i < len(backs) else None) for i, f in enumerate(fronts)]


def is_laid(job: Faced) -> bool:
    """Whether all that is wanted lies on the film, and each side A with its B.

    Parameters
    ----------
    job : as one of its faces has it
    """
    if missing(job):
        return False
    lying = Counter((place.artwork, place.behind) for place in roll_of_face(job).places)
    return not job.two_sided or lying == Counter(_pairs(job))


def pairs_in_a_column(job: Faced) -> Faced:
    """The job with pairs of side A and B one behind the other along the film, each in the middle.

    Those that lie there keep their order; others follow. A line comes behind each. What would
    make a sheet too long begins the next one.

    Parameters
    ----------
    job : as one of its faces has it
    """
    if job.number == 1:
        # Film is laid as side A is printed; B follows from it.
        return Faced(pairs_in_a_column(job.first).job, 1)
    roll = roll_of_face(job)
    pairs = _pairs(job)
    kept = [(la.artwork, la.behind) for la in roll.places]
    ordered = kept if Counter(kept) == Counter(pairs) else pairs
    known = {art.key: art for art in job.artworks}
    y, sheet, places = roll.lead, 0, list[FilmPlace]()
    for front, behind in ordered:
        one = FilmPlace(artwork=front, behind=behind, x=roll.width / 2, y=0.0)
        high = size_on_film(known, one)[1] + 2 * job.bleed
        if y > roll.lead and y + high + 2 * roll.line + roll.trail > roll.longest + 1e-6:
            y, sheet = roll.lead, sheet + 1
        places.append(one.replace(y=round(y + high / 2, 3), sheet=sheet))
        y += high + 2 * roll.line + roll.gap
    return with_places(job, tuple(places))


def line_places(job: Faced) -> list[tuple[int, float, float]]:
    """Number, and middle in mm, of the line behind each side A as it lies on side A's film.

    None of jobs that have no side B on film.

    Parameters
    ----------
    job : the job as one of its faces has it
    """
    roll = job.roll
    if roll is None or not job.two_sided or job.came_up is not None:
        return []
    known = {art.key: art for art in job.artworks}
    starts = [sheet_start(job, sheet) for sheet in range(len(sheet_lengths(job)))]
    return [
        (number, place.x,
         starts[place.sheet] + place.y + size_on_film(known, place)[1] / 2 + job.bleed + roll.line)
        for number, place in enumerate(roll.places, start=1)
    ]  # fmt: skip


def packed(job: Faced, masks: Mapping[str, Mask]) -> Faced:
    """The job with its artworks laid on the film anew; laid by hand, as they are.

    Parameters
    ----------
    job : on film, as one of its faces has it
    masks : for true shapes: what each artwork covers, by its digest, a bool a square millimetre

    Raises
    ------
    BadInput
        If an artwork is larger than a sheet.
    """
    roll = roll_of_face(job)
    if job.two_sided:
        return pairs_in_a_column(job)
    if roll.packing is Packing.HAND:
        return job
    items, strip = wanted(job), film_strip(job)
    try:
        ways = [pack_boxes([art.cropped for art in items], strip)]
        if roll.packing is Packing.SHAPES:
            kinds = [one.key for one in job.artworks]
            shapes = [masks[digest] for digest in kinds]
            ways.append(pack_shapes(shapes, [kinds.index(i.key) for i in items], strip))
    except TooLarge as error:
        art = items[error.item]
        wide, high = art.cropped
        raise BadInput(
            say(
                "{file_name} is {wide} and does not fit on a sheet of {width}; make it "
                "smaller or take a wider film.",
                file_name=art.file_name,
                wide=sizes(wide, high),
                width=sizes(strip.width, strip.longest),
            )
        ) from error
    laid = (
        with_places(job, tuple(_placed(items, spot, roll, job.bleed) for spot in spots))
        for spots in ways
    )
    # Where shapes leave little between them, their rectangles may pack closer.
    return min(laid, key=lambda made: (len(sheet_lengths(made)), film_length(made)))


def film_strip(job: Faced) -> Strip:
    """A sheet of a job's film between its margins, as artworks are laid on it.

    Parameters
    ----------
    job : on film, as one of its faces has it
    """
    roll, grow = roll_of_face(job), 2 * job.bleed
    return Strip(
        roll.room - grow, _longest(job, roll) - grow, roll.gap + grow, roll.turning,
    )  # fmt: skip


def _longest(job: Faced, roll: Roll) -> float:
    """Mm along a sheet in which artworks can lie."""
    return roll.longest - roll.lead - roll.trail - strip_room(job.job)


def packed_as_it_lay(job: Faced) -> Faced:
    """The job with what is left on its film moved up to the lead, one behind the other.

    Each stays turned as it was, since its cut and its reader may depend on that.

    Parameters
    ----------
    job : on film
    """
    roll = roll_of_face(job)
    strip = Strip(
        roll.room - 2 * job.bleed, _longest(job, roll) - 2 * job.bleed,
        roll.gap + 2 * job.bleed, turning=False,
    )  # fmt: skip
    sizes = [place_size(job, place) for place in roll.places]
    spots = sorted(pack_boxes(sizes, strip), key=lambda spot: spot.sheet)
    places = tuple(
        roll.places[spot.item].replace(
            x=round(spot.x + roll.side + job.bleed, 3),
            y=round(spot.y + roll.lead + job.bleed, 3),
            sheet=spot.sheet,
        )
        for spot in spots
    )
    made = with_places(job, places)
    return Faced(told_by_place(made.job, [spot.item for spot in spots]), job.number)


def _placed(items: list[ArtworkFile], spot: Spot, roll: Roll, bleed: float) -> FilmPlace:
    return FilmPlace(
        artwork=items[spot.item].key,
        x=round(spot.x + roll.side + bleed, 3),
        y=round(spot.y + roll.lead + bleed, 3),
        turned=spot.turned,
        sheet=spot.sheet,
    )


def with_places(job: Faced, places: tuple[FilmPlace, ...]) -> Faced:
    """The job with these on its film, sheet by sheet; its piece is the first artwork's size.

    Parameters
    ----------
    job : as one of its faces has it
    places : on film, in mm
    """
    ordered = tuple(sorted(places, key=lambda one: one.sheet))
    made = job.replace(medium=roll_of_face(job).replace(places=ordered))
    if job.artwork is None:
        return made
    wide, high = job.artwork.cropped
    return made.replace(piece=made.piece.replace(shape=Rectangle(width=wide, height=high)))
