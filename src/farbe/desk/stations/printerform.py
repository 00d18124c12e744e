"""The printer of a job: chosen, edited, imported and exported."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMenu, QPushButton, QWidget

from farbe.desk.fields import Form, NumberField, TextField
from farbe.desk.session import Session
from farbe.files.printerfile import SUFFIX, read_printer, write_printer
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.model.printer import Printer
from farbe.samples.printers import PRINTERS


def with_printer(job: Job, **fields: object) -> Job:
    return job.replace(printer=job.printer.replace(**fields))


class PrinterMenu(QMenu):
    """The printers that ship, and printers from and to files."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._session = session
        for printer in PRINTERS:
            self.addAction(printer.name, partial(self.use, printer))
        self.addSeparator()
        self.addAction("Import a printer…", self._import)
        self.addAction("Export this one…", self._export)

    def use(self, printer: Printer, *_: object) -> None:
        """Put the job on a printer; checks say if the jig no longer fits."""
        self._session.edit(f"Use {printer.name}", lambda job: job.replace(printer=printer))

    def take_file(self, path: Path) -> None:
        """Put the job on a printer from a file."""
        try:
            self.use(read_printer(path))
        except BadInput as error:
            self._session.said.emit(str(error))

    def save_file(self, path: Path) -> None:
        """Write the job's printer to a file."""
        job = self._session.job
        if job is None:
            return
        try:
            write_printer(job.printer, path)
        except BadInput as error:
            self._session.said.emit(str(error))

    def _import(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Printer", "", f"Printers (*{SUFFIX})")
        if name:
            self.take_file(Path(name))

    def _export(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, "Printer", f"printer{SUFFIX}", f"Printers (*{SUFFIX})"
        )
        if name:
            self.save_file(Path(name))


def add_printer(form: Form, session: Session) -> None:
    """The printer's rows in an inspector."""

    def number(name: str, field: str, unit: str = "mm", step: float = 1.0) -> NumberField:
        return NumberField(
            session,
            name,
            lambda j: getattr(j.printer, field),
            lambda j, v: with_printer(j, **{field: v}),
            unit=unit,
            step=step,
        )

    form.head("Printer")
    form.row(
        "Name",
        TextField(
            session,
            "Printer name",
            lambda j: j.printer.name,
            lambda j, v: with_printer(j, name=v),
        ),
    )
    choose = QPushButton("Printers")
    choose.setMenu(PrinterMenu(session, choose))
    form.wide(choose)
    form.row("Bed", number("Bed width", "bed_width"), number("Bed length", "bed_height"))
    form.row(
        "Resolution",
        number("Resolution across", "dpi_x", "dpi", 60),
        number("Resolution along", "dpi_y", "dpi", 60),
    )
    form.row("Highest piece", number("Highest piece", "max_piece_height"))
    form.row("Head gap", number("Head gap", "head_gap", step=0.1))
