"""The ticket of a hand-off from its jobs and the runs that were written."""

from __future__ import annotations

from farbe.files.ticket import (
    Ticket,
    TicketBack,
    TicketBoard,
    TicketGarment,
    TicketLine,
    TicketPiece,
    TicketPocket,
    TicketRun,
)
from farbe.layout.bedframe import board_on_bed
from farbe.layout.faced import Faced
from farbe.layout.frame import printer_frame
from farbe.layout.outline import corners
from farbe.layout.pockets import piece_on_bed, used_pockets
from farbe.layout.prints import alone
from farbe.layout.rolls import line_places
from farbe.model.piece import Reader
from farbe.render.marks import LINE_LENGTH

#: What a clear film looks like over the press.
FILM = "#c9cdd0"


def ticket_of(jobs: tuple[Faced, ...], runs: tuple[TicketRun, ...]) -> Ticket:
    """The ticket of one job, or of several that share the bed."""
    job = jobs[0]
    frame = printer_frame(job)
    pieces, pockets = _on_film(jobs) if job.roll is not None else _on_bed(jobs)
    return Ticket(
        job=" + ".join(one.name for one in jobs),
        printer=job.printer.name,
        medium="bed" if job.roll is None else "roll",
        bed_width=frame.width,
        bed_height=frame.height,
        board=_board(jobs),
        pieces=pieces,
        pockets=pockets,
        runs=runs,
        lines=tuple(
            TicketLine(number=number, x=x, y=y, length=LINE_LENGTH)
            for number, x, y in (line_places(job) if job.roll is not None and job.two_sided else ())
        ),
        garments=tuple(
            TicketGarment(name=g.name, colour=g.colour, size=g.size, count=g.count)
            for one in jobs
            for g in one.garments
        ),
        back=_back(job),
        guide_svg="guide.svg",
        mode=job.printer.mode.name if job.printer.mode is not None else "",
        throw=job.printer.throw.value,
    )


def _on_bed(
    jobs: tuple[Faced, ...],
) -> tuple[tuple[TicketPiece, ...], tuple[TicketPocket, ...]]:
    """A kind of piece for each job, and the pockets of all."""
    pockets = tuple(p for kind, one in enumerate(jobs) for p in _pockets(one, kind))
    return tuple(_piece(one) for one in jobs), pockets


def _on_film(jobs: tuple[Faced, ...]) -> tuple[tuple[TicketPiece, ...], tuple[TicketPocket, ...]]:
    """The pieces that lie on a roll's film, each kind once, and where they lie."""
    kinds: dict[TicketPiece, int] = {}
    pockets = []
    for job in jobs:
        for place in used_pockets(job):
            piece = _piece(alone(job, place.number))
            kind = kinds.setdefault(piece, len(kinds))
            pockets.append(TicketPocket(number=place.number, x=place.x, y=place.y, piece=kind))
    return tuple(kinds), tuple(pockets)


def _as_loaded(job: Faced, x: float, y: float) -> tuple[float, float]:
    """A place of the bed's frame as it comes to lie when the board is loaded turned."""
    printer = job.printer
    return (printer.bed_width - x, printer.bed_height - y) if job.bed_turned else (x, y)


def _outline(job: Faced) -> tuple[tuple[float, float], ...]:
    """The piece as it lies in its pocket on the loaded board."""
    points = corners(piece_on_bed(job)) * (-1 if job.bed_turned else 1)
    return tuple((round(float(x), 4), round(float(y), 4)) for x, y in points)


def _piece(job: Faced) -> TicketPiece:
    piece = job.piece
    return TicketPiece(
        name=piece.name,
        outline=_outline(job),
        height=piece.height,
        material=piece.surface.material.value,
        colour=piece.surface.colour,
        reader="both" if job.two_readers else job.reader.value,
    )


def _pockets(job: Faced, kind: int = 0) -> tuple[TicketPocket, ...]:
    return tuple(
        TicketPocket(number=p.number, x=at[0], y=at[1], piece=kind)
        for p in used_pockets(job)
        for at in [_as_loaded(job, p.x, p.y)]
    )


def _back(job: Faced) -> TicketBack | None:
    turning, other = job.turning, job.other
    if turning is None or other is None:
        return None
    return TicketBack(
        turn=turning.turn.value,
        board=turning.board,
        outlines=tuple(piece.outline for piece in _on_film((other,))[0])
        if other.roll is not None else (_outline(other),),
        pockets=_on_film((other,))[1] if other.roll is not None else _pockets(other),
    )  # fmt: skip


def _board(jobs: tuple[Faced, ...]) -> TicketBoard:
    """The board, or one under the boards of all jobs; on a roll, the film."""
    frame = printer_frame(jobs[0])
    if jobs[0].roll is not None:
        colour = FILM if jobs[0].reader is not Reader.FACE else jobs[0].piece.surface.colour
        return TicketBoard(x=0, y=0, width=frame.width, height=frame.height, colour=colour)
    boxes = [board_on_bed(job.jig.board, job.jig.datum, job.printer) for job in jobs]
    left, bottom = min(box[0] for box in boxes), min(box[1] for box in boxes)
    right, top = max(box[2] for box in boxes), max(box[3] for box in boxes)
    x, y = _as_loaded(jobs[0], *((right, top) if jobs[0].bed_turned else (left, bottom)))
    return TicketBoard(
        x=x, y=y, width=right - left, height=top - bottom, colour=jobs[0].jig.board.colour
    )
