"""The section: the stack cut through from the side, and the control to change it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from pydantic import ValidationError
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QFontMetricsF,
    QGuiApplication,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QLineEdit, QMenu, QWidget

from farbe.desk.following import Following
from farbe.desk.marks import paint_eye, paint_film, paint_mirror
from farbe.desk.session import Session
from farbe.desk.theme import area_of, drawn_at_scale, plain_font, text_scale, theme
from farbe.edits import stack as stack_edits
from farbe.layout.faced import Faced
from farbe.layout.figures import bare_length, measure
from farbe.model.layer import Layer
from farbe.model.piece import Material, Reader
from farbe.model.printer import LayerKind
from farbe.plan.order import mirrored
from farbe.plan.readers import ReadBy, mirror_words
from farbe.plan.sentence import surface_words
from farbe.said import say, say_count, spoken

HIT, MAX_HITS, GAP = 11.0, 3, 3.0
SLAB = 32.0
#: How far each kind of film is drawn in from the slab's ends.
INSETS = {
    LayerKind.COLOUR: 6,
    LayerKind.WHITE: 14,
    LayerKind.BLACKOUT: 20,
    LayerKind.VARNISH: 26,
    LayerKind.NAMED: 32,
}
LEFT = 118.0
NAMES = 268.0


@dataclass(frozen=True)
class PlacedFilm:
    """A film's place in the drawing, by its index in the stack."""

    index: int
    layer: Layer
    box: QRectF


class Section(Following, QWidget):
    """Click a film to choose it, drag it to reorder, press + to add, drag the eye across."""

    SHOWN_LATER = True

    chosen = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.choice = ""
        self._drag: PlacedFilm | None = None
        self._gap: int | None = None
        self._eye_y: float | None = None
        self._grabbed_at = 0.0
        #: What follows from the job in what is drawn.
        self._shown: object = None
        self.setMinimumHeight(96)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(say("Section of the stack"))
        session.changed.connect(self._keep_choice)
        self.follow(session)

    def sizeHint(self) -> QSize:
        return QSize(600, 178)

    def choose(self, name: str) -> None:
        self.choice = name
        self.chosen.emit(name)
        self.update()

    def _keep_choice(self) -> None:
        job = self._session.job
        if job is not None and job.stack and self.choice not in {la.name for la in job.stack}:
            self.choose(job.stack[0].name)

    def refresh(self) -> None:
        """Show the stack as it is now; most edits leave it as it was."""
        job = self._session.job
        words = self._words(job) if job else ""
        # With how lengths are written now.
        shown = job and (job.stack, job.piece, job.reader, job.two_readers, words, measure(0.5))
        if shown != self._shown:
            self._shown = shown
            self.setAccessibleDescription(words)
            # It takes as long as all values together, which are painted by themselves.
            self._session.once_drawn("section", self.update)

    @staticmethod
    def _words(job: Faced) -> str:
        """The stack in words, for who does not see the drawing."""
        names = ", ".join(la.words + ("" if la.on else say(" (off)")) for la in job.stack)
        return say(
            "From the substrate up: {names}. {mirroring}", names=names, mirroring=mirror_words(job)
        )

    # geometry

    def _area(self) -> QRectF:
        return area_of(self)

    def _slab(self) -> QRectF:
        width = max(160.0, self._area().width() - LEFT - NAMES)
        return QRectF(LEFT, self._area().height() - SLAB - 16, width, SLAB)

    def films(self) -> list[PlacedFilm]:
        """Where each film is drawn, substrate up; thinner when there are many."""
        job = self._session.job
        if job is None:
            return []
        slab = self._slab()
        thick = [HIT * min(la.hits, MAX_HITS) ** 0.5 for la in job.stack]
        room = slab.top() - 52 - GAP * len(thick)
        squeeze = min(1.25, room / max(1.0, sum(thick)))
        placed, top = [], slab.top()
        for index, (layer, height) in enumerate(zip(job.stack, thick, strict=True)):
            inset = INSETS[layer.kind]
            top -= height * squeeze + GAP
            box = QRectF(slab.left() + inset, top, slab.width() - 2 * inset, height * squeeze)
            placed.append(PlacedFilm(index, layer, box))
        return placed

    def _gap_y(self, gap: int) -> float:
        films = self.films()
        if gap < len(films):
            return films[gap].box.bottom() + GAP / 2
        return (films[-1].box.top() if films else self._slab().top()) - GAP / 2

    def _gap_at(self, y: float) -> int:
        return sum(y < placed.box.center().y() for placed in self.films())

    def _film_at(self, point: QPointF) -> PlacedFilm | None:
        for placed in self.films():
            grown = placed.box.adjusted(-8, -GAP / 2, 8 + NAMES, GAP / 2)
            if grown.contains(point):
                return placed
        return None

    def _plus(self) -> QRectF:
        slab, y = self._slab(), self._gap_y(len(self.films())) - 12
        return QRectF(slab.right() - 10, y - 8, 20, 20)

    def _eye(self) -> QPointF:
        job, slab = self._session.job, self._slab()
        if self._eye_y is not None:
            return QPointF(58, self._eye_y)
        below = job is not None and job.reader is not Reader.FACE
        return QPointF(58, slab.bottom() - 6 if below else 62)

    # drawing

    def paintEvent(self, _: QPaintEvent) -> None:
        t, job = theme(), self._session.job
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(t.paper))
        drawn_at_scale(painter)
        painter.setPen(QColor(t.line))
        painter.drawLine(QPointF(0, 0), QPointF(self._area().width(), 0))
        if job is not None:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_heading(painter, job)
            self._paint_slab(painter, job)
            self._paint_films(painter, job)
            self._paint_eye(painter, job)
            self._paint_plus(painter)
        if self.hasFocus():
            painter.setPen(QPen(QColor(t.accent), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self._area().adjusted(2, 3, -3, -3))
        painter.end()

    def _paint_heading(self, painter: QPainter, job: Faced) -> None:
        t = theme()
        painter.setFont(plain_font(13, bold=True))
        painter.setPen(QColor(t.text))
        painter.drawText(QPointF(16, 22), say("Section"))
        painter.setFont(plain_font(12.5))
        painter.setPen(QColor(t.faint))
        words = say(
            "the layers cut through, printed from the bottom up. {mirroring}",
            mirroring=mirror_words(job),
        )
        metrics = QFontMetricsF(painter.font())
        shown = metrics.elidedText(words, Qt.TextElideMode.ElideRight, self._area().width() - 96)
        painter.drawText(QPointF(78, 22), shown)

    def _paint_slab(self, painter: QPainter, job: Faced) -> None:
        slab, surface = self._slab(), job.piece.surface
        transfer = job.reader is Reader.TRANSFER
        clear = surface.material is Material.CLEAR or transfer
        painter.setPen(QPen(QColor("#8a8a8a"), 1))
        painter.setBrush(QColor("#d7e2e6") if clear else QColor(surface.colour))
        painter.drawRect(slab)
        if clear:
            painter.setPen(QPen(QColor("#b3c3ca"), 1))
            painter.save()
            painter.setClipRect(slab)
            for x in range(-40, int(slab.width()), 46):
                start = QPointF(slab.left() + x, slab.bottom())
                painter.drawLine(start, start + QPointF(SLAB, -SLAB))
            painter.restore()
        lightness = QColor("#d7e2e6" if clear else surface.colour).lightnessF()
        painter.setPen(QColor("#ffffff" if lightness < 0.55 else "#1b1b1b"))
        painter.setFont(plain_font(12.5))
        what = (
            say("carrier film, pressed onto {surface}", surface=surface_words(job.piece))
            if transfer
            else f"{spoken(job.piece.name)}, {surface_words(job.piece)}"
        )
        high = (
            say(", {height} high", height=measure(job.piece.height))
            if job.piece.height and not transfer
            else ""
        )
        room = slab.adjusted(12, 0, -8, 0)
        words = painter.fontMetrics().elidedText(
            what + high, Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_films(self, painter: QPainter, job: Faced) -> None:
        t = theme()
        for placed in self.films():
            box, layer = placed.box, placed.layer
            chosen = layer.name == self.choice
            painter.setOpacity(1.0 if layer.on else 0.25)
            paint_film(painter, box, layer.kind)
            painter.setOpacity(1.0)
            if chosen:
                painter.setPen(QPen(QColor(t.accent), 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(box.adjusted(-2, -1, 2, 1))
            middle = box.center().y()
            row = QRectF(self._slab().right() + 22, middle - 10, NAMES - 30, 20)
            painter.setFont(plain_font(12.5, bold=chosen))
            painter.setPen(QColor(t.accent if chosen else t.text if layer.on else t.faint))
            metrics = QFontMetricsF(painter.font())
            name = metrics.elidedText(layer.words, Qt.TextElideMode.ElideRight, 104)
            painter.drawText(row, Qt.AlignmentFlag.AlignVCenter, name)
            painter.setFont(plain_font(12.5))
            painter.setPen(QColor(t.faint))
            painter.drawText(
                row.adjusted(110, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, layer_figures(layer)
            )
            painter.drawText(
                QRectF(LEFT - 26, middle - 10, 18, 20),
                Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                str(placed.index + 1),
            )
        if self._gap is not None:
            y = self._gap_y(self._gap)
            painter.setPen(QPen(QColor(t.accent), 3))
            painter.drawLine(QPointF(LEFT - 6, y), QPointF(self._slab().right() + 6, y))

    def _paint_eye(self, painter: QPainter, job: Faced) -> None:
        self._paint_reader(painter, self._eye(), QColor(theme().accent), say("reader"))
        if job.two_readers:
            slab, own_below = self._slab(), job.reader is Reader.THROUGH
            other = QPointF(58, 62 if own_below else slab.bottom() - 6)
            self._paint_reader(painter, other, QColor(theme().faint), say("other reader"))
        elif mirrored(job.reader):
            colour = QColor(theme().accent)
            paint_mirror(painter, QRectF(18, 36, 26, 18), colour)
            painter.setPen(colour)
            painter.setFont(plain_font(12))
            painter.drawText(QPointF(50, 50), say("mirrored"))

    def _paint_reader(self, painter: QPainter, centre: QPointF, colour: QColor, words: str) -> None:
        """An eye with an arrow to what it looks at."""
        below = centre.y() > self._slab().top()
        paint_eye(painter, centre, 34, colour)
        painter.setFont(plain_font(12, bold=True))
        painter.setPen(colour)
        side = -1 if below else 1
        painter.drawText(
            QRectF(8, centre.y() + (15 if not below else -34), 100, 18),
            Qt.AlignmentFlag.AlignCenter,
            painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, 98),
        )
        job = self._session.job
        if job is not None and job.two_readers:
            # Between two eyes there is no room for arrows.
            return
        tail = centre + QPointF(0, side * 36)
        tip = centre + QPointF(0, side * 56)
        painter.setPen(QPen(colour, 1.8))
        painter.drawLine(tail, tip)
        for x in (-4, 4):
            painter.drawLine(tip, tip + QPointF(x, -side * 6))

    def _paint_plus(self, painter: QPainter) -> None:
        t, plus, slab = theme(), self._plus(), self._slab()
        y = plus.center().y()
        painter.setPen(QPen(QColor(t.line), 1.4, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(slab.left(), y), QPointF(plus.left(), y))
        painter.setPen(QPen(QColor(t.faint), 1.4))
        painter.setBrush(QColor(t.field))
        painter.drawEllipse(plus)
        painter.drawLine(QPointF(plus.center().x() - 4, y), QPointF(plus.center().x() + 4, y))
        painter.drawLine(QPointF(plus.center().x(), y - 4), QPointF(plus.center().x(), y + 4))

    # mouse and keys

    def mousePressEvent(self, event: QMouseEvent) -> None:
        point = event.position() / text_scale()
        if event.button() != Qt.MouseButton.LeftButton or self._session.job is None:
            return
        self._grabbed_at = point.y()
        if (point - self._eye()).manhattanLength() < 34:
            self._eye_y = point.y()
        elif self._plus().adjusted(-4, -4, 4, 4).contains(point):
            self._add_menu(len(self.films())).popup(
                self.mapToGlobal((point * text_scale()).toPoint())
            )
        else:
            self._drag = self._film_at(point)
            if self._drag is not None:
                self.choose(self._drag.layer.name)
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self._film_at(event.position() / text_scale()) is not None:
            self.rename()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        point = event.position() / text_scale()
        if self._eye_y is not None:
            self._eye_y = max(56.0, min(self._area().height() - 20.0, point.y()))
        elif self._drag is not None and abs(point.y() - self._grabbed_at) > 4:
            self._gap = self._gap_at(point.y())
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
        elif self._drag is None:
            over = self._film_at(point) or (point - self._eye()).manhattanLength() < 34
            self.setCursor(
                Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor
            )
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._eye_y is not None:
            below = self._eye_y > self._slab().top()
            self._eye_y = None
            job = self._session.job
            if job is not None and below != mirrored(job.reader):
                if job.two_readers:
                    self._session.look_at(other_side=not self._session.other_side)
                else:
                    stack_edits.set_reader(self._session, ReadBy.THROUGH if below else ReadBy.FACE)
        if self._drag is not None and self._gap is not None:
            stack_edits.move(self._session, self._drag.layer.name, self._gap)
        self._drag = self._gap = None
        self.unsetCursor()
        self.update()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        placed = self._film_at(QPointF(event.pos()) / text_scale())
        gap = self._gap_at(event.pos().y() / text_scale())
        menu = self._add_menu(gap)
        if placed is not None:
            self.choose(placed.layer.name)
            name = placed.layer.name
            menu.addSeparator()
            switch = say("Switch off") if placed.layer.on else say("Switch on")
            menu.addAction(switch, lambda: stack_edits.switch(self._session, name))
            if placed.layer.kind is not LayerKind.COLOUR:
                menu.addAction(say("Copy"), self.copy)
                menu.addAction(say("Duplicate"), lambda: self._duplicate(name))
            menu.addAction(say("Rename"), self.rename)
            menu.addAction(say("Remove"), lambda: stack_edits.remove(self._session, name))
        menu.popup(event.globalPos())

    def _add_menu(self, gap: int) -> QMenu:
        menu = QMenu(self)
        for kind in stack_edits.addable(self._session.job):
            menu.addAction(say("Add {kind} here", kind=kind.words), partial(self._add, kind, gap))
        return menu

    def copy(self) -> None:
        """Put the chosen layer on the clipboard, for another job."""
        job = self._session.job
        layer = stack_edits.layer_named(job, self.choice) if job is not None else None
        if layer is not None:
            QGuiApplication.clipboard().setText(layer.model_dump_json())

    def paste(self) -> None:
        """Put the layer of the clipboard above the chosen one."""
        text = QGuiApplication.clipboard().text()
        try:
            layer = Layer.model_validate_json(text)
        except ValidationError:
            self._session.said.emit(say("There is no layer on the clipboard; copy one first."))
            return
        self.choose(stack_edits.insert(self._session, layer, self.choice))

    def rename(self) -> None:
        """Type another name for the chosen layer where it stands."""
        placed = next((film for film in self.films() if film.layer.name == self.choice), None)
        if placed is None:
            return
        field = QLineEdit(self.choice, self)
        field.setAccessibleName(say("New name of the layer"))
        place = QRectF(self._slab().right() + 14, placed.box.center().y() - 13, 150, 26)
        k = text_scale()
        shown = QRectF(place.x() * k, place.y() * k, place.width() * k, place.height() * k)
        field.setGeometry(shown.toRect())
        field.editingFinished.connect(self._renamed)
        field.show()
        field.selectAll()
        field.setFocus()

    def _renamed(self) -> None:
        field = self.findChild(QLineEdit)
        if field is None:
            return
        # Going away takes the focus, which ends the edit a second time.
        field.blockSignals(True)
        name, before = field.text().strip(), self.choice
        field.setParent(None)
        field.deleteLater()
        self.setFocus()
        if name and name != before and stack_edits.rename(self._session, before, name):
            self.choose(name)

    def give_up(self) -> bool:
        """Take back a name that is being typed, or a drag; whether there was any."""
        field = self.findChild(QLineEdit)
        if field is not None:
            field.blockSignals(True)
            field.setParent(None)
            field.deleteLater()
            self.setFocus()
            return True
        half = self._drag is not None or self._eye_y is not None
        self._drag = self._gap = self._eye_y = None
        self.unsetCursor()
        self.update()
        return half

    def _duplicate(self, name: str) -> None:
        self.choose(stack_edits.duplicate(self._session, name))

    def _add(self, kind: LayerKind, gap: int) -> None:
        self.choose(stack_edits.add(self._session, kind, gap))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        job = self._session.job
        names = [la.name for la in job.stack] if job else []
        if self.choice not in names:
            super().keyPressEvent(event)
            return
        at = names.index(self.choice)
        step = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1}.get(Qt.Key(event.key()))
        if step is not None and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            stack_edits.move(self._session, self.choice, at + 2 if step > 0 else at - 1)
        elif step is not None:
            self.choose(names[max(0, min(len(names) - 1, at + step))])
        elif (run := self._keys(at).get(Qt.Key(event.key()))) is not None:
            run()
        elif event.matches(QKeySequence.StandardKey.Copy):
            self.copy()
        elif event.matches(QKeySequence.StandardKey.Paste):
            self.paste()
        else:
            super().keyPressEvent(event)

    def _keys(self, at: int) -> dict[Qt.Key, Callable[[], object]]:
        """What a key does with the chosen layer, the film at this place."""
        place = self.mapToGlobal(self._plus().center().toPoint())
        return {
            Qt.Key.Key_Delete: lambda: stack_edits.remove(self._session, self.choice),
            Qt.Key.Key_Insert: lambda: self._add_menu(at + 1).popup(place),
            Qt.Key.Key_F2: self.rename,
            Qt.Key.Key_D: lambda: self._duplicate(self.choice),
            Qt.Key.Key_X: lambda: stack_edits.switch(self._session, self.choice),
        }


def is_layer(text: str) -> bool:
    """Whether a text on the clipboard is a layer."""
    try:
        Layer.model_validate_json(text)
    except ValidationError:
        return False
    return True


def layer_figures(layer: Layer) -> str:
    """Hits and choke of a layer in a few words."""
    if not layer.on:
        return say("off")
    hits = say_count(layer.hits, "{count} hit", "{count} hits")
    if layer.kind is LayerKind.COLOUR:
        return f"C M Y K, {hits}"
    return (
        say("{hits}, choke {choke}", hits=hits, choke=bare_length(layer.choke))
        if layer.choke
        else hits
    )
