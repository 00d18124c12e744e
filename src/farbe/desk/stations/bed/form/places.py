"""Pockets one by one: a table of their places, and what moves several of them."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import (
    QAbstractTableModel,
    QEvent,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    Qt,
)
from PySide6.QtGui import QGuiApplication, QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QFileDialog,
    QHeaderView,
    QMenu,
    QSizePolicy,
    QTableView,
)

from farbe.desk.amounts import parse_amount
from farbe.desk.fields import fill
from farbe.desk.form import ElidedButton
from farbe.desk.inspector import Inspector
from farbe.desk.session import Session
from farbe.desk.stations.base import Desk
from farbe.desk.stations.bed.canvas import BedCanvas
from farbe.desk.stations.bed.drawingdialog import read_drawing
from farbe.desk.stations.bed.repeatdialog import RepeatDialog
from farbe.desk.stations.part import Part
from farbe.desk.theme import fixed
from farbe.edits import places as place_edits
from farbe.edits.places import Edge, own_places
from farbe.files.placetable import places_of_text, read_places
from farbe.layout.faced import Faced
from farbe.layout.figures import bare_length, number
from farbe.layout.otherpockets import as_kind
from farbe.model.base import BadInput
from farbe.model.jig import Place
from farbe.said import say, say_count, spoken

#: Most rows that show at once; more are scrolled.
ROWS = 6
_FIELDS = ("x", "y", "turn")


class PlacesModel(QAbstractTableModel):
    """The places of a job's pockets; figures are typed over."""

    HEADS = (say("Pocket"), "x", "y", say("turn"))

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.places: tuple[Place, ...] = ()
        #: Of the pockets, row by row.
        self.numbers: tuple[int, ...] = ()

    def show(self, places: tuple[Place, ...], numbers: tuple[int, ...]) -> None:
        """Show these."""
        self.numbers = numbers
        if len(places) != len(self.places):
            self.beginResetModel()
            self.places = places
            self.endResetModel()
        elif places != self.places:
            self.places = places
            self.dataChanged.emit(self.index(0, 0), self.index(len(places) - 1, 3))

    def rowCount(self, parent: QModelIndex | None = None) -> int:  # type: ignore[override]
        return len(self.places)

    def columnCount(self, parent: QModelIndex | None = None) -> int:  # type: ignore[override]
        return len(self.HEADS)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> object:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return self.HEADS[section]
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:  # type: ignore[override]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        if role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return None
        place = self.places[index.row()]
        if index.column() == 0:
            return str(self.numbers[index.row()])
        if index.column() == 3:
            return f"{number(place.turn, 3)}°"
        return bare_length(getattr(place, _FIELDS[index.column() - 1]), 3)

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:  # type: ignore[override]
        plain = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        return plain | Qt.ItemFlag.ItemIsEditable if index.column() else plain

    def setData(
        self,
        index: QModelIndex | QPersistentModelIndex,
        value: object,
        role: int = Qt.ItemDataRole.EditRole,
    ) -> bool:
        field = _FIELDS[index.column() - 1]
        try:
            amount = parse_amount(str(value).replace("°", ""), "" if field == "turn" else "mm")
            amount = amount % 360.0 if field == "turn" else amount
            which = self.numbers[index.row()]
            self._session.edit(
                say("Place of a pocket"),
                lambda job: place_edits.change_places(
                    job, {which}, lambda _, place: place.replace(**{field: amount})
                ),
            )
        except BadInput as error:
            self._session.said.emit(str(error))
            return False
        return True


class PlacesTable(QTableView):
    """Rows are copied and pasted as spreadsheets do."""

    def __init__(self, model: PlacesModel, paste: Callable[[str], None]) -> None:
        super().__init__()
        self._places, self._paste = model, paste
        self.setModel(model)
        self.setAccessibleName(say("Places of pockets"))
        self.setToolTip(
            say("The middle of each piece from the datum, and its turn; paste rows from a table")
        )
        self.verticalHeader().setVisible(False)
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setTabKeyNavigation(False)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            # Rows are meant here, not what the menu would copy.
            keys = QKeySequence.StandardKey.Paste, QKeySequence.StandardKey.Copy
            if any(event.matches(key) for key in keys):
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        clipboard = QGuiApplication.clipboard()
        if event.matches(QKeySequence.StandardKey.Paste):
            self._paste(clipboard.text())
        elif event.matches(QKeySequence.StandardKey.Copy):
            rows = sorted({index.row() for index in self.selectedIndexes()})
            told = ((p.x, p.y, p.turn) for p in (self._places.places[row] for row in rows))
            clipboard.setText("\n".join("\t".join(f"{v:g}" for v in row) for row in told))
        else:
            super().keyPressEvent(event)


class PlacesPart(Part):
    """Where each pocket lies; on a grid this follows from the jig."""

    NAME = say("Places")

    def __init__(self, inspector: Inspector, desk: Desk, canvas: BedCanvas) -> None:
        self._canvas, self._choosing = canvas, False
        super().__init__(inspector, desk)
        canvas.choice_changed.connect(self._show_choice)
        canvas.jig_loosened.connect(lambda on: fill(self._loose, on))

    def build(self) -> None:
        form, session = self.form, self.session
        self._words = form.words()
        self._free = form.button(
            say("Place pockets one by one"),
            lambda: place_edits.one_by_one(session),
            say("Pockets stay where the grid has them; each may then be moved and turned"),
        )
        self.kind = QComboBox()
        self.kind.setAccessibleName(say("Pockets that the pieces lie in"))
        self.kind.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.kind.setMinimumContentsLength(6)
        self.kind.currentTextChanged.connect(self.kind.setToolTip)
        self.kind.activated.connect(self._take_kind)
        self._kind_row = form.row(say("Pockets for"), self.kind)
        self.model = PlacesModel(session)
        self.table = PlacesTable(self.model, self.paste)
        self.table.selectionModel().selectionChanged.connect(self._chosen)
        form.wide(self.table)
        add = ElidedButton(say("Add"), say("Another pocket, beside the last one"))
        add.clicked.connect(lambda: place_edits.add_place(session))
        self._remove = ElidedButton(say("Remove"), say("Take the chosen pockets away"))
        self._remove.clicked.connect(
            lambda: place_edits.remove_places(session, self._canvas.selected)
        )
        self._loose = ElidedButton(
            say("Move pockets"),
            say("Drag the chosen pockets in the picture, or move them with the arrow keys (J)"),
        )
        self._loose.setCheckable(True)
        self._loose.clicked.connect(self._canvas.loosen_jig)
        arrange = ElidedButton(
            say("Arrange"), say("Align, spread or turn the chosen pockets, or count all anew")
        )
        arrange.setMenu(self._arranging(arrange))
        self._rows = [form.beside(add, self._remove), form.beside(self._loose, arrange)]
        files = [
            (say("From a table…"), self._ask_table, say("Rows of x, y and turn in a CSV file")),
            (say("From a drawing…"), self._ask_drawing, say("A jig that was drawn, SVG or DXF")),
        ]
        made = []
        for words, run, tip in files:
            button = ElidedButton(words, tip)
            button.clicked.connect(run)
            made.append(button)
        form.beside(*made)
        self._back = form.button(
            say("Back to the grid"), lambda: place_edits.on_a_grid(session),
            say("The places are given up, and the grid counts that there was"),
        )  # fmt: skip

    def _arranging(self, button: ElidedButton) -> QMenu:
        menu, session = QMenu(button), self.session
        for edge in Edge:
            menu.addAction(
                say("Align {edge}", edge=edge.words),
                partial(self._with_several, partial(place_edits.align_places, edge=edge)),
            )
        menu.addSeparator()
        for words, across in (
            (say("Spread evenly from left to right"), True),
            (say("Spread evenly from near to far"), False),
        ):
            spread = partial(place_edits.spread_places, across=across)
            menu.addAction(words, partial(self._with_several, spread))
        menu.addSeparator()
        for degrees in (90, -90, 180, 15, -15):
            menu.addAction(
                say("Turn by {degrees}°", degrees=degrees),
                partial(self._turn, degrees),
            )
        menu.addSeparator()
        menu.addAction(say("Repeat as a grid…"), self._repeat)
        menu.addAction(say("Number by rows"), lambda: place_edits.number_by_rows(session))
        return menu

    def _turn(self, degrees: float) -> None:
        place_edits.turn_places(self.session, self._canvas.selected, degrees)

    def _repeat(self) -> None:
        job = self.session.job
        if job is not None:
            shape, jig = job.piece.shape, job.jig
            step = shape.width + jig.gap_x, shape.height + jig.gap_y
            RepeatDialog(self.session, self._canvas.selected, step, self.form).open()

    def _with_several(self, edit: Callable[..., None]) -> None:
        if len(self._canvas.selected) < 2:
            self.session.said.emit(
                say("Choose several pockets first: drag over them, or choose rows of the table.")
            )
            return
        edit(self.session, self._canvas.selected)

    def _take_kind(self, kind: int) -> None:
        self.session.edit(say("Pockets for another piece"), lambda job: as_kind(job, kind))

    def _ask_table(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self.form, say("Places of pockets"), "", say("Tables (*.csv *.txt)")
        )
        if name:
            self.take_table(Path(name))

    def take_table(self, path: Path) -> None:
        """Put the pockets where a table file tells."""
        self._take(lambda: read_places(path))

    def paste(self, text: str) -> None:
        """Put the pockets where copied rows tell."""
        self._take(lambda: places_of_text(text, say("What was copied")))

    def _take(self, read: Callable[[], tuple[Place, ...]]) -> None:
        try:
            place_edits.set_places(self.session, read())
        except BadInput as error:
            self.session.said.emit(str(error))

    def _ask_drawing(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self.form, say("Drawing of a jig"), "", say("Drawings (*.dxf *.svg)")
        )
        if name:
            read_drawing(self.desk, Path(name), self.form)

    # what is chosen here is chosen in the picture, and the other way round

    def _chosen(self) -> None:
        if not self._choosing:
            rows = {self.model.numbers[index.row()] for index in self.table.selectedIndexes()}
            self._choosing = True
            if len(rows) == 1:
                self._canvas.choose(min(rows))
            elif rows:
                self._canvas.choose_several(rows)
            self._choosing = False

    def _show_choice(self) -> None:
        if self._choosing or not self.model.places:
            return
        self._choosing = True
        model = self.table.selectionModel()
        model.clearSelection()
        how = QItemSelectionModel.SelectionFlag.Select | QItemSelectionModel.SelectionFlag.Rows
        chosen = self._canvas.selected
        rows = [row for row, number_ in enumerate(self.model.numbers) if number_ in chosen]
        for row in rows:
            model.select(self.model.index(row, 0), how)
        if rows:
            self.table.scrollTo(self.model.index(rows[0], 0))
        self._choosing = False

    def refresh(self) -> None:
        job = self.session.job
        if job is None:
            return
        single = bool(job.jig.places)
        told = own_places(job) if single else ()
        numbers = tuple(pocket.number for pocket in self._canvas.pockets) if single else ()
        self.model.show(told, numbers)
        for widget, shown in (
            (self._free, not single), (self.table, single), (self._back, single),
            (self._kind_row, len(job.jig.kinds) > 1), *((row, single) for row in self._rows),
        ):  # fmt: skip
            widget.setVisible(shown)
        self._fill_kinds(job)
        if single:
            self._show_choice()
        fixed(self.table, high=30 + 30 * max(1, min(ROWS - (len(job.jig.kinds) > 1), len(told))))
        self._words.setText("" if single else say("Pockets lie on the jig's grid."))
        self._words.setVisible(not single)
        self.thing.say(
            say_count(len(told), "{count} by itself", "{count} one by one") if single
            else say("on a grid")
        )  # fmt: skip

    def _fill_kinds(self, job: Faced) -> None:
        names = [spoken(kind.name) for kind in job.jig.kinds]
        if [self.kind.itemText(at) for at in range(self.kind.count())] != names:
            self.kind.clear()
            self.kind.addItems(names)
        self.kind.setCurrentIndex(job.jig.kind)
