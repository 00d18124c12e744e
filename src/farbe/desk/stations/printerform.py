"""The printer of a job: chosen, edited, imported and exported."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QColorDialog,
    QFileDialog,
    QInputDialog,
    QMenu,
    QPushButton,
    QWidget,
)

from farbe.desk.fields import NumberField, TextField
from farbe.desk.form import Form
from farbe.desk.session import Session
from farbe.files.document import keep, library
from farbe.files.printerfile import SUFFIX, PrinterFile, read_printer, write_printer
from farbe.folders import data_folder
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.model.printer import Ink, LayerKind, Printer
from farbe.samples.printers import PRINTERS


def with_printer(job: Job, **fields: object) -> Job:
    return job.replace(printer=job.printer.replace(**fields))


def printer_folder() -> Path:
    return data_folder() / "printers"


def _read_file(path: Path) -> PrinterFile:
    return PrinterFile(printer=read_printer(path))


class PrinterMenu(QMenu):
    """The printers that are kept or ship, and printers from and to files."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._session = session
        self.aboutToShow.connect(self._fill)
        self._fill()

    def _fill(self) -> None:
        self.clear()
        job = self._session.job
        kept, unusable = library(printer_folder(), SUFFIX, _read_file)
        names = {file.printer.name for file in kept}
        for printer in (*(file.printer for file in kept),
                        *(p for p in PRINTERS if p.name not in names)):  # fmt: skip
            self.addAction(printer.name, partial(self.use, printer))
        for name in unusable:
            self.addAction(f"{name} holds no printer").setEnabled(False)
        self.addSeparator()
        if job is not None:
            self.addAction(f"Keep this one as {job.printer.name}", self.keep)
        self.addAction("Import a printer…", self._import)
        self.addAction("Export this one…", self._export)

    def keep(self) -> None:
        """Keep the job's printer under its name; an older one of that name gives way."""
        job = self._session.job
        if job is None:
            return
        try:
            keep(PrinterFile(printer=job.printer), job.printer.name, printer_folder(), SUFFIX)
        except BadInput as error:
            self._session.said.emit(str(error))
            return
        self._session.said.emit(f"The printer {job.printer.name} is kept.")

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
    form.button(
        "Add a named ink…", lambda: _ask_ink(form, session), "A metallic or another ink of its own"
    )


def with_named_ink(job: Job, name: str, colour: str) -> Job:
    """The job's printer with one more ink, told apart by its name.

    Raises
    ------
    BadInput
        If it has an ink of that name.
    """
    inks = job.printer.inks
    if any(ink.name.casefold() == name.casefold() for ink in inks):
        raise BadInput(f"The printer has an ink named {name} already.")
    made = Ink(name="Ink", kind=LayerKind.NAMED, shown=colour).replace(name=name)
    return with_printer(job, inks=(*inks, made))


def _ask_ink(form: Form, session: Session) -> None:
    name, well = QInputDialog.getText(form, "Named ink", "Name", text="Gold")
    if well and name.strip():
        colour = QColorDialog.getColor(QColor("#c9a227"), form, "How it is shown")
        if colour.isValid():
            session.edit("Named ink", lambda j: with_named_ink(j, name.strip(), colour.name()))
