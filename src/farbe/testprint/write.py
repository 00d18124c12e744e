"""A test print as a hand-off: one run that is printed on the board."""

from __future__ import annotations

from pathlib import Path

from farbe.art.profiles import shipped_profile
from farbe.estimate.estimate import ink_ml
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
    TicketRun,
    digest_of,
    ticket_json,
)  # fmt: skip
from farbe.files.writers import WRITERS, Given
from farbe.model.base import BadInput
from farbe.model.printer import Printer
from farbe.model.receiver import Receiver, Split
from farbe.render.raster import ChannelInfo, Report, some_channels, unwatched
from farbe.said import say, spoken
from farbe.testprint.chart import Chart, chart_bed

#: A board that shows white and black alike.
BOARD = "#a7adb1"


def write_test_print(
    chart: Chart, printer: Printer, receiver: Receiver, folder: Path, *, report: Report = unwatched
) -> Ticket:
    """Write a chart's files and its ticket, the ticket last.

    Parameters
    ----------
    chart : what is printed
    printer : that prints it
    receiver : that gets it
    folder : of the new hand-off
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
        ticket = _written(chart, printer, receiver, scratch, report)
        (scratch / FILE_NAME).write_bytes(ticket_json(ticket))
    return ticket


def _written(
    chart: Chart, printer: Printer, receiver: Receiver, folder: Path, report: Report
) -> Ticket:
    bed = chart_bed(chart, printer)
    files, sums = [], dict[str, int]()
    for planned in planned_chart(chart, bed.channels, receiver):
        given = Given(receiver, shipped_profile(), f"Test print: {chart.kind.value}")
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
            name=film.name, kind=film.inks[0].kind.value, channels=film.channels,
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
        name="guide",
        what="guide",
        files=tuple(files),
        seconds=swath_seconds(
            printer, printer.bed_width, printer.bed_height, passes=printer.passes
        ),
        width_px=bed.size[0],
        height_px=bed.size[1],
        dpi_x=bed.grid.dpi_x,
        dpi_y=bed.grid.dpi_y,
        mirrored=False,
        receiver_mirrors=False,
        passes=printer.passes,
        layers=layers,
        ink_ml={
            name: round(ink_ml(sums[name], per, bed.grid.dpi_x, bed.grid.dpi_y, hits), 4)
            for name, (per, hits) in laid.items()
        },
        jig_code="",
    )
    return Ticket(
        job=f"Test print: {chart.kind.value}",
        printer=printer.name,
        bed_width=printer.bed_width,
        bed_height=printer.bed_height,
        board=TicketBoard(
            x=0, y=0, width=printer.bed_width, height=printer.bed_height, colour=BOARD
        ),
        pieces=(
            TicketPiece(
                name="board", outline=((-1, -1), (1, -1), (1, 1), (-1, 1)), height=0,
                material="opaque", colour=BOARD, reader="face",
            ),
        ),
        pockets=(),
        runs=(run,),
    )  # fmt: skip


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
    if not receiver.formats:
        raise BadInput(
            say(
                "The receiver {receiver} takes no files; choose TIFF or PDF for it.",
                receiver=spoken(receiver.name),
            )
        )
    found = []
    for kind in receiver.formats:
        writer, name = WRITERS[kind], chart.kind.value
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
