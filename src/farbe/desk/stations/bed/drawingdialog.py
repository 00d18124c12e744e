"""What the lines of a jig's drawing are: asked, with a picture of them."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)
from shapely import affinity

from farbe.desk.amounts import parse_amount
from farbe.desk.stations.base import Desk
from farbe.desk.theme import font, px, theme
from farbe.files.jigdrawing import JOINED, read_jig_drawing
from farbe.layout.drawnjig import (
    DrawnJig,
    DrawnKind,
    Use,
    kinds_of,
    pocket_of,
    proposed,
    unclosed_words,
    with_drawn,
)
from farbe.layout.faced import Faced
from farbe.layout.figures import bare_length, units
from farbe.layout.outline import outline
from farbe.model.base import BadInput
from farbe.said import begun, say

#: Letters by which kinds are told apart in the picture.
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
#: Kinds beyond this are left out, which is said; a drawing of a jig has few.
MOST = 12


def read_drawing(desk: Desk, path: Path, over: QWidget, joined: float = JOINED) -> None:
    """Read a drawing in a worker, then ask what its lines are."""

    def ask(drawn: DrawnJig) -> None:
        if desk.session.job is not None:
            DrawingDialog(desk, path, drawn, joined, over).open()

    desk.workers.start(
        "drawing",
        lambda _: read_jig_drawing(path, joined),
        desk.session.for_this_job(ask),
        title=say("Reading {path}", path=path.name),
    )


class DrawingPicture(QWidget):
    """The board with its outlines, each with the letter of its kind."""

    def __init__(self, drawn: DrawnJig) -> None:
        super().__init__()
        self._drawn, self.kinds = drawn, tuple[DrawnKind, ...]()
        self.uses: tuple[Use, ...] = ()
        self.setMinimumSize(QSize(px(520), px(360)))
        self.setAccessibleName(say("The drawing"))

    def show_kinds(
        self, drawn: DrawnJig, kinds: tuple[DrawnKind, ...], uses: tuple[Use, ...]
    ) -> None:
        """Show a drawing with what its outlines are."""
        self._drawn, self.kinds, self.uses = drawn, kinds, uses
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme().field))
        lines = [one.line for one in self._drawn.pockets]
        lines += [] if self._drawn.board is None else [self._drawn.board]
        left = min(line.bounds[0] for line in lines)
        bottom = min(line.bounds[1] for line in lines)
        right, top = max(ln.bounds[2] for ln in lines), max(ln.bounds[3] for ln in lines)
        scale = min((self.width() - 20) / (right - left), (self.height() - 20) / (top - bottom))
        off_x = (self.width() - (right - left) * scale) / 2
        off_y = (self.height() - (top - bottom) * scale) / 2

        def at(x: float, y: float) -> QPointF:
            return QPointF(off_x + (x - left) * scale, off_y + (top - y) * scale)

        ink = QColor(theme().text)
        if self._drawn.board is not None:
            painter.setPen(QPen(ink, 1))
            painter.drawPolygon(QPolygonF([at(*c) for c in self._drawn.board.exterior.coords]))
        painter.setFont(font(10.5, bold=True))
        for letter, kind, use in zip(LETTERS, self.kinds, self.uses, strict=False):
            shape = outline(kind.shape)
            pen = QPen(QColor(theme().accent) if use is Use.PIECE else ink, 1.6)
            if use is Use.NOTHING:
                pen = QPen(ink, 0.8, Qt.PenStyle.DotLine)
            for lies in kind.lies:
                turned = affinity.rotate(shape, lies.turn, origin=(0, 0))
                corners = [at(lies.x + x, lies.y + y) for x, y in turned.exterior.coords]
                painter.setPen(pen)
                painter.setBrush(ink if use is Use.PIN else Qt.BrushStyle.NoBrush)
                painter.drawPolygon(QPolygonF(corners))
                if use is not Use.PIN:
                    painter.drawText(at(lies.x, lies.y) + QPointF(-4, 5), letter)


class DrawingDialog(QDialog):
    """The kinds of outline with what each is, the gap that is closed, and the clearance."""

    def __init__(
        self, desk: Desk, path: Path, drawn: DrawnJig, joined: float, over: QWidget
    ) -> None:
        super().__init__(over.window())
        self._desk, self._path, self._drawn = desk, path, drawn
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle(say("Jig from {path}", path=path.name))
        self._kinds: tuple[DrawnKind, ...] = ()
        self._gone = False
        self.uses: list[QComboBox] = []
        self.clearance = QLineEdit(bare_length(desk.session.job.cutting.clearance, 3)
                                   if desk.session.job is not None else "0")  # fmt: skip
        self.clearance.setAccessibleName(say("Clearance in the drawing"))
        self.clearance.setToolTip(say("How much larger pockets are drawn than pieces, all around"))
        self.clearance.editingFinished.connect(self._sort_out)
        self.gap = QLineEdit(bare_length(joined, 3))
        self.gap.setAccessibleName(say("Gaps up to"))
        self.gap.setToolTip(say("Ends of lines that lie so near are taken to meet"))
        self.gap.editingFinished.connect(self._read_again)
        self._picture = DrawingPicture(drawn)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self._form = QFormLayout()
        column = QVBoxLayout()
        column.addLayout(self._form)
        column.addWidget(self.words)
        column.addStretch(1)
        buttons = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel
        )
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        row = QHBoxLayout()
        row.addWidget(self._picture, 1)
        row.addLayout(column)
        whole = QVBoxLayout(self)
        whole.addLayout(row)
        whole.addWidget(buttons)
        self._form.addRow(say("Clearance, {unit}", unit=units().value), self.clearance)
        self._form.addRow(say("Gaps up to, {unit}", unit=units().value), self.gap)
        self._sort_out()

    def _amount(self, line: QLineEdit) -> float:
        return parse_amount(line.text())

    def _sort_out(self) -> None:
        """Tell the kinds apart by the clearance, and propose what each is."""
        job = self._desk.session.job
        if job is None:
            return
        try:
            pocket = pocket_of(job.first.piece.shape, self._amount(self.clearance))
        except BadInput as error:
            self.words.setText(str(error))
            return
        drawn = self._drawn

        def take(kinds: tuple[DrawnKind, ...]) -> None:
            if self._gone:
                return
            if kinds != self._kinds:
                self._kinds = kinds
                self._list(proposed(kinds, pocket))
            self._show()

        # A thousand outlines are held against each other, which takes its time.
        self._desk.workers.start(
            "drawing", lambda _: kinds_of(drawn, pocket), take,
            title=say("Reading {path}", path=self._path.name),
        )  # fmt: skip

    def _list(self, uses: tuple[Use, ...]) -> None:
        for combo in self.uses:
            self._form.removeRow(combo)
        self.uses = []
        for letter, kind, use in zip(LETTERS[:MOST], self._kinds, uses, strict=False):
            combo = QComboBox()
            combo.addItems([begun(one.words) for one in Use])
            combo.setCurrentIndex(list(Use).index(use))
            name = f"{letter}: {kind.words}"
            combo.setAccessibleName(name)
            combo.currentIndexChanged.connect(self._show)
            self._form.addRow(name, combo)
            self.uses.append(combo)

    def chosen(self) -> tuple[Use, ...]:
        """What each kind is said to be; kinds that are too many to be listed are nothing."""
        listed = [list(Use)[combo.currentIndex()] for combo in self.uses]
        return (*listed, *(Use.NOTHING for _ in self._kinds[len(listed) :]))

    def _show(self) -> None:
        self._picture.show_kinds(self._drawn, self._kinds, self.chosen())
        board = (
            say("The outermost line is the board's edge.") if self._drawn.board is not None
            else say("No line lies around all others, so the board stays as it is.")
        )  # fmt: skip
        more = len(self._kinds) - len(self.uses)
        left_out = (
            say("{count} more shapes are left out; draw pockets alike.", count=more) if more else ""
        )
        words = (board, left_out, unclosed_words(self._drawn))
        self.words.setText("\n".join(part for part in words if part))

    def _read_again(self) -> None:
        """Another gap: the drawing is read anew, and asked about anew."""
        try:
            joined = self._amount(self.gap)
        except BadInput as error:
            self.words.setText(str(error))
            return

        def take(drawn: DrawnJig) -> None:
            if self._gone:
                return
            self._drawn = drawn
            self._sort_out()

        self._desk.workers.start(
            "drawing",
            lambda _: read_jig_drawing(self._path, joined),
            take,
            title=say("Reading {path}", path=self._path.name),
        )

    def done(self, result: int) -> None:
        """Close; what is still worked out for it is not wanted any more."""
        self._gone = True
        super().done(result)

    def accept(self) -> None:
        job = self._desk.session.job
        if job is None:
            return
        try:
            made = with_drawn(
                job.first, self._drawn, self._kinds, self.chosen(), self._amount(self.clearance)
            )
        except BadInput as error:
            self.words.setText(str(error))
            return
        self._desk.session.edit(say("Jig from a drawing"), lambda j: Faced(made.job, j.number))
        super().accept()
