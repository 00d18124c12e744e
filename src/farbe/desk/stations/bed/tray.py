"""The artworks under the bed, with their quantities; files are dropped on it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, QRect, QRectF, Qt
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QDrag,
    QDragEnterEvent,
    QDropEvent,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
)
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QMenu,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from farbe.apart.asking import ask
from farbe.art.read import SUFFIXES
from farbe.desk.fields import NumberField, fill
from farbe.desk.following import Following
from farbe.desk.form import label
from farbe.desk.images import paint_picture, rgb_image
from farbe.desk.stations.base import Desk
from farbe.desk.stations.bed.canvas import ARTWORK_MIME, BedCanvas
from farbe.desk.theme import area_of, drawn_at_scale, fixed, font, inset, px, theme
from farbe.edits.artwork import index_of, once_more
from farbe.edits.values import with_artwork
from farbe.follows.reading import trimmed
from farbe.layout.faced import Faced
from farbe.layout.figures import sizes, units
from farbe.layout.laid import allotted, counted
from farbe.model.artwork import ArtworkFile
from farbe.model.edit import Crop
from farbe.said import say, say_count

THUMB = 64


def with_quantity(job: Faced, index: int, quantity: int | None) -> Faced:
    """The job with another quantity of an artwork; None takes the rest, instead of the other."""
    arts = job.artworks
    if quantity is None:
        counts = [art.key for art in arts]
        printed = [what.artwork.key for what in allotted(job).prints.values() if what.artwork]
        arts = tuple(
            art.replace(quantity=printed.count(counts[i])) if art.quantity is None else art
            for i, art in enumerate(arts)
        )
    return with_artwork(job.replace(artworks=arts), index, quantity=quantity)


def with_crop(job: Faced, artwork: ArtworkFile, crop: Crop) -> Faced:
    """The job with an artwork of it cropped."""
    index = index_of(job, artwork)
    return with_artwork(job, index, edits=(*job.artworks[index].edits, crop))


def without_artwork(job: Faced, index: int) -> Faced:
    """The job without an artwork; pockets that were given it print as all do."""
    gone = job.artworks[index].key
    changes = tuple(c.replace(artwork=None) if c.artwork == gone else c for c in job.changes)
    return job.replace(
        artworks=(*job.artworks[:index], *job.artworks[index + 1 :]), changes=changes
    )


class Card(QWidget):
    """One artwork: its picture, name, size, how many, and in how many pockets it is."""

    WIDTH = 372

    def __init__(self, desk: Desk, index: int) -> None:
        super().__init__()
        self._desk, self._index, session = desk, index, desk.session
        fixed(self, high=84)
        self._grab: QPoint | None = None
        self._size = label("", "faint")
        self._shown: object = None
        self._name = label("", "head")
        self._rest = QPushButton(say("the rest"))
        self._rest.setCheckable(True)
        self._rest.setToolTip(say("This artwork takes the pockets that the others leave"))
        self._rest.clicked.connect(self._toggle_rest)
        self._rest.setProperty("role", "small")
        self.quantity = NumberField(
            session,
            say("Quantity {number}", number=index + 1),
            self._count,
            self._set,
            unit="×",
            digits=0,
        )
        # There may be a thousand cards.
        self.quantity.be_led()
        fixed(self.quantity, wide=66)
        remove = QPushButton(say("Remove"))
        remove.setProperty("role", "small")
        remove.setAccessibleName(say("Remove artwork {index}", index=index + 1))
        remove.clicked.connect(
            lambda: session.edit(say("Remove artwork"), lambda j: without_artwork(j, self._index))
        )
        below = QHBoxLayout()
        below.setSpacing(5)
        below.addWidget(self.quantity)
        below.addWidget(self._rest)
        below.addStretch()
        below.addWidget(self._more())
        below.addWidget(remove)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 7, 8, 7)
        column.setSpacing(2)
        inset(self, left=THUMB + 22)
        column.addWidget(self._name)
        column.addWidget(self._size)
        column.addLayout(below)

    def _more(self) -> QPushButton:
        """What else is done with an artwork, as a menu."""
        button = QPushButton(say("More"))
        button.setProperty("role", "small")
        button.setAccessibleName(say("More for artwork {index}", index=self._index + 1))
        menu = QMenu(button)
        menu.addAction(say("Replace by another file…"), self._ask_other)
        menu.addAction(say("Once more, at another size"), self.once_more)
        self._pages = menu.addAction(say("All pages, each an artwork"), self.all_pages)
        menu.addAction(say("Trim to what is drawn"), self.trim)
        menu.aboutToShow.connect(
            lambda: self._pages.setVisible(self._desk.results.pages.get(self._key(), 1) > 1)
        )
        button.setMenu(menu)
        self._menu = menu
        return button

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self._menu.popup(event.globalPos())

    def _key(self) -> str:
        job = self._desk.session.job
        return job.artworks[self._index].key if job is not None and self._art_there(job) else ""

    def _ask_other(self) -> None:
        job = self._desk.session.job
        if job is None or not self._art_there(job):
            return
        # Asked for now, since others may come into its place while it is asked about.
        other = job.artworks[self._index]
        kinds = " ".join(f"*{suffix}" for suffix in SUFFIXES)
        name, _ = QFileDialog.getOpenFileName(
            self,
            say("Replace the artwork"),
            "",
            say("Artwork ({kinds});;All files (*)", kinds=kinds),
        )
        if name:
            self._desk.intake.replace(other, Path(name))

    def once_more(self) -> None:
        """Take the artwork's file once more."""
        self._desk.session.edit(say("Once more"), lambda job: once_more(job, self._index))

    def all_pages(self) -> None:
        """Take every page of the file as an artwork of its own."""
        self._desk.intake.all_pages(self._key(), self._desk.results.pages.get(self._key(), 1))

    def trim(self) -> None:
        """Crop the artwork to what is drawn."""
        session, key = self._desk.session, self._key()
        job, store = session.job, session.store
        if job is None or not key:
            return
        file = job.artworks[self._index]

        def put(crop: Crop | None) -> None:
            if crop is None:
                session.said.emit(say("{file_name} has no empty edges.", file_name=file.file_name))
                return
            session.edit(say("Trim to what is drawn"), lambda j: with_crop(j, file, crop))

        self._desk.workers.start(
            f"trim {key}",
            lambda r: ask(trimmed, file, job, store, report=r),
            session.for_this_job(put),
            title=say("Looking at {file_name}", file_name=file.file_name),
        )

    def _art_there(self, job: Faced) -> bool:
        return self._index < len(job.artworks)

    def _count(self, job: Faced) -> float:
        if not self._art_there(job):
            return 0
        art = job.artworks[self._index]
        if art.quantity is not None:
            return art.quantity
        return counted(job)[art.key]

    def _set(self, job: Faced, value: float) -> Faced:
        return with_quantity(job, self._index, round(value))

    def _toggle_rest(self) -> None:
        job = self._desk.session.job
        if job is None:
            return
        rest = job.artworks[self._index].quantity is None
        count = round(self._count(job)) if rest else None
        self._desk.session.edit(say("Quantity"), lambda j: with_quantity(j, self._index, count))

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.LayoutRequest:
            self._make_room()
        elif event.type() in (QEvent.Type.StyleChange, QEvent.Type.FontChange):
            # Its buttons are not dressed yet.
            QApplication.postEvent(self, QEvent(QEvent.Type.LayoutRequest))
        return super().event(event)

    def _make_room(self) -> None:
        """As wide as the cards usually are, and wider if its words are."""
        layout = self.layout()
        if layout is not None:
            self.setFixedWidth(max(px(self.WIDTH), layout.sizeHint().width()))

    def refresh(self) -> None:
        job = self._desk.session.job
        if job is None or not self._art_there(job):
            return
        self.update()
        art, on_film = job.artworks[self._index], job.roll is not None
        printed, pixels = counted(job)[art.key], self._desk.results.widths.get(art.key)
        # All cards are asked at each edit of artworks.
        shown = art, on_film, printed, pixels, units(), px(self.WIDTH)
        if shown == self._shown:
            return
        self._shown = shown
        self.quantity.refresh()
        room = px(self.WIDTH - THUMB - 34)
        metrics = self._name.fontMetrics()
        self._name.setText(metrics.elidedText(art.file_name, Qt.TextElideMode.ElideMiddle, room))
        self._name.setToolTip(art.file_name)
        self.setAccessibleName(say("Artwork {file_name}", file_name=art.file_name))
        pockets = say_count(printed, "{count} pocket", "{count} pockets")
        wide, high = art.cropped
        dense = say(", {pixels} ppi", pixels=f"{pixels / wide * 25.4:.0f}") if pixels else ""
        where = (
            say("{printed} on film", printed=printed)
            if on_film
            else say("in {pockets}", pockets=pockets)
        )
        self._size.setText(f"{sizes(wide, high, digits=1)}{dense}, {where}")
        self._size.setToolTip(self._size.text())
        rest = art.quantity is None and not on_film
        self._rest.setVisible(not on_film)
        fill(self._rest, rest)
        self._make_room()

    def _thumb(self) -> QImage | None:
        job = self._desk.session.job
        if job is None or not self._art_there(job):
            return None
        pixels = self._desk.results.thumbs.get(job.artworks[self._index].key)
        return None if pixels is None else rgb_image(pixels)

    def paintEvent(self, _: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        drawn_at_scale(painter)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setPen(QPen(QColor(t.line), 1))
        painter.setBrush(QColor(t.field))
        painter.drawRect(area_of(self).adjusted(0.5, 0.5, -0.5, -0.5))
        frame = QRectF(10, 10, THUMB, THUMB)
        painter.fillRect(frame, QColor("#767676"))
        thumb = self._thumb()
        if thumb is not None:
            scale = THUMB / max(thumb.width(), thumb.height())
            inner = QRectF(0, 0, thumb.width() * scale, thumb.height() * scale)
            inner.moveCenter(frame.center())
            paint_picture(painter, inner, thumb)
        painter.end()

    # dragging onto a pocket

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._grab = event.position().toPoint()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        job = self._desk.session.job
        if self._grab is None or job is None or not self._art_there(job):
            return
        if (event.position().toPoint() - self._grab).manhattanLength() > 8:
            self._grab = None
            drag, data = QDrag(self), QMimeData()
            data.setData(ARTWORK_MIME, job.artworks[self._index].key.encode())
            drag.setMimeData(data)
            thumb = self._thumb()
            if thumb is not None:
                drag.setPixmap(QPixmap.fromImage(thumb))
            drag.exec(Qt.DropAction.CopyAction)


#: How high the line over the cards is.
HEAD = 32


class Tray(Following, QWidget):
    """What is printed, and a place to drop files on."""

    SHOWN_LATER = True

    def __init__(self, desk: Desk, canvas: BedCanvas) -> None:
        super().__init__()
        self._desk, self._canvas = desk, canvas
        self.setAcceptDrops(True)
        self.setProperty("wanted", 136)
        self.setAccessibleName(say("Artworks"))
        self._cards: list[Card] = []
        self._told: tuple[object, ...] = ()
        self._said = ""
        self._choose = QPushButton(say("Add files…"))
        self._choose.clicked.connect(self._ask)
        self._holder = QWidget()
        self._row = QHBoxLayout(self._holder)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(10)
        self._row.addWidget(self._choose)
        self._row.addStretch()
        self._scroll = QScrollArea()
        self._scroll.setWidget(self._holder)
        self._scroll.setWidgetResizable(True)
        self._scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._holder.setAutoFillBackground(False)
        self._scroll.viewport().setAutoFillBackground(False)
        self._scroll.setProperty("role", "clear")
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 0, 8, 4)
        inset(self, above=HEAD)
        column.addWidget(self._scroll)
        desk.results.stamps_changed.connect(self._show_thumbs)
        self.follow(desk.session)

    def _ask(self) -> None:
        kinds = " ".join(f"*{suffix}" for suffix in SUFFIXES)
        names, _ = QFileDialog.getOpenFileNames(
            self, say("Artwork"), "", say("Artwork ({kinds});;All files (*)", kinds=kinds)
        )
        if names:
            self._desk.intake.add([Path(name) for name in names])

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self._desk.intake.drop(event.mimeData().urls())

    def _show_thumbs(self) -> None:
        for card in self._cards:
            card.refresh()

    def refresh(self) -> None:
        """Show the artworks of the job as it is now."""
        job = self._desk.session.job
        count = len(job.artworks) if job else 0
        told = (
            (job.artworks, job.roll is None, counted(job), units(), px(Card.WIDTH)) if job else ()
        )
        said, self._said = self._said, self._words(job) if job else ""
        if said != self._said:
            self.update(QRect(0, 0, self.width(), px(HEAD)))
        if told and told == self._told:
            # Most edits are of something else.
            return
        self._told = told
        while len(self._cards) < count:
            card = Card(self._desk, len(self._cards))
            self._row.insertWidget(len(self._cards), card)
            self._cards.append(card)
        for index, card in enumerate(self._cards):
            card.setVisible(index < count)
            card.refresh()
        self.update()

    def _words(self, job: Faced) -> str:
        """What the quantities come to."""
        if not job.artworks:
            return say("drop pictures here; each may have a quantity")
        found = allotted(job)
        if job.roll is not None:
            return say(
                "{prints} on the film; quantities say how many of each", prints=len(found.prints)
            )
        words = [
            say(
                "{prints} of {pockets} pockets print",
                prints=len(found.prints),
                pockets=len(found.prints) + len(found.empty),
            )
        ]
        words += [
            say("{over} × {file_name} find no pocket", over=over, file_name=art.file_name)
            for art, over in found.missing
        ]
        return "; ".join(words) + say("; drag a card onto a pocket to print it there")

    def paintEvent(self, _: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(t.paper))
        painter.setPen(QColor(t.line))
        painter.drawLine(0, 0, self.width(), 0)
        painter.setFont(font(13, bold=True))
        painter.setPen(QColor(t.text))
        painter.drawText(QPointF(16, px(22)), say("Artwork"))
        left = px(78)
        painter.setFont(font(12.5))
        painter.setPen(QColor(t.faint))
        room = self.width() - left - 14
        words = painter.fontMetrics().elidedText(self._said, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QPointF(left, px(22)), words)
        painter.end()
