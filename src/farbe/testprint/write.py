"""A test print as a hand-off: one run that is printed on the board."""

from __future__ import annotations

from pathlib import Path

from farbe.estimate.estimate import ink_ml
from farbe.estimate.swaths import swath_seconds
from farbe.files.atomic import make_folder, whole_file
from farbe.files.pdf import write_pdf
from farbe.files.ticket import (
    FILE_NAME,
    Ticket,
    TicketBoard,
    TicketFile,
    TicketLayer,
    TicketPiece,
    TicketRun,
    ticket_json,
)  # fmt: skip
from farbe.files.tiff import write_tiff
from farbe.model.printer import Printer
from farbe.model.receiver import FileFormat, Receiver
from farbe.render.raster import Report, unwatched
from farbe.testprint.chart import Chart, chart_bed

#: A board that shows white and black alike.
BOARD = "#a7adb1"


def write_test_print(
    chart: Chart, printer: Printer, receiver: Receiver, folder: Path, *, report: Report = unwatched
) -> Ticket:
    """Write a chart's files and its ticket, the ticket last.

    Raises
    ------
    BadInput
        If the folder cannot be written to.
    """
    make_folder(folder)
    bed = chart_bed(chart, printer)
    files, sums = [], dict[str, int]()
    for kind in receiver.formats:
        name = f"{chart.kind.value}.{'tif' if kind is FileFormat.TIFF else 'pdf'}"
        if kind is FileFormat.TIFF:
            written = write_tiff(
                bed, folder / name, compression=receiver.compression,
                inverted=receiver.inverted, report=report,
            )  # fmt: skip
        else:
            written = write_pdf(bed, folder / name, report=report)
        sums = {i.name: int(n) for i, n in zip(bed.channels, written, strict=True)}
        files.append(
            TicketFile(name=name, format=kind.value, channels=tuple(i.name for i in bed.channels))
        )
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
    ticket = Ticket(
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
    with whole_file(folder / FILE_NAME) as file:
        file.write(ticket_json(ticket))
    return ticket
