"""Measured pockets, and the correction that follows from them."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
)

from farbe.desk.amounts import parse_amount
from farbe.desk.inspector import Inspector
from farbe.desk.stations.base import Desk
from farbe.desk.stations.bed.canvas import BedCanvas
from farbe.desk.stations.part import Part
from farbe.desk.theme import fixed
from farbe.files.table import read_measured
from farbe.layout.correction import Fitted, by_datum, fitted_correction, in_words
from farbe.layout.faced import Faced
from farbe.layout.figures import bare_length, measure
from farbe.layout.laid import places
from farbe.model.base import BadInput
from farbe.model.correction import Correction, Measured, Terms
from farbe.said import begun, say

_COLUMNS = (say("Pocket"), "x", "y", say("left"))


def with_point(job: Faced, point: Measured, *, instead: int | None = None) -> Faced:
    """The job with a measured pocket; one measured before, or ``instead``, gives way."""
    gone = {point.pocket, instead}
    kept = [p for p in (job.correction.points if job.correction else ()) if p.pocket not in gone]
    points = tuple(sorted((*kept, point), key=lambda p: p.pocket))
    made = job.correction.replace(points=points) if job.correction else Correction(points=points)
    return job.replace(correction=made)


def without_point(job: Faced, pocket: int) -> Faced:
    """The job without a measured pocket."""
    if job.correction is None:
        return job
    kept = tuple(p for p in job.correction.points if p.pocket != pocket)
    return job.replace(correction=job.correction.replace(points=kept) if kept else None)


class MeasuredPart(Part):
    """A small table of pockets with where they were found; what follows in words."""

    NAME = say("Measured correction")

    def __init__(self, inspector: Inspector, desk: Desk, canvas: BedCanvas) -> None:
        self._canvas, self._filling = canvas, False
        super().__init__(inspector, desk)

    def build(self) -> None:
        form = self.form
        self._table = QTableWidget(0, len(_COLUMNS))
        self._table.setHorizontalHeaderLabels(_COLUMNS)
        self._table.verticalHeader().setVisible(False)
        self._table.setAccessibleName(say("Measured pockets"))
        self._table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        header = self._table.horizontalHeader()
        header.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self._table.setToolTip(say("Where each pocket's middle was found, from the datum"))
        self._table.itemChanged.connect(self._typed)
        form.wide(self._table)
        form.button(
            say("Add the chosen pocket"), self.add, say("Then type where its middle was found")
        )
        self._remove = form.button(say("Remove the row"), self._remove_row)
        form.button(say("Import a table…"), self._ask)
        terms: list[tuple[Terms | None, str]] = [(None, say("as the points bear"))]
        terms += [(t, t.words) for t in Terms]
        self._terms = self.choice(
            say("Corrects"), say("Correction terms"), terms, self._lens("terms")
        )
        on = [(True, say("the artwork")), (False, say("nothing, taken off"))]
        self._on = self.choice(say("Moves"), say("Correction moves"), on, self._lens("on"))
        self._words = form.words()

    @staticmethod
    def _lens(field: str) -> tuple:  # type: ignore[type-arg]
        return (
            lambda j: getattr(j.correction, field) if j.correction else None,
            lambda j, v: j.replace(correction=j.correction and j.correction.replace(**{field: v})),
        )

    def add(self) -> None:
        """Add the chosen pocket where it should be; its figures are then typed over."""
        job, chosen = self.session.job, self._canvas.chosen
        pocket = next((p for p in places(job) if p.number == chosen), None) if job else None
        if job is not None and pocket is not None:
            x, y = by_datum(job, pocket.x, pocket.y)
            point = Measured(pocket=chosen, x=round(x, 3), y=round(y, 3))
            self.session.edit(say("Measure a pocket"), lambda j: with_point(j, point))

    def _remove_row(self) -> None:
        job, row = self.session.job, self._table.currentRow()
        if job is not None and job.correction is not None and row >= 0:
            pocket = job.correction.points[row].pocket
            self.session.edit(say("Remove a measurement"), lambda j: without_point(j, pocket))

    def _ask(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self.form, say("Measured"), "", say("Tables (*.csv *.txt)")
        )
        if name:
            self.take_file(Path(name))

    def take_file(self, path: Path) -> None:
        """Take the measured pockets from a table file."""
        try:
            found = read_measured(path)
        except BadInput as error:
            self.session.said.emit(str(error))
            return
        self.session.edit(say("Measured pockets"), lambda j: j.replace(correction=found))

    def _typed(self, item: QTableWidgetItem) -> None:
        job = self.session.job
        if self._filling or job is None or job.correction is None:
            return
        before = job.correction.points[item.row()]
        cells = [self._table.item(item.row(), column) for column in range(3)]
        texts = [cell.text() if cell is not None else "" for cell in cells]
        try:
            pocket = round(parse_amount(texts[0], ""))
            x, y = (parse_amount(text) for text in texts[1:])
        except BadInput as error:
            self.session.said.emit(str(error))
            self.refresh()
            return
        if pocket < 1:
            self.session.said.emit(say("Pockets are numbered from 1."))
            self.refresh()
            return
        point = before.replace(pocket=pocket, x=x, y=y)
        self.session.edit(say("Measured"), lambda j: with_point(j, point, instead=before.pocket))

    def refresh(self) -> None:
        job = self.session.job
        if job is None:
            return
        correction = job.correction
        points = correction.points if correction else ()
        fitted, words = _fitted(job, correction)
        self._filling = True
        self._table.setRowCount(len(points))
        for row, point in enumerate(points):
            left = fitted.residuals[point.pocket] if fitted else None
            cells = (str(point.pocket), bare_length(point.x, 3), bare_length(point.y, 3),
                     "" if left is None else bare_length(left, 3))  # fmt: skip
            for column, text in enumerate(cells):
                item = QTableWidgetItem(text)
                if column == 3:
                    item.setFlags(Qt.ItemFlag.ItemIsEnabled)
                self._table.setItem(row, column, item)
        self._filling = False
        fixed(self._table, high=30 + 28 * max(1, min(6, len(points))))
        self._remove.setEnabled(bool(points))
        for widget in (self._terms, self._on):
            widget.setVisible(bool(points))
        state = say("none") if correction is None else say("on") if correction.on else say("off")
        self.thing.say(
            state
            if correction is None
            else say("{points} pockets, {state}", points=len(points), state=state)
        )
        self._words.setText(words)


def _fitted(job: Faced, correction: Correction | None) -> tuple[Fitted | None, str]:
    """The correction worked out, and what to say of it."""
    if correction is None:
        return None, say("Measure where some pockets really are; the artwork then follows them.")
    try:
        fitted = fitted_correction(job, correction)
    except BadInput as error:
        return None, str(error)
    wild = (
        say(" Pocket {wild} does not go with the others.", wild=fitted.wild[0])
        if fitted.wild
        else ""
    )
    worst = max(fitted.residuals.values())
    return (
        fitted,
        say(
            "{job}; {worst} left at worst.{wild}",
            job=begun(in_words(job, fitted)),
            worst=measure(worst, 3),
            wild=wild,
        ),
    )
