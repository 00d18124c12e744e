"""Lettering on the piece, the same in all pockets or from the rows of a table."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QMenu,
    QPushButton,
    QSizePolicy,
    QWidget,
)

from farbe.desk.fields import ChoiceField, ColourField, LinesField, NumberField, TextField
from farbe.desk.form import ElidedButton
from farbe.desk.stations.bed.form.loadrow import load_row
from farbe.desk.stations.nineplaces import NinePlaces
from farbe.desk.stations.part import Part
from farbe.edits.values import Get, Set
from farbe.files.table import read_table
from farbe.layout.faced import Faced
from farbe.layout.guide import DARK, lightness
from farbe.layout.loads import count_loads, load_words
from farbe.layout.prints import lacking_files
from farbe.model.base import BadInput
from farbe.model.placing import Across, Along
from farbe.model.text import SERIAL, CodeKind, Table, TextBox, TextFit, TypeFace
from farbe.said import say, say_count


def _serial(field: str) -> Set:
    """Sets a figure of the serial numbers."""
    return lambda job, value: job.replace(serial=job.serial.replace(**{field: round(value)}))


_FITS = [(TextFit.SHRINK, say("shrinks")), (TextFit.KEEP, say("stays as it is"))]
_FITS += [(TextFit.FILL, say("is spread to the box"))]
_FACES = [
    (TypeFace.REGULAR, say("regular")),
    (TypeFace.MEDIUM, say("medium")),
    (TypeFace.BOLD, say("bold")),
    (TypeFace.OWN, say("a font file")),
]


def new_box(job: Faced) -> TextBox:
    """A box in the lower part of the piece, with the first column or the pocket's number."""
    shape = job.piece.shape
    high = min(8.0, shape.height / 4)
    words = f"{{{job.table.columns[0]}}}" if job.table else "{#}"
    return TextBox(
        text=words,
        width=round(shape.width * 0.6, 1),
        height=round(high, 1),
        size=round(high * 0.6, 1),
        y=-round(shape.height / 4, 1),
        colour="#ffffff" if lightness(job.piece.surface.colour) < DARK else "#000000",
    )


def with_box(job: Faced, index: int, **fields: Any) -> Faced:
    """The job with one text box changed."""
    if index >= len(job.texts):
        return job
    changed = job.texts[index].replace(**fields)
    return job.replace(texts=(*job.texts[:index], changed, *job.texts[index + 1 :]))


class TextPart(Part):
    """Text boxes, one of them chosen, and the table that fills them."""

    NAME = say("Text")

    def build(self) -> None:
        form, session = self.form, self.session
        self.index = 0
        self._fields: list[NumberField | ChoiceField | LinesField | ColourField | NinePlaces] = []
        self._which = QComboBox()
        self._which.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._which.setMinimumContentsLength(6)
        self._which.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self._which.setAccessibleName(say("Text box"))
        self._which.activated.connect(self.choose)
        self._which_row = form.row(say("Box"), self._which)
        column = QPushButton(say("Column"))
        self._columns = QMenu(column)
        self._columns.aboutToShow.connect(self._fill_columns)
        column.setMenu(self._columns)
        words = LinesField(session, say("Text"), *self._lens("text", ""))
        words.setToolTip(
            say("{name} stands for a column of the table, {#} for the pocket's number")
        )
        self._rows: list[QWidget] = [form.row(say("Text"), words), form.row(say("Insert"), column)]
        self._fields.append(words)
        self._number_row(say("At"), (say("Text x"), "x"), (say("Text y"), "y"))
        self._number_row(
            say("Width, height"), (say("Text width"), "width"), (say("Text height"), "height")
        )
        self._number_row(say("Capitals"), (say("Text size"), "size"), step=0.5)
        colour = ColourField(session, say("Text colour"), *self._lens("colour", "#000000"))
        self._fields.append(colour)
        self._rows.append(form.row(say("Colour"), colour))
        self._ink = QComboBox()
        self._ink.setAccessibleName(say("Text ink"))
        self._ink.setToolTip(say("The colour by process inks, or one ink of the printer alone"))
        self._ink.activated.connect(self._take_ink)
        self._rows.append(form.row(say("Printed in"), self._ink))
        _, self._remove = self._pair((say("Add text"), self.add), (say("Remove"), self.remove))
        self._rows.append(form.fold(say("Face, line and code")))
        codes: list[tuple[CodeKind | None, str]] = [(None, say("letters"))]
        codes += [(kind, kind.words) for kind in CodeKind]
        self._choice_row(say("Shown as"), say("Shown as"), codes, "code", None)
        lights = [(False, say("dark modules")), (True, say("light modules"))]
        self._choice_row(say("Code prints"), say("Prints of the code"), lights, "light", False)
        places = NinePlaces(session, say("text"), self._aligned, self._align)
        self._rows.append(form.row(say("Aligned"), places))
        self._fields.append(places)
        self._number_row(
            say("Lines apart"), (say("Way to the next line"), "leading"), unit="×", step=0.1
        )
        self._number_row(say("On a curve"), (say("Radius of the text's curve"), "radius"), step=5)
        self._number_row(say("Turned by"), (say("Text turned"), "rotation"), unit="°", step=5)
        self._choice_row(say("Too wide"), say("Text too wide"), _FITS, "fit", TextFit.SHRINK)
        self._choice_row(say("Face"), say("Text face"), _FACES, "face", TypeFace.MEDIUM)
        self._font = form.button(say("Choose the font file…"), self._ask_font)
        self._build_table()

    def _build_table(self) -> None:
        form, session = self.form, self.session
        self._table_head = form.fold(say("Table, serials, loads"))
        _, self._no_table = self._pair(
            (say("Choose a table…"), self._ask_table), (say("No table"), self._drop_table)
        )
        self._table_words = form.words()
        self.column = QComboBox()
        self.column.setAccessibleName(say("Artwork from column"))
        self.column.setToolTip(say("A column that names the picture of each row by its file"))
        self.column.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.column.setMinimumContentsLength(6)
        self.column.activated.connect(self._take_column)
        self._column_row = form.row(say("Artwork from"), self.column)
        self._files = form.button(
            say("Add its files…"), self._ask_files,
            say("From the folder in which the pictures lie that the column names"),
        )  # fmt: skip
        self.numbers(
            say("Serials from, by"),
            (say("Serial starts at"), (lambda j: j.serial.start, _serial("start"))),
            (say("Serial step"), (lambda j: j.serial.step, _serial("step"))),
            unit="", digits=0,
        )  # fmt: skip
        form.row(
            say("Digits, prefix"),
            self.number(
                say("Serial digits"), (lambda j: j.serial.digits, _serial("digits")), unit="",
                digits=0,
            ),
            TextField(session, say("Serial prefix"), lambda j: j.serial.prefix,
                      lambda j, v: j.replace(serial=j.serial.replace(prefix=v))),
        )  # fmt: skip
        self._load = load_row(self, say("Load that is shown"))

    def _pair(self, *named: tuple[str, Callable[[], object]]) -> list[QPushButton]:
        """Two buttons side by side."""
        made: list[QPushButton] = []
        for caption, run in named:
            button = ElidedButton(caption)
            button.clicked.connect(partial(self._press, run))
            made.append(button)
        self.form.beside(*made)
        return made

    @staticmethod
    def _press(run: Callable[[], object], *_: object) -> None:
        run()

    def _lens(self, field: str, otherwise: Any) -> tuple[Get, Set]:
        def get(job: Faced) -> Any:
            chosen = job.texts[self.index] if self.index < len(job.texts) else None
            return otherwise if chosen is None else getattr(chosen, field)

        def put(job: Faced, value: Any) -> Faced:
            return with_box(job, self.index, **{field: value})

        return get, put

    def _number_row(self, words: str, *named: tuple[str, str], **more: Any) -> None:
        made = [self.number(name, self._lens(field, 0.0), **more) for name, field in named]
        self._fields += made
        self._rows.append(self.form.row(words, *made))

    def _choice_row(
        self, words: str, name: str, choices: list[Any], field: str, otherwise: Any
    ) -> None:
        made = ChoiceField(self.session, name, choices, *self._lens(field, otherwise))
        self._fields.append(made)
        self._rows.append(self.form.row(words, made))

    def _aligned(self, job: Faced) -> tuple[Across, Along] | None:
        box = job.texts[self.index] if self.index < len(job.texts) else None
        return None if box is None else (box.across, box.along)

    def _align(self, job: Faced, across: Across, along: Along) -> Faced:
        return with_box(job, self.index, across=across, along=along)

    # commands

    def choose(self, index: int) -> None:
        """Show the values of a text box, by its place in the list."""
        self.index = index
        for field in self._fields:
            field.refresh()
        self.refresh()

    def add(self) -> None:
        """Add a text box and choose it."""
        job = self.session.job
        if job is not None:
            self.index = len(job.texts)
            self.session.edit(say("Add text"), lambda j: j.replace(texts=(*j.texts, new_box(j))))

    def remove(self) -> None:
        """Remove the chosen text box."""
        at = self.index
        self.session.edit(
            say("Remove text"), lambda j: j.replace(texts=(*j.texts[:at], *j.texts[at + 1 :]))
        )

    def _fill_columns(self) -> None:
        self._columns.clear()
        job = self.session.job
        names = [*(job.table.columns if job and job.table else ()), "#", SERIAL]
        own = {"#": say("the pocket's number"), SERIAL: say("a number that counts on")}
        for name in names[:40]:
            words = own.get(name, name)
            self._columns.addAction(words, partial(self._insert, name))

    def _insert(self, name: str) -> None:
        get, put = self._lens("text", "")
        self.session.edit(say("Text"), lambda j: put(j, f"{get(j)} {{{name}}}".strip()))

    def _ask_table(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self.form, say("Table"), "", say("Tables (*.csv *.txt *.tsv)")
        )
        if name:
            self.take_table(Path(name))

    def take_table(self, path: Path) -> None:
        """Fill the text boxes from a table file."""

        def use(table: Table) -> None:
            self.session.edit(
                say("Use {file_name}", file_name=table.file_name), lambda j: j.replace(table=table)
            )

        self.desk.workers.start(
            "table",
            lambda _: read_table(path),
            self.session.for_this_job(use),
            title=say("Reading {path}", path=path.name),
        )

    def _drop_table(self) -> None:
        self.session.edit(say("No table"), lambda j: j.replace(table=None))

    def _take_column(self, index: int) -> None:
        name = self.column.itemData(index)
        self.session.edit(say("Artwork from column"), lambda j: j.replace(artwork_column=name))

    def _ask_files(self) -> None:
        folder = QFileDialog.getExistingDirectory(self.form, say("Folder of the pictures"))
        if folder:
            self.take_files(Path(folder))

    def take_files(self, folder: Path) -> None:
        """Add the files that the column names, from a folder."""
        job = self.session.job
        names = lacking_files(job) if job is not None else ()
        found = [folder / name for name in names if (folder / name).is_file()]
        lost = [name for name in names if not (folder / name).is_file()]
        if lost:
            self.session.said.emit(
                say("{folder} has no {name}.", folder=folder.name, name=", ".join(lost[:4]))
            )
        if found:
            self.desk.intake.add(found)

    def _show_columns(self, job: Faced) -> None:
        """Offer the table's columns, by which artwork may be told."""
        self.column.clear()
        self.column.addItem(say("quantities"), None)
        for name in job.table.columns if job.table is not None else ():
            self.column.addItem(name, name)
        self.column.setCurrentIndex(max(0, self.column.findData(job.artwork_column)))
        self._column_row.setVisible(job.table is not None)
        self._files.setVisible(bool(lacking_files(job)))

    def _ask_font(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self.form, say("Font"), "", say("Fonts (*.otf *.ttf)")
        )
        if name:
            self.take_font(Path(name))

    def take_font(self, path: Path) -> None:
        """Set the chosen box in a font of the user's own."""
        try:
            digest = self.session.store.add_font(path)
        except BadInput as error:
            self.session.said.emit(str(error))
            return
        at = self.index
        self.session.edit(say("Font"), lambda j: with_box(j, at, face=TypeFace.OWN, font=digest))

    def _take_ink(self, index: int) -> None:
        ink, at = self._ink.itemData(index), self.index
        self.session.edit(say("Ink of the text"), lambda j: with_box(j, at, ink=ink))

    def _show_inks(self, job: Faced) -> None:
        """Offer the printer's inks, and that of the box even if the printer lacks it."""
        chosen = job.texts[self.index].ink if job.texts else None
        names = dict.fromkeys(ink.name for ink in job.printer.inks)
        self._ink.clear()
        self._ink.addItem(say("its colour"), None)
        for name in (*names, *((chosen,) if chosen and chosen not in names else ())):
            self._ink.addItem(say("{name} alone", name=name), name)
        self._ink.setCurrentIndex(max(0, self._ink.findData(chosen)))

    def refresh(self) -> None:
        job = self.session.job
        if job is None:
            return
        count = len(job.texts)
        self._show_inks(job)
        self.index = max(0, min(self.index, count - 1))
        self.thing.say(say_count(count, "{count} box", "{count} boxes") if count else say("none"))
        for row in self._rows:
            row.setVisible(count > 0)
        self._which_row.setVisible(count > 1)
        self._remove.setEnabled(count > 0)
        self._no_table.setEnabled(job.table is not None)
        self._font.setVisible(count > 0 and job.texts[self.index].face is TypeFace.OWN)
        self._which.clear()
        self._which.addItems(
            [box.text[:30].replace("\n", " / ") or say("empty") for box in job.texts]
        )
        self._which.setCurrentIndex(self.index)
        if job.table is None:
            self._table_head.say(say("none"))
            self._table_words.setText(
                say("{#} is each pocket's number, {serial} counts on from pocket to pocket.")
            )
        else:
            columns = ", ".join(job.table.columns[:6])
            self._table_head.say(job.table.file_name)
            words = say(
                "{file_name}: {rows} rows of {columns}",
                file_name=job.table.file_name,
                rows=len(job.table.rows),
                columns=columns,
            )
            self._table_words.setText(f"{words}. {load_words(job)}" if count_loads(job) > 1
                                      else words)  # fmt: skip
        self._show_columns(job)
        several = count_loads(job) > 1 or job.job.load > 0
        self._load.setVisible(several)
