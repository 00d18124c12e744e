"""The one list of pieces where they lie; all that is printed or cut for them comes from it."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import NamedTuple, TypeVar

from shapely import affinity
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.pockets import Pocket, footprint, piece_on_bed
from farbe.layout.prints import Allotment, PocketPrint, one_print

Turnable = TypeVar("Turnable", bound=BaseGeometry)


@dataclass(frozen=True)
class Form:
    """What pieces that lie alike have in common.

    Attributes
    ----------
    number : among the forms of a job, from 0
    outline : of a piece as it lies, seen from above, in mm around its middle
    straight : the same before it is turned by itself
    size : width and height in mm that it takes as it lies
    """

    number: int
    outline: Polygon
    straight: Polygon
    size: tuple[float, float]


class LaidPiece(NamedTuple):
    """A place for one piece, and what is printed there.

    It says all that its place and its form say; there are thousands of them.

    Attributes
    ----------
    pocket : the place
    job : whose piece it is
    what : what it prints; None if nothing
    lies : how the piece lies; those of one form differ in their print alone
    """

    pocket: Pocket
    job: Faced
    what: PocketPrint | None
    lies: Form

    @property
    def number(self) -> int:
        """From 1."""
        return self.pocket.number

    @property
    def column(self) -> int:
        """Place in a grid, from 0."""
        return self.pocket.column

    @property
    def row(self) -> int:
        """Place in a grid, from 0."""
        return self.pocket.row

    @property
    def x(self) -> float:
        """Its middle in mm to the right of the bed's near left corner."""
        return self.pocket.x

    @property
    def y(self) -> float:
        """Its middle in mm away from the bed's near left corner."""
        return self.pocket.y

    @property
    def on(self) -> bool:
        """Whether it is used."""
        return self.pocket.on

    @property
    def turn(self) -> float:
        """Degrees, anticlockwise, by which its print is turned besides how all pieces lie."""
        return self.pocket.turn

    @property
    def form(self) -> int:
        """Which of the job's forms it has."""
        return self.lies.number

    @property
    def outline(self) -> Polygon:
        """The piece as it lies, seen from above, in mm around its middle."""
        return self.lies.outline

    @property
    def straight(self) -> Polygon:
        """The same before it is turned by itself."""
        return self.lies.straight

    @property
    def size(self) -> tuple[float, float]:
        """Width and height in mm that it takes as it lies."""
        return self.lies.size

    @property
    def shown(self) -> int:
        """Its number as guide, ticket and cutting file say it; no other on the board has it."""
        return self.number + self.job.jig.count_from - 1

    def around(self, shape: Turnable) -> Turnable:
        """What is drawn around a straight piece, as it lies around this one.

        Parameters
        ----------
        shape : in mm around the piece's middle
        """
        if not self.turn:
            return shape
        turned: Turnable = affinity.rotate(shape, self.turn, origin=(0.0, 0.0))
        return turned

    @property
    def of(self) -> Faced:
        """The job as this piece alone sees it; only on film do pieces differ in their shape."""
        what = self.what
        return self.job if what is None or what.turned is None else one_print(self.job, what)


@lru_cache(maxsize=8)
def allotted(job: Faced) -> Allotment:
    """What each place prints. Two readers of a piece have artworks and words for every place.

    Parameters
    ----------
    job : the face whose reader is meant

    Returns
    -------
    By the number of each place; see :class:`Allotment`.
    """
    one = carrier_of(job)
    seen = job.other if job.two_readers else None
    own = one.allotment(job)
    if seen is None:
        return own
    other, prints = one.allotment(seen), {}
    for number in sorted(own.prints.keys() | other.prints.keys()):
        mine = own.prints.get(number) or PocketPrint(None, job.placing, ())
        prints[number] = replace(mine, opposite=other.prints.get(number))
    return Allotment(prints, own.empty, own.missing)


def counted(job: Faced) -> Counter[str]:
    """How often each artwork is printed, by its key.

    Parameters
    ----------
    job : the face whose reader is meant
    """
    return allotted(job).counted


def different(job: Faced) -> tuple[tuple[PocketPrint, tuple[int, ...]], ...]:
    """Every different print, in the order of the first place that has it.

    Parameters
    ----------
    job : the face whose reader is meant

    Returns
    -------
    What is printed, and the numbers of the places that print it; none without places.
    """
    return allotted(job).different


@lru_cache(maxsize=8)
def places(job: Faced) -> tuple[LaidPiece, ...]:
    """All places of a job in the order of their numbers, those that are off as well.

    Parameters
    ----------
    job : as one of its faces has it

    Returns
    -------
    Numbered from 1, in the order of their numbers.

    Raises
    ------
    TypeError
        If nothing carries the job's medium.
    """
    prints = allotted(job).prints
    forms: dict[object, Form] = {}
    found = []
    for pocket in carrier_of(job).places(job):
        what = prints.get(pocket.number)
        own = _form_of(what)
        key = own, pocket.turn
        if key not in forms:
            of = job if what is None or own is None else one_print(job, what)
            forms[key] = _form(len(forms), of, pocket.turn)
        found.append(LaidPiece(pocket, job, what, forms[key]))
    return tuple(found)


def _form(number: int, of: Faced, turn: float) -> Form:
    straight = piece_on_bed(of)
    if not turn:
        return Form(number, straight, straight, footprint(of.jig, of.piece.shape))
    outline = affinity.rotate(straight, turn, origin=(0.0, 0.0))
    left, bottom, right, top = outline.bounds
    # Around its middle, about which it is laid down.
    size = 2 * max(-left, right), 2 * max(-bottom, top)
    return Form(number, outline, straight, size)


def _form_of(what: PocketPrint | None) -> object:
    """What a piece's form follows from, where it is its artwork's; None for the job's own."""
    if what is None or what.turned is None or what.artwork is None:
        return None
    return what.artwork.cropped, what.turned


@lru_cache(maxsize=8)
def laid(job: Faced) -> tuple[LaidPiece, ...]:
    """The pieces that are laid down, where the job says.

    Parameters
    ----------
    job : as one of its faces has it

    Returns
    -------
    Those of :func:`places` that are on, or of them those that are printed again.
    """
    again = job.job.again
    wanted = None if again is None else frozenset(again.numbers)
    return tuple(
        piece for piece in places(job)
        if piece.on and (wanted is None or piece.number in wanted)
    )  # fmt: skip


@lru_cache(maxsize=8)
def printed(job: Faced) -> tuple[LaidPiece, ...]:
    """The pieces that get a print, where they were found to be.

    Artwork, texts and all marks that belong to a piece are printed there; guide and cutting
    file stay with :func:`laid`.

    Parameters
    ----------
    job : as one of its faces has it

    Raises
    ------
    BadInput
        If what was measured cannot be followed.
    """
    found = carrier_of(job).found(job)
    pieces = (piece for piece in laid(job) if piece.what is not None)
    if found is None:
        return tuple(pieces)
    moved = ((piece, found.moved(piece.x, piece.y)) for piece in pieces)
    return tuple(
        one._replace(pocket=one.pocket._replace(x=x, y=y, turn=one.turn + found.rotation))
        for one, (x, y) in moved
    )


def first_print(job: Faced) -> PocketPrint:
    """What the first place prints that prints at all; else what none does.

    Parameters
    ----------
    job : as one of its faces has it

    Returns
    -------
    A print; without artwork if there is none.
    """
    seen = job.other if job.two_readers else None
    other = None if seen is None else PocketPrint(None, seen.placing, ())
    none = PocketPrint(None, job.placing, (), other)
    return next(iter(allotted(job).prints.values()), none)
