"""A test print as a hand-off: one run that is printed on the board."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from farbe.art.profiles import shipped_profile
from farbe.estimate.ink import ink_ml
from farbe.estimate.swaths import swath_seconds
from farbe.files.handoff import PlannedFile, file_word, told_apart
from farbe.files.placed import in_place_of
from farbe.files.ticket import (
    FILE_NAME,
    Ticket,
    TicketBoard,
    TicketFile,
    TicketLayer,
    TicketPiece,
    TicketPocket,
    TicketRun,
    digest_of,
    ticket_json,
)  # fmt: skip
from farbe.files.writers import WRITERS, Given
from farbe.model.base import BadInput
from farbe.model.piece import Reader
from farbe.model.printer import Printer
from farbe.model.receiver import Receiver, Split
from farbe.plan.receivers import no_files
from farbe.render.raster import ChannelInfo, Report, some_channels, unwatched
from farbe.testprint.chart import Chart, chart_bed
from farbe.testprint.measured import MeasuredChart

#: A board that shows white and black alike.
BOARD = "#a7adb1"


@dataclass(frozen=True)
class Setting:
    """What a test print is printed on, as its ticket says it.

    ``length`` is mm of film; None prints on the bed.
    """

    what: Literal["guide", "artwork"]
    board: TicketBoard
    pieces: tuple[TicketPiece, ...]
    pockets: tuple[TicketPocket, ...] = ()
    length: float | None = None
    mirrored: bool = False

    @classmethod
    def of_board(cls, printer: Printer) -> Setting:
        """The board of the whole bed.

        Parameters
        ----------
        printer : whose bed it lies on
        """
        board = TicketBoard(
            x=0, y=0, width=printer.bed_width, height=printer.bed_height, colour=BOARD
        )
        piece = TicketPiece(
            name="board", outline=((-1, -1), (1, -1), (1, 1), (-1, 1)), height=0,
            material="opaque", colour=BOARD, reader="face",
        )  # fmt: skip
        return cls("guide", board, (piece,))

    @classmethod
    def of_measured(cls, chart: MeasuredChart, printer: Printer, *, film: bool) -> Setting:
        """One piece that is as large as a measured chart, or film of its length.

        Parameters
        ----------
        chart : that is printed on it
        printer : whose bed it lies on
        film : it is printed on film
        """
        reference, half_w, half_h = chart.reference, chart.width / 2, chart.height / 2
        surface = reference.surface
        piece = TicketPiece(
            name="chart",
            outline=((-half_w, -half_h), (half_w, -half_h), (half_w, half_h), (-half_w, half_h)),
            height=0, material=surface.material.value, colour=surface.colour,
            reader=reference.reader.value,
        )  # fmt: skip
        length = chart.height if film else printer.bed_height
        board = TicketBoard(x=0, y=0, width=printer.bed_width, height=length, colour=BOARD)
        pocket = TicketPocket(number=1, x=half_w, y=half_h, artwork=chart.chart.word)
        mirrored = reference.reader is not Reader.FACE
        return cls("artwork", board, (piece,), (pocket,), chart.height if film else None, mirrored)


def write_test_print(
    chart: Chart,
    printer: Printer,
    receiver: Receiver,
    folder: Path,
    *,
    setting: Setting | None = None,
    report: Report = unwatched,
) -> Ticket:
    """Write a chart's files and its ticket, the ticket last.

    Parameters
    ----------
    chart : what is printed
    printer : that prints it
    receiver : that gets it
    folder : of the new hand-off
    setting : what it is printed on; None is the board
    report : is told how far it is

    Returns
    -------
    The ticket that was written.

    Raises
    ------
    BadInput
        If the folder cannot be written to.
    """
    with in_place_of(folder) as scratch:
        on = setting or Setting.of_board(printer)
        ticket = _written(chart, printer, receiver, scratch, on, report)
        (scratch / FILE_NAME).write_bytes(ticket_json(ticket))
    return ticket


def _written(
    chart: Chart, printer: Printer, receiver: Receiver, folder: Path, on: Setting, report: Report
) -> Ticket:
    bed = chart_bed(chart, printer, on.length)
    files, sums = [], dict[str, int]()
    for planned in planned_chart(chart, bed.channels, receiver):
        given = Given(receiver, shipped_profile(), f"Test print: {chart.word}")
        raster = some_channels(bed, planned.channels)
        written = WRITERS[planned.format].write(raster, folder / planned.name, given, report)
        sums |= {i.name: int(n) for i, n in zip(raster.channels, written, strict=True)}
        files.append(
            TicketFile(
                name=planned.name, format=planned.format.value,
                channels=tuple(i.name for i in planned.channels),
                sha256=digest_of(folder / planned.name),
            )
        )  # fmt: skip
    layers = tuple(
        TicketLayer(
            name=film.name, kind=film.kind.value, channels=film.channels,
            inks=tuple(ink.name for ink in film.inks), hits=film.hits,
        )
        for film in chart.films
    )  # fmt: skip
    laid = {
        channel: (printer.laid(ink), film.hits)
        for film in chart.films
        for ink, channel in zip(film.inks, film.channels, strict=True)
    }
    run = TicketRun(
        name=on.what,
        what=on.what,
        files=tuple(files),
        seconds=swath_seconds(printer, printer.bed_width, on.board.height, passes=printer.passes),
        width_px=bed.size[0],
        height_px=bed.size[1],
        dpi_x=bed.grid.dpi_x,
        dpi_y=bed.grid.dpi_y,
        mirrored=on.mirrored,
        receiver_mirrors=on.mirrored and receiver.mirrors,
        passes=printer.passes,
        layers=layers,
        ink_ml={
            name: round(ink_ml(sums[name], per, bed.grid.dpi_x, bed.grid.dpi_y, hits), 4)
            for name, (per, hits) in laid.items()
        },
        jig_code="",
    )
    return Ticket(
        job=f"Test print: {chart.word}",
        printer=printer.name,
        medium="bed" if on.length is None else "roll",
        bed_width=printer.bed_width,
        bed_height=on.board.height,
        board=on.board,
        pieces=on.pieces,
        pockets=on.pockets,
        runs=(run,),
    )


def planned_chart(
    chart: Chart, channels: tuple[ChannelInfo, ...], receiver: Receiver
) -> tuple[PlannedFile, ...]:
    """The files of a chart as its receiver takes them, in the order in which they print.

    Parameters
    ----------
    chart : the test print
    channels : of its bed, in the printing order of the films
    receiver : says what a file holds

    Raises
    ------
    BadInput
        If the receiver takes no format.
    """
    if refused := no_files(receiver):
        raise BadInput(refused)
    found = []
    for kind in receiver.formats:
        writer, name = WRITERS[kind], chart.word
        if not writer.splits or receiver.split is Split.RUN or len(chart.films) < 2:
            found.append(PlannedFile(f"{name}{writer.suffix}", kind, channels))
        elif receiver.split is Split.LAYER:
            found += [
                PlannedFile(
                    f"{name} {at} {file_word(film.name)}{writer.suffix}", kind,
                    tuple(info for info in channels if info.name in film.channels),
                )
                for at, film in enumerate(chart.films, start=1)
            ]  # fmt: skip
        else:
            found += [
                PlannedFile(f"{name} {at} {file_word(info.name)}{writer.suffix}", kind, (info,))
                for at, info in enumerate(channels, start=1)
            ]
    return told_apart(found)
