"""The press itself: a bed, what lies on it, and the films printed there."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
import numpy.typing as npt
from PIL import Image

from farbe.atomic import whole_file
from farbe.files.ticket import Ticket, TicketLayer, TicketRun, check_files, read_ticket
from farbe.model.base import BadInput
from farbe.press import film
from farbe.press.bed import SCALE as SCALE
from farbe.press.bed import Capability, LaidFilm, Lying, PressBed
from farbe.press.found import enclosed, marked
from farbe.press.pictures import (
    PressLight,
    PressPicture,
    bare_light,
    bed_light,
    by_day,
    from_behind,
    ground_of,
    lamp_light,
    linear,
    shown,
    through_piece,
)
from farbe.press.plates import Coverage, read_plates
from farbe.press.truth import TrueInks, true_inks
from farbe.said import say

#: Of so many of the press's pixels along the bed, one stays bare where a nozzle is out.
BARE_LINE = 18
#: Number of what is the bed as a whole, where a piece's may be.
WHOLE = -1


class TestPress:
    """A press that does what files and ticket say, or says why not."""

    __test__ = False  # for pytest: no test, in spite of the name

    def __init__(self, capability: Capability | None = None, inks: TrueInks | None = None) -> None:
        self.capability = capability or Capability()
        #: What its inks really do, and how many films it has laid down.
        self.inks = inks or true_inks()
        self.films = 0
        #: Inks with a nozzle that fires no more: a line of each swath stays bare.
        self.nozzles_out: frozenset[str] = frozenset()
        #: How far film lies off when it is loaded turned over, in mm, and whether its lines are
        #: seen.
        self.slip: tuple[float, float] = (0.0, 0.0)
        self.finds_lines = True
        self._bed: PressBed | None = None

    @property
    def loaded(self) -> PressBed | None:
        """What lies on the bed, if anything."""
        return self._bed

    @property
    def bed(self) -> PressBed:
        """The bed as it is now.

        Raises
        ------
        BadInput
            If no hand-off was sent.
        """
        if self._bed is None:
            raise BadInput(say("The press has no hand-off to print; send one first."))
        return self._bed

    def take(self, folder: Path, *, keep_board: bool = False, keep_film: bool = False) -> Ticket:
        """Take a hand-off; the bed is cleared for it.

        Parameters
        ----------
        folder : the hand-off
        keep_board : the board and its printed guide stay, for another run on the same jig
        keep_film : the film stays with what is printed on both of its sides; it comes to lie as
            it was loaded first, to be turned over again

        Returns
        -------
        The ticket of the hand-off that is on the bed now.

        Raises
        ------
        BadInput
            For what this press cannot print, before anything is printed.
        """
        ticket = read_ticket(folder)
        self._refuse_unfit(ticket)
        check_files(folder, ticket)
        before, film_before = self._bed if keep_board else None, self._bed if keep_film else None
        self._bed = PressBed(ticket, folder)
        if ticket.medium == "roll":
            # What is printed on a roll is there from the start.
            self._bed.pieces = [Lying(p.x, p.y, p.piece) for p in ticket.pockets]
        if before is not None:
            self._bed.on_board, self._bed.guide_code = before.on_board, before.guide_code
        if film_before is not None:
            over = film_before.behind is not None
            self._bed.on_pieces = list(film_before.behind or film_before.on_pieces)
            self._bed.other_side = film_before.on_pieces if over else film_before.other_side
        return ticket

    def _refuse_unfit(self, ticket: Ticket) -> None:
        """Refuse what this press cannot print, before anything is printed."""
        can = self.capability
        if ticket.medium == "roll" and ticket.bed_width > can.roll_width:
            raise BadInput(
                say(
                    "The film is {bed_width} mm wide; this press takes {roll_width} mm.",
                    bed_width=f"{ticket.bed_width:g}",
                    roll_width=f"{can.roll_width:g}",
                )
            )
        if ticket.medium == "bed" and (
            ticket.bed_width > can.bed_width or ticket.bed_height > can.bed_height
        ):
            raise BadInput(
                say(
                    "The files are for a bed of {wide} × {high} mm; this one has "
                    "{own_wide} × {own_high}.",
                    wide=f"{ticket.bed_width:g}",
                    high=f"{ticket.bed_height:g}",
                    own_wide=f"{can.bed_width:g}",
                    own_high=f"{can.bed_height:g}",
                )
            )
        if ticket.height > can.head_height:
            raise BadInput(
                say(
                    "The piece is {height} mm high; the head clears {head_height} mm.",
                    height=f"{ticket.height:g}",
                    head_height=f"{can.head_height:g}",
                )
            )
        self._refuse_outside(ticket)
        for run in ticket.runs:
            for layer in run.layers:
                for name in layer.inks:
                    if name.casefold() not in can.inks:
                        raise BadInput(say("The press has no ink named {name}.", name=name))

    @staticmethod
    def _refuse_outside(ticket: Ticket) -> None:
        for pocket in ticket.pockets:
            xs, ys = zip(*ticket.pieces[pocket.piece].outline, strict=True)
            if (
                pocket.x + min(xs) < -1e-6
                or pocket.y + min(ys) < -1e-6
                or pocket.x + max(xs) > ticket.bed_width + 1e-6
                or pocket.y + max(ys) > ticket.bed_height + 1e-6
            ):
                raise BadInput(say("Pocket {pocket} lies outside the bed.", pocket=pocket.number))

    def print_run(
        self, name: str, report: Callable[[str, float], None], *, until: int | None = None
    ) -> None:
        """Print a run, layer by layer.

        A run that ``report`` stopped goes on with the layer that it was stopped in.

        Parameters
        ----------
        name : of the run
        report : hears layer and share, 0 to 1
        until : so many layers, and no more; None prints the run to its end

        Raises
        ------
        BadInput
            If the ticket has no such run, it is not its turn or printed already, or its file is
            not what the ticket says.
        """
        bed = self.bed
        run = bed.ticket.run(name)
        what = run.what
        guide = what.startswith("guide")
        if what.endswith("-back") is (bed.behind is None):
            turned = (
                say("are not turned over yet")
                if bed.behind is None
                else say("are turned over already")
            )
            raise BadInput(
                say(
                    "The pieces {turned}; the {what} cannot be printed now.",
                    turned=turned,
                    what=what,
                )
            )
        if not guide and not bed.pieces:
            raise BadInput(say("There are no pieces on the bed; put them in first."))
        if not guide and bed.guide_code not in (None, run.jig_code):
            raise BadInput(
                say(
                    "The artwork is for the jig {jig_code}; the guide on the board is "
                    "{guide_code}.",
                    jig_code=run.jig_code,
                    guide_code=bed.guide_code,
                )
            )
        self._refuse_early(bed, run)
        if name in bed.complete:
            raise BadInput(
                say(
                    "{name} is printed already; send the job anew to print it once more.", name=name
                )
            )
        plates = self._plates(bed, run, lambda done: report("reading", done))
        if bed.ticket.medium == "roll" and bed.behind is not None:
            plates = self._by_lines(bed, plates)
        target = bed.on_board if guide else bed.on_pieces
        if guide:
            bed.guide_code = run.jig_code
        for place, layer in enumerate(run.layers):
            if place < bed.begun.get(name, 0):
                continue
            if place == until:
                return
            report(layer.name, 0.0)
            target.append(self._uneven(self._with_nozzles(_film(layer, plates))))
            bed.begun[name] = place + 1
            report(layer.name, 1.0)
        bed.begun.pop(name, None)
        bed.complete.add(name)

    def _with_nozzles(self, film: LaidFilm) -> LaidFilm:
        """A film as it is laid down with the nozzles that there are."""
        if not self.nozzles_out & film.coverage.keys():
            return film
        coverage = dict(film.coverage)
        for ink in self.nozzles_out & coverage.keys():
            plate = coverage[ink].copy()
            plate[BARE_LINE::BARE_LINE] = 0.0
            coverage[ink] = plate
        return LaidFilm(film.kind, coverage, film.hits)

    def _uneven(self, film: LaidFilm) -> LaidFilm:
        """A film as this machine lays it down, a little more here and less there."""
        self.films += 1
        factor = self.inks.uneven_field(self.bed.shape, self.bed.scale, self.films)
        if factor is None:
            return film
        coverage = {ink: np.clip(plate * factor, 0, 1) for ink, plate in film.coverage.items()}
        return LaidFilm(film.kind, coverage, film.hits)

    @staticmethod
    def _refuse_early(bed: PressBed, run: TicketRun) -> None:
        """Layers that have runs of their own come in the ticket's order."""
        for other in bed.ticket.runs:
            if other.name == run.name:
                return
            if other.what == run.what and other.name not in bed.complete:
                raise BadInput(
                    say(
                        "The run {other} comes before {run}; print it first.",
                        other=other.name,
                        run=run.name,
                    )
                )

    def _plates(
        self, bed: PressBed, run: TicketRun, report: Callable[[float], None]
    ) -> dict[str, Coverage]:
        files = [file for file in run.files if file.format == "tiff"]
        if not files:
            raise BadInput(say("This press prints TIFF files; the ticket names none."))
        plates: dict[str, Coverage] = {}
        for index, file in enumerate(files):
            read, (width, height) = read_plates(
                bed.folder / file.name,
                file.channels,
                bed.scale,
                lambda x, i=index: report((i + x) / len(files)),  # type: ignore[misc]
            )
            pixel = 25.4 / min(run.dpi_x, run.dpi_y)
            if width > bed.ticket.bed_width + pixel or height > bed.ticket.bed_height + pixel:
                raise BadInput(
                    say(
                        "{file} is {width} × {height} mm, larger than the bed; it is not printed.",
                        file=file.name,
                        width=f"{width:.1f}",
                        height=f"{height:.1f}",
                    )
                )
            plates |= read
        missing = [n for layer in run.layers for n in layer.channels if n not in plates]
        if missing:
            raise BadInput(
                say(
                    "{files} has no channel named {missing}.",
                    files=files[0].name,
                    missing=missing[0],
                )
            )
        down, across = bed.shape
        laid = {}
        for name, plate in plates.items():
            whole = np.zeros((down, across), np.float32)
            # Files lie with their lower left corner on the datum.
            part = plate[-min(down, len(plate)) :, :across]
            whole[down - len(part) :, : part.shape[1]] = part
            laid[name] = np.ascontiguousarray(whole[:, ::-1]) if run.receiver_mirrors else whole
        return laid

    def place(self) -> int:
        """Put pieces where the printed guide shows pockets; without one, by the ticket's figures.

        Returns
        -------
        The number of pieces put in.
        """
        bed = self.bed
        if bed.on_board:
            bed.pieces = enclosed(bed) or marked(bed)
        else:
            bed.pieces = [Lying(p.x, p.y, p.piece) for p in bed.pockets]
        return len(bed.pieces)

    def turn_over(self) -> None:
        """Turn the pieces over as the ticket says: each in its pocket, or with the whole board.

        A turned board shows its bare back. Where the other side has a guide of its own, a fresh
        board is loaded for it and the pieces wait beside the bed.

        Raises
        ------
        BadInput
            If there is nothing to turn, or it is turned already.
        """
        bed = self.bed
        back = bed.ticket.back
        if back is None:
            raise BadInput(say("The ticket says nothing of another side."))
        if bed.behind is not None or not bed.pieces:
            raise BadInput(say("There are no pieces to turn over."))
        if bed.ticket.medium == "roll":
            self._turn_film(bed)
            return
        bed.behind, bed.on_pieces = bed.on_pieces, []
        if back.board:
            board = bed.ticket.board
            across, along = 2 * board.x + board.width, 2 * board.y + board.height
            sideways = back.turn == "sideways"
            bed.pieces = [
                Lying(across - p.x, p.y, p.kind) if sideways else Lying(p.x, along - p.y, p.kind)
                for p in bed.pieces
            ]
        own_guide = any(run.what == "guide-back" for run in bed.ticket.runs)
        if back.board or own_guide:
            bed.on_board, bed.guide_code = [], None
        if own_guide:
            bed.pieces = []

    def _turn_film(self, bed: PressBed) -> None:
        """Cut the film off, turn it over, load it with its last end first.

        Raises
        ------
        BadInput
            If side A is not complete.
        """
        for run in bed.ticket.runs:
            if not run.what.endswith("-back") and run.name not in bed.complete:
                raise BadInput(say("Side A is not done: {run} comes first.", run=run.name))
        bed.behind, bed.on_pieces = bed.on_pieces, list(bed.other_side)
        bed.slip, bed.moved = self.slip, None
        bed.pieces = [Lying(p.x + bed.slip[0], p.y + bed.slip[1], p.piece) for p in bed.pockets]

    def move_film(self, x: float, y: float) -> None:
        """Move what is printed next by mm, by hand, where no line is found.

        Parameters
        ----------
        x : mm to the right
        y : mm away

        Raises
        ------
        BadInput
            If there is no film that was turned over.
        """
        if self.bed.ticket.medium != "roll" or self.bed.behind is None:
            raise BadInput(say("Only film that was turned over is moved by hand."))
        self.bed.moved = (x, y)

    def _by_lines(self, bed: PressBed, plates: dict[str, Coverage]) -> dict[str, Coverage]:
        """Side B's plates where the lines of side A say, or the operator's hand."""
        side_a = np.max(
            [film.turned(plate, bed.slip, bed.scale)
             for laid in bed.behind or [] if laid.kind == "colour"
             for ink, plate in laid.coverage.items() if ink == "black"], axis=0,
        )  # fmt: skip
        offsets = {}
        for pocket in bed.pockets:
            off = bed.moved or film.line_offset(bed.ticket, pocket.number, side_a, bed.scale)
            if off is None or (not self.finds_lines and bed.moved is None):
                raise BadInput(
                    say(
                        "The line behind side A {pocket} is not found; move the film by hand "
                        "and go "
                        "on.",
                        pocket=pocket.number,
                    )
                )
            offsets[pocket.number] = off
        kinds = range(len(bed.ticket.back.outlines if bed.ticket.back else ()))
        sizes = [tuple(np.ptp(bed.outline(kind), axis=0).tolist()) for kind in kinds]
        size = bed.ticket.bed_height, film.REACH / 2
        return {
            name: film.laid_by_lines(plate, bed.pockets, sizes, offsets, size, bed.scale)
            for name, plate in plates.items()
        }

    def picture(self) -> PressPicture:
        """The bed from above, sRGB uint8 (height, width, 3), at most ``SCALE`` pixels per mm."""
        return shown(bed_light(self.bed, self.inks))

    def piece_light(self, of: str, number: int = 0, garment: int | None = None) -> PressLight:
        """What is seen of one finished piece, linear sRGB float32 (height, width, 3).

        Parameters
        ----------
        of : ``piece``, as it lies; ``turned``, seen through it from below; ``pressed``, a
            transfer on its garment after the carrier is peeled away; ``lit`` and ``lit turned``,
            before a lamp, seen from above and from below
        number : which one, in the order in which they were put in
        garment : which of the ticket's garments it is pressed onto

        Raises
        ------
        BadInput
            If there is no such piece or picture.
        """
        rows, columns = self._around(number)
        light = self._light(of, number, garment, lambda plane: plane[rows, columns])
        return light if of in ("piece", "lit") else np.ascontiguousarray(light[:, ::-1])

    def spot_light(
        self, of: str, spots: Sequence[tuple[float, float]], aperture: float, number: int = 0
    ) -> npt.NDArray[np.float64]:
        """What is seen of places of a finished piece, on the mean, linear sRGB float64 (n, 3).

        Parameters
        ----------
        of : as :meth:`piece_light` has it
        spots : x from the left and y from the top of that picture, mm
        aperture : side of what is looked at, mm
        number : of the piece; :data:`WHOLE` counts from the bed's corner

        Raises
        ------
        BadInput
            If there is no such piece or picture.
        """
        rows, columns = self._around(number)
        scale, side = self.bed.scale, max(1, round(aperture * self.bed.scale))
        windows = []
        for x, y in spots:
            down, right = round(y * scale - side / 2), round(x * scale - side / 2)
            if of not in ("piece", "lit"):
                right = columns.stop - columns.start - right - side
            top = min(max(rows.start, rows.start + down), max(rows.start, rows.stop - side))
            left = min(
                max(columns.start, columns.start + right), max(columns.start, columns.stop - side)
            )
            windows.append((slice(top, top + side), slice(left, left + side)))
        light = self._light(
            of, number, None, lambda plane: np.concatenate([plane[window] for window in windows])
        )
        return np.asarray(light.reshape(len(windows), -1, 3).mean(axis=1, dtype=np.float64))

    def _around(self, number: int) -> tuple[slice, slice]:
        """Rows and columns of a piece; BadInput if there is none of the number."""
        if number == WHOLE and self.bed.pieces:
            return slice(0, self.bed.shape[0]), slice(0, self.bed.shape[1])
        if not 0 <= number < len(self.bed.pieces):
            raise BadInput(say("There is no such piece on the bed."))
        return _around(self.bed, number)

    def _light(
        self,
        of: str,
        number: int,
        garment: int | None,
        part: Callable[[npt.NDArray[np.float32]], npt.NDArray[np.float32]],
    ) -> PressLight:
        """What is seen of a part of the bed, not turned over; ``part`` picks it of each plane."""
        bed = self.bed
        if garment is not None and not 0 <= garment < len(bed.ticket.garments):
            raise BadInput(say("There is no such garment in the order."))
        films = [
            LaidFilm(
                film.kind, {ink: part(plane) for ink, plane in film.coverage.items()}, film.hits
            )
            for film in bed.on_pieces
        ]
        if of == "piece":
            return by_day(films, part(bare_light(bed, self.inks)), self.inks)
        kind = bed.pieces[number].kind
        if of in ("lit", "lit turned"):
            lamp = part(lamp_light(bed, kind))
            return from_behind(films if of == "lit" else films[::-1], lamp, self.inks)
        if of not in ("turned", "pressed"):
            raise BadInput(say("The press has no picture of {of}.", of=of))
        ground = linear(ground_of(bed, of, kind, garment))
        light = part(np.full((*bed.shape, 3), ground, np.float32))
        clear = bed.ticket.pieces[kind].material == "clear"
        if of == "pressed" or clear:
            # What was printed last lies behind, and all is seen from the other side.
            light = by_day(films[::-1], light, self.inks)
        return through_piece(light) if of == "turned" and clear else light

    def piece_picture(self, of: str, number: int = 0, garment: int | None = None) -> PressPicture:
        """One finished piece, sRGB uint8 (height, width, 3), at most ``SCALE`` pixels per mm.

        Parameters
        ----------
        of : as :meth:`piece_light` has it
        number : which one, in the order in which they were put in
        garment : which of the ticket's garments it is pressed onto

        Raises
        ------
        BadInput
            If there is no such piece or picture.
        """
        return shown(self.piece_light(of, number, garment))

    def save_picture(
        self, path: Path, of: str = "bed", number: int = 0, garment: int | None = None
    ) -> None:
        """Write a picture of the bed, or of a piece, as PNG.

        Parameters
        ----------
        path : the file
        of : what is seen: the bed, a piece, what was pressed
        number : of the pocket
        garment : which of them; None for the stated surface

        Raises
        ------
        BadInput
            If it cannot be written.
        """
        shown = self.picture() if of == "bed" else self.piece_picture(of, number, garment)
        with whole_file(path) as file:
            Image.fromarray(shown).save(file, format="PNG", dpi=(self.bed.scale * 25.4,) * 2)


def _around(bed: PressBed, number: int) -> tuple[slice, slice]:
    """Rows and columns of the pictures that a piece takes."""
    one = bed.pieces[number]
    half = np.ptp(bed.outline(one.kind), axis=0) / 2
    top, left = bed.ticket.bed_height - one.y - half[1], one.x - half[0]
    return (
        slice(max(0, round(top * bed.scale)), round((top + 2 * half[1]) * bed.scale)),
        slice(max(0, round(left * bed.scale)), round((left + 2 * half[0]) * bed.scale)),
    )


def _film(layer: TicketLayer, plates: dict[str, Coverage]) -> LaidFilm:
    pairs = zip(layer.inks, layer.channels, strict=True)
    return LaidFilm(layer.kind, {ink.casefold(): plates[name] for ink, name in pairs}, layer.hits)
