"""The printer of a job: chosen, edited, imported and exported."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QColorDialog, QInputDialog, QVBoxLayout, QWidget

from farbe.desk.fields import ChoiceField, NumberField, TextField
from farbe.desk.form import ElidedButton, Form, emptied
from farbe.desk.keptmenu import KeptMenu
from farbe.desk.session import Session
from farbe.desk.stations.base import Desk
from farbe.files.printerfile import SUFFIX, PrinterFile, printer_file, read_printer_file
from farbe.files.profilebytes import unpacked
from farbe.layout.faced import Faced
from farbe.model.base import BadInput, Value
from farbe.model.printer import Ink, LayerKind, Printer
from farbe.plan.printers import PRINTERS
from farbe.said import inside, say, shipped, spoken


def with_printer(job: Faced, **fields: object) -> Faced:
    return job.replace(printer=job.printer.replace(**fields))


class PrinterMenu(KeptMenu[Printer]):
    """The printers that are kept or ship, and printers from and to files."""

    WORD, FOLDER, SUFFIX, DOCUMENT = shipped("printer"), "printers", SUFFIX, PrinterFile

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, parent)
        #: Profiles that came along in files, by their digest.
        self._brought: dict[str, str] = {}

    def shipped(self) -> tuple[Printer, ...]:
        return PRINTERS

    def of(self, job: Faced) -> Printer:
        return job.printer

    def used(self, job: Faced, thing: Printer) -> Faced:
        needed = {digest for one in thing.conditions for digest in one.profiles}
        brought = [(digest, self._brought[digest]) for digest in needed & self._brought.keys()]
        unpacked(brought, self._session.store, spoken(thing.name))
        return job.replace(printer=thing)

    def _read(self, path: Path) -> PrinterFile:
        return read_printer_file(path)

    def _held(self, document: Value) -> Printer:
        if not isinstance(document, PrinterFile):
            raise TypeError(f"{type(document).__name__} is no printer's file")
        self._brought |= dict(document.profiles)
        return document.printer

    def _document(self, thing: Printer) -> PrinterFile:
        return printer_file(thing, self._session.store)


def add_printer(form: Form, desk: Desk) -> None:
    """The printer's rows in an inspector."""
    session = desk.session

    def number(name: str, field: str, unit: str = "mm", step: float = 1.0) -> NumberField:
        return NumberField(
            session,
            name,
            lambda j: getattr(j.printer, field),
            lambda j, v: with_printer(j, **{field: v}),
            unit=unit,
            step=step,
        )

    form.row(
        say("Name"),
        TextField(
            session,
            say("Printer name"),
            lambda j: j.printer.name,
            lambda j, v: with_printer(j, name=v),
        ),
    )
    choose = ElidedButton(say("Printers"))
    choose.setMenu(PrinterMenu(session, choose))
    form.wide(choose)
    form.row(
        say("Bed"), number(say("Bed width"), "bed_width"), number(say("Bed length"), "bed_height")
    )
    form.row(
        say("Resolution"),
        number(say("Resolution across"), "dpi_x", "dpi", 60),
        number(say("Resolution along"), "dpi_y", "dpi", 60),
    )
    form.row(say("Highest piece"), number(say("Highest piece"), "max_piece_height"))
    form.row(say("Head gap"), number(say("Head gap"), "head_gap", step=0.1))
    form.row(
        say("Most ink"), number(say("Most ink, all layers together"), "most_film", "ml/m²", 10)
    )
    form.row(say("Least type"), number(say("Height of the smallest type"), "least_type", step=0.1))
    for words, kind in FINEST:
        form.row(
            say("{words} from", words=words),
            _finest(session, say("Least stroke of {ink}", ink=inside(words)), kind, "stroke"),
            _finest(session, say("Least gap in {ink}", ink=inside(words)), kind, "gap"),
        )
    form.head(say("Inks"))
    form.wide(InkRows(desk))
    form.button(
        say("Add a named ink…"),
        lambda: _ask_ink(form, session),
        say("A metallic or another ink of its own"),
    )


class InkRows(QWidget):
    """What each ink prints, how much of it is laid down, and what it costs."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._names: tuple[str, ...] = ()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._desk.session.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        job = self._desk.session.first
        names = () if job is None else tuple(ink.name for ink in job.printer.inks)
        if names == self._names:
            return
        self._names = names
        emptied(self._column)
        rows = Form()
        rows.layout().setContentsMargins(0, 0, 0, 0)  # type: ignore[union-attr]
        for place, name in enumerate(names):
            ink = spoken(name)
            rows.row(
                ink,
                ChoiceField(
                    self._desk.session,
                    say("What {ink} prints", ink=ink),
                    [(k, k.words) for k in LayerKind],
                    partial(_ink_field, place, "kind"),
                    partial(_with_ink, place, "kind"),
                ),
            )
            rows.row(
                "",
                self._figure(place, say("Laydown of {ink}", ink=ink), "laydown", "ml/m²"),
                self._figure(
                    place, say("Price of {ink}", ink=ink), "price",
                    lambda: f"{self._desk.currency}/l",
                ),
            )  # fmt: skip
        self._column.addWidget(rows)

    def _figure(
        self, place: int, name: str, field: str, unit: str | Callable[[], str]
    ) -> NumberField:
        return NumberField(
            self._desk.session, name, partial(_ink_field, place, field),
            partial(_with_ink, place, field), unit=unit, step=1.0,
        )  # fmt: skip


def _ink_field(place: int, field: str, job: Faced) -> Any:
    inks = job.printer.inks
    return getattr(inks[min(place, len(inks) - 1)], field)


def _with_ink(place: int, field: str, job: Faced, value: object) -> Faced:
    inks = tuple(
        ink.replace(**{field: value}) if at == place else ink
        for at, ink in enumerate(job.printer.inks)
    )
    return with_printer(job, inks=inks)


#: Inks whose finest strokes and gaps are asked for.
FINEST = (
    (say("Colour"), LayerKind.COLOUR),
    (say("White"), LayerKind.WHITE),
    (say("Varnish"), LayerKind.VARNISH),
)


def _finest(session: Session, name: str, kind: LayerKind, field: str) -> NumberField:
    """The least stroke or gap of all inks of a kind."""

    def get(job: Faced) -> float:
        inks = job.printer.inks_of(kind)
        return float(getattr(inks[0], field)) if inks else 0.0

    def put(job: Faced, value: float) -> Faced:
        inks = tuple(
            ink.replace(**{field: value}) if ink.kind is kind else ink for ink in job.printer.inks
        )
        return with_printer(job, inks=inks)

    return NumberField(session, name, get, put, step=0.01, digits=3)


def with_named_ink(job: Faced, name: str, colour: str) -> Faced:
    """The job's printer with one more ink, told apart by its name.

    Raises
    ------
    BadInput
        If it has an ink of that name.
    """
    inks = job.printer.inks
    if any(ink.name.casefold() == name.casefold() for ink in inks):
        raise BadInput(say("The printer has an ink named {name} already.", name=name))
    made = Ink(name="Ink", kind=LayerKind.NAMED, shown=colour).replace(name=name)
    return with_printer(job, inks=(*inks, made))


def _ask_ink(form: Form, session: Session) -> None:
    name, well = QInputDialog.getText(form, say("Named ink"), say("Name"), text=say("Gold"))
    if well and name.strip():
        colour = QColorDialog.getColor(QColor("#c9a227"), form, say("How it is shown"))
        if colour.isValid():
            session.edit(say("Named ink"), lambda j: with_named_ink(j, name.strip(), colour.name()))
