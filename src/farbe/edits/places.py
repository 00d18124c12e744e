"""Edits of pockets that are told one by one, each one step to undo."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Set

from farbe.edits.document import Editor
from farbe.edits.values import with_jig
from farbe.layout.bedframe import from_bed
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.guide import jig_code
from farbe.layout.laid import LaidPiece, places
from farbe.layout.pockets import bed_pockets, by_rows
from farbe.model.base import BadInput
from farbe.model.face import Face
from farbe.model.jig import MadeGuide, Place
from farbe.said import Spoken, say, say_count

_NONE_LEFT = say("A jig has one pocket at least; go back to a grid instead.")


class Edge(Spoken):
    """What of pieces is aligned, as the operator stands before the bed."""

    LEFT = "left edges"
    COLUMN = "middles in a column"
    RIGHT = "right edges"
    FAR = "far edges"
    ROW = "middles in a row"
    NEAR = "near edges"

    @property
    def upright(self) -> bool:
        """Whether pieces come to stand in a column."""
        return self in (Edge.LEFT, Edge.COLUMN, Edge.RIGHT)


def own_places(job: Faced) -> tuple[Place, ...]:
    """The pockets of a job's pieces one by one, those of a grid as well.

    Parameters
    ----------
    job : as one of its faces has it
    """
    jig = job.jig
    if jig.places:
        return tuple(place for place in jig.places if place.kind == jig.kind)
    found = []
    for pocket in bed_pockets(job.first):
        x, y = from_bed(jig.datum, job.printer, pocket.x, pocket.y)
        found.append(Place(x=round(x, 4), y=round(y, 4), kind=jig.kind))
    return tuple(found)


def _all_places(job: Faced) -> tuple[Place, ...]:
    """All pockets of the board in the order of their numbers, those of a grid as well."""
    return job.jig.places or own_places(job)


def with_places(job: Faced, own: Iterable[Place]) -> Faced:
    """The job with other pockets for its pieces; those of other kinds stay.

    Parameters
    ----------
    job : as one of its faces has it
    own : the pockets of its kind, in the order of their numbers

    Raises
    ------
    BadInput
        If there are none, or too many.
    """
    kind, mine = job.jig.kind, [place.model_copy(update={"kind": job.jig.kind}) for place in own]
    if not mine:
        raise BadInput(_NONE_LEFT)
    made, rest = list[Place](), iter(mine)
    for place in job.jig.places:
        if place.kind != kind:
            made.append(place)
        elif (one := next(rest, None)) is not None:
            made.append(one)
    return with_jig(job, places=(*made, *rest))


def _renumbered(job: Faced, was: Mapping[int, int]) -> Faced:
    """What goes by numbers of pockets, by their new ones."""

    def of_face(face: Face) -> Face:
        changes = (one.replace(pocket=was[one.pocket]) for one in face.changes if one.pocket in was)
        correction = face.correction
        if correction is not None:
            points = (p.replace(pocket=was[p.pocket]) for p in correction.points if p.pocket in was)
            kept = tuple(sorted(points, key=lambda point: point.pocket))
            correction = correction.replace(points=kept) if kept else None
        return face.replace(
            changes=tuple(sorted(changes, key=lambda one: one.pocket)), correction=correction
        )

    off = frozenset(was[number] for number in job.jig.off if number in was)
    faces = tuple(of_face(face) for face in job.job.faces)
    return Faced(job.job.replace(faces=faces, jig=job.jig.replace(off=off)), job.number)


def one_by_one(document: Editor) -> None:
    """Tell the pockets of a grid one by one, where they are.

    Parameters
    ----------
    document : the job that is worked on
    """
    document.edit(say("Pockets one by one"), lambda job: with_places(job, own_places(job)))


def on_a_grid(document: Editor) -> None:
    """Go back to the grid that there was.

    Parameters
    ----------
    document : the job that is worked on
    """
    document.edit(say("Pockets on a grid"), lambda job: with_jig(job, places=(), kinds=(), kind=0))


def set_places(document: Editor, told: tuple[Place, ...]) -> None:
    """Put the pockets of the job's pieces where a table tells.

    Parameters
    ----------
    document : the job that is worked on
    told : in the order of their numbers
    """
    words = say_count(len(told), "{count} pocket from a table", "{count} pockets from a table")
    document.edit(words, lambda job: with_places(job, told))


def change_places(job: Faced, numbers: Set[int], change: Callable[[int, Place], Place]) -> Faced:
    """The job with some of its pockets changed.

    Parameters
    ----------
    job : as one of its faces has it
    numbers : of the pockets
    change : from a number and its place to another place
    """
    told = enumerate(_all_places(job), start=1)
    return with_jig(
        job, places=tuple(change(n, place) if n in numbers else place for n, place in told)
    )


def drag_places(document: Editor, start: Faced, numbers: Set[int], by: tuple[float, float]) -> None:
    """Move pockets by so many mm from where they were when the drag began.

    Parameters
    ----------
    document : the job that is worked on
    start : the job when the drag began
    numbers : of the pockets, from 1
    by : mm along the datum's axes
    """
    before = _all_places(start)

    def moved(number: int, _: Place) -> Place:
        was = before[number - 1]
        return was.replace(x=round(was.x + by[0], 1), y=round(was.y + by[1], 1))

    document.edit(say("Move pockets"), lambda job: change_places(job, numbers, moved), joins=True)


def nudge_places(document: Editor, numbers: Set[int], by: tuple[float, float]) -> None:
    """Move pockets by so many mm.

    Parameters
    ----------
    document : the job that is worked on
    numbers : of the pockets, from 1
    by : mm along the datum's axes
    """

    def moved(_: int, place: Place) -> Place:
        return place.replace(x=round(place.x + by[0], 3), y=round(place.y + by[1], 3))

    document.edit(say("Nudge pockets"), lambda job: change_places(job, numbers, moved), joins=True)


def turn_places(document: Editor, numbers: Set[int], degrees: float) -> None:
    """Turn pieces, each about its middle.

    Parameters
    ----------
    document : the job that is worked on
    numbers : of the pockets, from 1
    degrees : anticlockwise, besides how they are turned
    """

    def turned(_: int, place: Place) -> Place:
        return place.replace(turn=round((place.turn + degrees) % 360.0, 4))

    document.edit(say("Turn pockets"), lambda job: change_places(job, numbers, turned), joins=True)


def add_place(document: Editor, at: tuple[float, float] | None = None) -> None:
    """Add a pocket.

    Parameters
    ----------
    document : the job that is worked on
    at : mm from the datum; beside the last one if not given
    """

    def change(job: Faced) -> Faced:
        told = _all_places(job)
        if at is not None:
            one = Place(x=round(at[0], 1), y=round(at[1], 1), kind=job.jig.kind)
        else:
            last = own_places(job)[-1]
            step = job.piece.shape.width + job.jig.gap_x
            one = last.replace(x=round(last.x + step, 4))
        return with_jig(job, places=(*told, one))

    document.edit(say("Add a pocket"), change)


def repeat_places(
    document: Editor, numbers: Set[int], columns: int, rows: int, step: tuple[float, float]
) -> None:
    """Repeat pockets as a grid, beside the grids that there are.

    Parameters
    ----------
    document : the job that is worked on
    numbers : of the pockets that are repeated, from 1
    columns, rows : how many there are then, with those that are repeated
    step : mm from one to the next, along the datum's axes
    """

    def change(job: Faced) -> Faced:
        told = _all_places(job)
        chosen = [told[number - 1] for number in sorted(numbers)]
        more = (
            place.replace(x=round(place.x + column * step[0], 4),
                          y=round(place.y + row * step[1], 4))
            for row in range(rows)
            for column in range(columns)
            if row or column
            for place in chosen
        )  # fmt: skip
        return with_jig(job, places=(*told, *more))

    document.edit(say("Repeat pockets"), change)


def remove_places(document: Editor, numbers: Set[int]) -> None:
    """Take pockets away; those behind them move up.

    Parameters
    ----------
    document : the job that is worked on
    numbers : of the pockets, from 1

    Raises
    ------
    BadInput
        If none were left; a document says so.
    """

    def change(job: Faced) -> Faced:
        told = _all_places(job)
        kept = [number for number in range(1, len(told) + 1) if number not in numbers]
        places_ = tuple(told[number - 1] for number in kept)
        if not any(place.kind == job.jig.kind for place in places_):
            raise BadInput(_NONE_LEFT)
        now = {number: at for at, number in enumerate(kept, start=1)}
        return _renumbered(with_jig(job, places=places_), now)

    words = say_count(len(numbers), "Remove a pocket", "Remove {count} pockets")
    document.edit(words, change)


def align_places(document: Editor, numbers: Set[int], edge: Edge) -> None:
    """Align pieces by their edges or middles with the outermost of them, or the first.

    Parameters
    ----------
    document : the job that is worked on
    numbers : of the pockets, from 1
    edge : what is aligned
    """

    def line(piece: LaidPiece) -> float:
        left, bottom, right, top = piece.outline.bounds
        lines: dict[Edge, float] = {
            Edge.LEFT: piece.x + left, Edge.RIGHT: piece.x + right, Edge.COLUMN: piece.x,
            Edge.NEAR: piece.y + bottom, Edge.FAR: piece.y + top, Edge.ROW: piece.y,
        }  # fmt: skip
        return lines[edge]

    def change(job: Faced) -> Faced:
        lines = {p.number: line(p) for p in places(job.first) if p.number in numbers}
        goal = {Edge.LEFT: min, Edge.NEAR: min, Edge.RIGHT: max, Edge.FAR: max}.get(edge)
        to = goal(lines.values()) if goal else lines[min(lines)]
        return _moved_on_bed(job, {number: to - at for number, at in lines.items()}, edge.upright)

    document.edit(say("Align pockets: {edge}", edge=edge.words), change)


def spread_places(document: Editor, numbers: Set[int], *, across: bool) -> None:
    """Put the middles of pieces at even distances between the outermost two.

    Parameters
    ----------
    document : the job that is worked on
    numbers : of the pockets, from 1
    across : from left to right, rather than from near to far
    """

    def change(job: Faced) -> Faced:
        found = [p for p in places(job.first) if p.number in numbers]
        at = {p.number: p.x if across else p.y for p in found}
        order = sorted(at, key=lambda number: at[number])
        first, last = at[order[0]], at[order[-1]]
        step = (last - first) / max(1, len(order) - 1)
        by = {number: first + n * step - at[number] for n, number in enumerate(order)}
        return _moved_on_bed(job, by, across)

    document.edit(say("Spread pockets evenly"), change)


def _moved_on_bed(job: Faced, by: Mapping[int, float], across: bool) -> Faced:
    """Pockets moved by mm to the right, or away."""
    datum, printer = job.jig.datum, job.printer
    zero = from_bed(datum, printer, 0, 0)

    def moved(number: int, place: Place) -> Place:
        x, y = from_bed(datum, printer, *((by[number], 0) if across else (0, by[number])))
        return place.replace(x=round(place.x + x - zero[0], 4), y=round(place.y + y - zero[1], 4))

    return change_places(job, by.keys(), moved)


def number_by_rows(document: Editor) -> None:
    """Count the pockets by rows from the datum; what is set apart goes with its pocket.

    Parameters
    ----------
    document : the job that is worked on
    """

    def change(job: Faced) -> Faced:
        told = _all_places(job)
        apart = min(job.piece.shape.width, job.piece.shape.height) / 2
        order = by_rows([(one.x, one.y) for one in told], apart)
        was = {at + 1: number for number, at in enumerate(order, start=1)}
        return _renumbered(with_jig(job, places=tuple(told[at] for at in order)), was)

    document.edit(say("Number by rows"), change)


def guide_was_made(document: Editor, of: Faced) -> None:
    """Note that the guide of a job was printed or cut, if it is the one that is open.

    Parameters
    ----------
    document : the job that is worked on
    of : the job whose guide was made
    """
    if not carrier_of(of.first).has_guide:
        return
    first = of.first
    made = MadeGuide(
        code=jig_code(first), jig=first.jig, shape=first.piece.shape, bed_turned=first.bed_turned
    )
    if document.job is not None and document.job.job == of.job and of.job.made_guide != made:
        document.edit(say("The guide was made"), lambda job: job.replace(made_guide=made))
