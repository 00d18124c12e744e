"""Boards with pockets on the bed, and rollers in their place."""

from __future__ import annotations

from farbe.layout.bedframe import board_on_bed
from farbe.layout.body import on_rollers
from farbe.layout.carrier import Base, Carrier, Found, Handwork, carrier
from farbe.layout.correction import fitted_correction
from farbe.layout.faced import Faced
from farbe.layout.figures import bare_length, measure
from farbe.layout.pockets import Pocket, bed_pockets
from farbe.layout.prints import Allotment, over_pockets
from farbe.layout.shapewords import shape_words
from farbe.layout.sides import needs_own_guide
from farbe.layout.strip import LaidStrip, strip_on_board
from farbe.model.medium import Bed
from farbe.model.patch import Patch
from farbe.said import say, spoken

#: How far the label stands in from the board's corner, in mm.
INSET = 3.0


@carrier
class OnBed(Carrier):
    """A board with pockets."""

    medium = Bed
    word, thing = "bed", "bed"
    has_guide = True
    nothing_lies = say("All pockets are switched off; switch one on at the station Bed.")

    def size(self, job: Faced) -> tuple[float, float]:
        return job.printer.bed_width, job.printer.bed_height

    def places(self, job: Faced) -> tuple[Pocket, ...]:
        return bed_pockets(job)

    def allotment(self, job: Faced) -> Allotment:
        return over_pockets(job, [pocket for pocket in bed_pockets(job) if pocket.on])

    def found(self, job: Faced) -> Found | None:
        correction = job.correction
        if correction is None or not correction.on:
            return None
        return fitted_correction(job, correction)

    def base(self, job: Faced) -> Base:
        left, bottom, right, top = board_on_bed(job.jig.board, job.jig.datum, job.printer)
        return Base(left, bottom, right - left, top - bottom, job.jig.board.colour)

    def label_corner(self, job: Faced) -> tuple[float, float]:
        base = self.base(job)
        return base.x + INSET, base.y + INSET

    def strips(self, job: Faced, patches: tuple[Patch, ...]) -> tuple[LaidStrip, ...]:
        return strip_on_board(job, patches)

    def words(self, job: Faced, count: int) -> str:
        piece = job.piece
        high = say(", {height} high", height=bare_length(piece.height)) if piece.height else ""
        return f"{count} × {spoken(piece.name)}, {shape_words(piece)}{high}"

    def material_cost(self, job: Faced) -> float:
        return 0.0

    def loading(self, job: Faced, count: int) -> tuple[Handwork, ...]:
        return ()

    def turning_over(self, job: Faced, count: int) -> tuple[Handwork, ...]:
        turning = job.turning
        if turning is None:
            return ()
        what = say("the board") if turning.board else say("each piece")
        times = job.running.times
        seconds = times.turn_board if turning.board else count * times.turn
        waits = say(" and laid beside the bed") if needs_own_guide(job) else ""
        words = f"{what}, {turning.turn.words}{waits}"
        return (Handwork(say("Turn the pieces over"), words, seconds, run="turn"),)

    def taking_off(self, job: Faced, count: int) -> Handwork:
        seconds = count * job.running.times.place / 2
        return Handwork(say("Take out the pieces"), say("when the ink is dry"), seconds)


@carrier
class OnRollers(OnBed):
    """Rollers that turn round bodies, in the places of the jig; they need no guide."""

    has_guide = False

    def no_strip(self, job: Faced) -> str:
        return say("round bodies have no board that it could lie on")

    def carries(self, job: Faced) -> bool:
        return super().carries(job) and on_rollers(job)

    def loading(self, job: Faced, count: int) -> tuple[Handwork, ...]:
        words = say(
            "{count} × {piece}, the print's middle up", count=count, piece=spoken(job.piece.name)
        )
        height, times = job.piece.height, job.running.times
        return (
            Handwork(say("Put them on the rollers"), words, count * times.place, run="place"),
            Handwork(
                say("Set the height"),
                say("head over {height}, surface level", height=measure(height)),
                times.height,
                height=height,
            ),
        )
