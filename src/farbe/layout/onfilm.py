"""Film and fabric from a roll: every artwork is a piece of its own."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from farbe.layout.carrier import Base, Carrier, Found, Handwork, carrier
from farbe.layout.faced import Faced
from farbe.layout.figures import measure, number, sizes
from farbe.layout.lengths import STRIP_GAP, STRIP_WIDE, strip_room
from farbe.layout.onbed import INSET
from farbe.layout.pockets import Pocket
from farbe.layout.prints import Allotment, PocketPrint, texts_of
from farbe.layout.rolls import film_length, missing, roll_of_face, sheet_lengths
from farbe.layout.strip import LaidStrip
from farbe.model.patch import Patch
from farbe.model.piece import Reader
from farbe.model.placing import Placing
from farbe.model.roll import Roll
from farbe.said import say, spoken

#: What a clear film looks like over the press.
FILM = "#c9cdd0"


@dataclass(frozen=True)
class Shifted:
    """Side B on film, moved and turned against what it was found to lie off."""

    x: float
    y: float
    rotation: float

    def moved(self, x: float, y: float) -> tuple[float, float]:
        """A place in mm, moved.

        Parameters
        ----------
        x : mm along the film
        y : mm across it
        """
        return x + self.x, y + self.y


@carrier
class OnFilm(Carrier):
    """A length of film."""

    medium = Roll
    word, thing = "roll", "film"
    has_guide = False
    one_sheet = True
    nothing_lies = say("Nothing lies on the film; add artworks and nest them.")
    nothing_prints = say("What lies on the film is no artwork of the job any more; nest anew.")

    def size(self, job: Faced) -> tuple[float, float]:
        return roll_of_face(job).width, film_length(job)

    def places(self, job: Faced) -> tuple[Pocket, ...]:
        return _places(job)

    def allotment(self, job: Faced) -> Allotment:
        """What lies on the film; artworks that the job no longer has are left out.

        Parameters
        ----------
        job : as one of its faces has it
        """
        roll, known = roll_of_face(job), {art.key: art for art in job.artworks}
        # What was found to be off is side A's measure; side B is made to fit it.
        scale = 100.0 - roll.offset.scale if job.came_up is not None else 100.0
        prints = {
            row + 1: PocketPrint(
                known[lies.artwork], Placing(scale=scale), texts_of(job, row + 1, row),
                turned=lies.turned,
            )
            for row, lies in enumerate(roll.places)
            if lies.artwork in known
        }  # fmt: skip
        short = tuple((art, count) for art, count in missing(job) if count > 0)
        return Allotment(prints, (), short)

    def found(self, job: Faced) -> Found | None:
        off = roll_of_face(job).offset
        if job.came_up is None or (off.x, off.y, off.rotation) == (0.0, 0.0, 0.0):
            return None
        return Shifted(-off.x, -off.y, -off.rotation)

    def base(self, job: Faced) -> Base:
        colour = FILM if job.reader is not Reader.FACE else job.piece.surface.colour
        return Base(0, 0, *self.size(job), colour)

    def label_corner(self, job: Faced) -> tuple[float, float]:
        # In the lead, before what lies on the film.
        return max(roll_of_face(job).side, INSET), INSET

    def no_strip(self, job: Faced) -> str:
        if job.two_sided:
            return say("film with two sides has no place for it")
        narrow = roll_of_face(job).room < STRIP_WIDE
        return say("the film is too narrow for it") if narrow else ""

    def strips(self, job: Faced, patches: tuple[Patch, ...]) -> tuple[LaidStrip, ...]:
        """Behind all that lies on a sheet, where its length leaves room for it.

        Parameters
        ----------
        job : on film, as its first face has it
        patches : of the strip
        """
        roll, found, start = roll_of_face(job), list[LaidStrip](), 0.0
        columns = min(len(patches), int(roll.room / STRIP_WIDE))
        for length in sheet_lengths(job):
            start += length
            y = start - roll.trail - strip_room(job.job) + STRIP_GAP
            found.append(LaidStrip(roll.side, y, columns, patches))
        return tuple(found)

    def words(self, job: Faced, count: int) -> str:
        film = sizes(roll_of_face(job).width, film_length(job), digits=0)
        return say(
            "{count} × {piece} on film, {film}",
            count=count,
            piece=spoken(job.piece.name),
            film=film,
        )

    def material_cost(self, job: Faced) -> float:
        return film_length(job) / 1000.0 * roll_of_face(job).price

    def loading(self, job: Faced, count: int) -> tuple[Handwork, ...]:
        metres = number(film_length(job) / 1000)
        words = say(
            "{width} wide, {metres} m of it", width=measure(roll_of_face(job).width), metres=metres
        )
        return (Handwork(say("Load the film"), words, job.running.times.load_film),)

    def turning_over(self, job: Faced, count: int) -> tuple[Handwork, ...]:
        sheets = len(sheet_lengths(job))
        words = say("cut it off, turn it over, load it with its last end first")
        if sheets > 1:
            words = say("{words}; each of {sheets} sheets", words=words, sheets=sheets)
        return (
            Handwork(
                say("Turn the film over"),
                words,
                sheets * job.running.times.turn_film,
                run="turn",
                confirmed=True,
            ),
        )

    def taking_off(self, job: Faced, count: int) -> Handwork:
        return Handwork(
            say("Cut the film"),
            say("between {count} pieces", count=count),
            count * job.running.times.cut,
        )


@lru_cache(maxsize=16)
def _places(job: Faced) -> tuple[Pocket, ...]:
    """The places of artworks along a roll's film, sheet after sheet, numbered from 1."""
    starts = [0.0]
    for length in sheet_lengths(job):
        starts.append(starts[-1] + length)
    known = {art.key for art in job.artworks}
    return tuple(
        Pocket(number, 0, number - 1, lies.x, lies.y + starts[lies.sheet], lies.artwork in known)
        for number, lies in enumerate(roll_of_face(job).places, start=1)
    )
