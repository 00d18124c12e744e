"""Piece: what is printed on and who reads it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QFileDialog, QPushButton

from farbe.desk import stackedits
from farbe.desk.canvas import Canvas
from farbe.desk.fields import ChoiceField, ColourField, NumberField, SwitchField, TextField
from farbe.desk.form import Form
from farbe.desk.stations.base import Desk, StationView, scrolled, with_piece, with_surface
from farbe.desk.stations.bededits import both_sides
from farbe.desk.theme import font
from farbe.files.outlinefile import read_outline
from farbe.layout.outline import outline
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.model.piece import Circle, Ellipse, Material, Outline, Reader, Rectangle, Shape, Surface
from farbe.plan.readers import ReadBy, mirror_words, order_words, read_by
from farbe.plan.sentence import number, shape_words

#: Pixels within which an edge is taken hold of.
GRIP = 7.0
#: Surfaces that are often met; a click states one.
SURFACES = (
    Surface(colour="#1d3b31", name="steel, dark green"),
    Surface(colour="#ffffff", name="white board"),
    Surface(colour="#c99f6a", name="wood"),
    Surface(material=Material.CLEAR, name="clear film"),
    Surface(material=Material.TRANSLUCENT, colour="#eef0ee", name="opal acrylic"),
    Surface(material=Material.TEXTILE, colour="#23262e", name="dark cotton"),
)


def with_shape_kind(job: Job, kind: str) -> Job:
    """The same piece in another kind of shape, as large as before."""
    shape = job.piece.shape
    if kind == shape.kind:
        return job
    width, height = shape.width, shape.height
    made: Shape
    if kind == "circle":
        made = Circle(diameter=max(width, height))
    elif kind == "ellipse":
        made = Ellipse(width=width, height=height)
    elif kind == "outline":
        raise BadInput("Choose the drawing with the button below.")
    else:
        made = Rectangle(width=width, height=height)
    return with_piece(job, shape=made)


def with_width(job: Job, width: float) -> Job:
    shape = job.piece.shape
    if isinstance(shape, Outline):
        return with_piece(job, shape=scaled(shape, width / shape.width))
    field = "diameter" if isinstance(shape, Circle) else "width"
    return with_piece(job, shape=shape.replace(**{field: width}))


def with_height(job: Job, height: float) -> Job:
    shape = job.piece.shape
    if isinstance(shape, Outline):
        return with_piece(job, shape=scaled(shape, height / shape.height))
    field = "diameter" if isinstance(shape, Circle) else "height"
    return with_piece(job, shape=shape.replace(**{field: height}))


def scaled(shape: Outline, by: float) -> Outline:
    """A drawn outline in another size; its proportions stay.

    Raises
    ------
    BadInput
        If that size cannot be.
    """
    rings = tuple(tuple((round(x * by, 4), round(y * by, 4)) for x, y in r) for r in shape.rings)
    return shape.replace(rings=rings)


def take_outline(desk: Desk, path: Path) -> None:
    """Read an outline from a drawing in a worker and make it the piece's shape."""
    desk.workers.start(
        "outline",
        lambda _: read_outline(path),
        lambda shape: desk.session.edit("Outline", lambda job: with_piece(job, shape=shape)),
        title=f"Reading {path.name}",
    )


def with_radius(job: Job, radius: float) -> Job:
    return with_piece(job, shape=job.piece.shape.replace(corner_radius=radius))


def with_depth(job: Job, height: float) -> Job:
    return with_piece(job, height=height)


_EDGES = {"width": with_width, "length": with_height, "height": with_depth}


class PieceCanvas(Canvas):
    """The piece in plan and from the side, to scale, with its dimension lines."""

    SIDE_GAP = 0.24

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._drag_edge: str | None = None
        self.setAccessibleName("The piece in plan and from the side; drag its edges")
        desk.session.changed.connect(self._changed)

    def _changed(self) -> None:
        # While an edge is dragged the picture keeps its scale, or the edge would run away.
        if self._drag_edge is None:
            self.refit()
        else:
            self.update()

    def edge_at(self, place: QPointF) -> str | None:
        """The edge under a place in mm: width, length or height."""
        job = self._desk.session.job
        if job is None:
            return None
        half_w, half_h = job.piece.shape.width / 2, job.piece.shape.height / 2
        near = GRIP / self.scale
        bottom = self._side_top(job) - job.piece.height
        if abs(place.y() - bottom) <= near and abs(place.x()) <= half_w:
            return "height"
        if abs(abs(place.x()) - half_w) <= near and abs(place.y()) <= half_h + near:
            return "width"
        if abs(abs(place.y()) - half_h) <= near and abs(place.x()) <= half_w + near:
            return "length"
        return None

    def _side_top(self, job: Job) -> float:
        """Where the side view's upper edge lies, in mm."""
        shape = job.piece.shape
        return -shape.height / 2 - self.SIDE_GAP * max(shape.width, shape.height)

    def pressed(self, place: QPointF) -> None:
        self._drag_edge = self.edge_at(place)

    def moved(self, event: QMouseEvent) -> None:
        place = self.millimetres(event.position())
        job, edge = self._desk.session.job, self._drag_edge
        if job is None:
            return
        if edge is None:
            shapes = {"width": Qt.CursorShape.SizeHorCursor, None: Qt.CursorShape.ArrowCursor}
            self.setCursor(shapes.get(self.edge_at(place), Qt.CursorShape.SizeVerCursor))
            return
        fine = event.modifiers() & Qt.KeyboardModifier.AltModifier
        step = 0.1 if fine else 0.5
        if edge == "height":
            # The side view hangs from its upper edge; its lower edge is dragged.
            value = max(0.0, self._side_top(job) - place.y())
        else:
            value = max(step, 2 * abs(place.x() if edge == "width" else place.y()))
        stepped = round(round(value / step) * step, 2)
        change = _EDGES[edge]
        self._desk.session.edit(
            f"Drag the {edge}", lambda j: change(j, stepped), group=f"drag {edge}"
        )

    def released(self) -> None:
        if self._drag_edge is not None:
            self._drag_edge = None
            self._desk.session.end_group()
            self.refit()

    def world(self) -> QRectF:
        job = self._desk.session.job
        if job is None:
            return super().world()
        width, height = job.piece.shape.width, job.piece.shape.height
        margin = 0.2 * max(width, height)
        below = self.SIDE_GAP * max(width, height) + job.piece.height
        return QRectF(
            -width / 2 - margin,
            -height / 2 - below - margin * 0.55,
            width + 2.4 * margin,
            height + below + margin * 0.85,
        )

    def paint_world(self, painter: QPainter) -> None:
        job = self._desk.session.job
        if job is None:
            return
        shape, surface = job.piece.shape, job.piece.surface
        edge = QPen(QColor("#2a2a2a"), 1.4)
        plan = self.shape_path(outline(job.piece.shape), self.at(0, 0))
        painter.setPen(edge)
        painter.setBrush(surface_brush(surface))
        painter.drawPath(plan)
        self._crosshair(painter)
        width, height = shape.width, shape.height
        gap = self.SIDE_GAP * max(width, height)
        side = self.box(-width / 2, -height / 2 - gap - job.piece.height, width, job.piece.height)
        painter.setPen(edge)
        painter.setBrush(surface_brush(surface))
        painter.drawRect(side if side.height() >= 2 else side.adjusted(0, 0, 0, 2))
        if job.piece.relief:
            relief = side.top() + job.piece.relief * self.scale
            painter.setPen(QPen(QColor("#f0f0f0"), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(side.left(), relief), QPointF(side.right(), relief))
        self._dimension(
            painter,
            QPointF(side.left(), side.bottom() + 20),
            QPointF(side.right(), side.bottom() + 20),
            f"{number(width)} mm",
        )
        right = self.at(width / 2, 0).x()
        if side.height() >= 1:
            self._dimension(
                painter,
                QPointF(right + 26, side.bottom()),
                QPointF(right + 26, side.top()),
                f"{number(job.piece.height)} mm high",
            )
        if not isinstance(shape, Circle):
            top, bottom = self.at(0, height / 2).y(), self.at(0, -height / 2).y()
            self._dimension(
                painter,
                QPointF(right + 26, bottom),
                QPointF(right + 26, top),
                f"{number(height)} mm",
            )
        painter.setFont(font(12.5))
        painter.setPen(QColor("#f4f4f4"))
        left = self.at(-width / 2, 0).x()
        painter.drawText(QPointF(16, 24), f"{job.piece.name}, {shape_words(job.piece)}, in plan")
        painter.drawText(QPointF(left, side.top() - 8), "from the side")

    def _crosshair(self, painter: QPainter) -> None:
        painter.setPen(QPen(QColor(255, 255, 255, 90), 1, Qt.PenStyle.DashDotLine))
        centre = self.at(0, 0)
        painter.drawLine(centre - QPointF(14, 0), centre + QPointF(14, 0))
        painter.drawLine(centre - QPointF(0, 14), centre + QPointF(0, 14))

    def _dimension(self, painter: QPainter, start: QPointF, end: QPointF, text: str) -> None:
        """A line with end strokes and its figure in the middle or beside it."""
        painter.setPen(QPen(QColor("#f4f4f4"), 1.2))
        painter.drawLine(start, end)
        level = abs(start.y() - end.y()) < 1
        across = QPointF(0, 5) if level else QPointF(5, 0)
        for point in (start, end):
            painter.drawLine(point - across, point + across)
        painter.setFont(font(13, bold=True))
        middle = (start + end) / 2
        if level:
            painter.drawText(
                QRectF(middle.x() - 80, middle.y() + 3, 160, 18), Qt.AlignmentFlag.AlignCenter, text
            )
        else:
            painter.drawText(
                QRectF(middle.x() + 10, middle.y() - 10, 130, 20),
                Qt.AlignmentFlag.AlignVCenter,
                text,
            )


def surface_brush(surface: Surface) -> QBrush:
    """A surface as it looks, roughly: clear ones show a slanted gleam."""
    if surface.material is Material.CLEAR:
        return QBrush(QColor(225, 238, 244, 70))
    colour = QColor(surface.colour)
    if surface.material is Material.TRANSLUCENT:
        colour.setAlpha(200)
    return QBrush(colour)


def piece_station(desk: Desk) -> StationView:
    """The station's picture and inspector."""
    session = desk.session
    form = Form()
    form.title("Piece", "what is printed on, and who reads it")
    form.row(
        "Job", TextField(session, "Job name", lambda j: j.name, lambda j, v: j.replace(name=v))
    )
    form.row(
        "Piece",
        TextField(
            session, "Piece name", lambda j: j.piece.name, lambda j, v: with_piece(j, name=v)
        ),
    )
    form.head("Shape")
    kinds = [
        ("circle", "round"),
        ("ellipse", "oval"),
        ("rectangle", "rectangle"),
        ("outline", "from a drawing"),
    ]
    drawing = QPushButton("Outline from a drawing…")
    drawing.setToolTip("A closed line in SVG or DXF, at real size; lines within it are holes")

    def choose_drawing() -> None:
        name, _ = QFileDialog.getOpenFileName(drawing, "Outline", "", "Drawings (*.svg *.dxf)")
        if name:
            take_outline(desk, Path(name))

    drawing.clicked.connect(choose_drawing)
    film = form.words("On film from a roll each artwork is a piece of its own.")
    shape_rows = [
        form.row(
            "Outline",
            ChoiceField(session, "Outline", kinds, lambda j: j.piece.shape.kind, with_shape_kind),
        ),
        form.wide(drawing),
    ]
    width = NumberField(session, "Width", lambda j: j.piece.shape.width, with_width)
    height = NumberField(session, "Length", lambda j: j.piece.shape.height, with_height)
    sizes = form.row("Width, length", width, height)
    diameter = form.row(
        "Diameter", NumberField(session, "Diameter", lambda j: j.piece.shape.width, with_width)
    )
    corner = form.row(
        "Corner radius",
        NumberField(
            session,
            "Corner radius",
            lambda j: getattr(j.piece.shape, "corner_radius", 0.0),
            with_radius,
            step=0.5,
        ),
    )
    form.row(
        "Height, relief",
        NumberField(
            session,
            "Height",
            lambda j: j.piece.height,
            lambda j, v: with_piece(j, height=v),
            step=0.5,
        ),
        NumberField(
            session,
            "Relief",
            lambda j: j.piece.relief,
            lambda j, v: with_piece(j, relief=v),
            step=0.1,
        ),
    )
    form.head("Surface")
    form.row("Like", _surface_choice(desk))
    form.row(
        "Light sees it",
        ChoiceField(
            session,
            "Material",
            [(m, m.value) for m in Material],
            lambda j: j.piece.surface.material,
            lambda j, v: with_surface(j, material=v),
        ),
    )
    form.row(
        "Colour",
        ColourField(
            session,
            "Surface colour",
            lambda j: j.piece.surface.colour,
            lambda j, v: with_surface(j, colour=v, name=""),
        ),
    )
    form.head("Reader")
    readers = [
        (ReadBy.FACE, "the face"),
        (ReadBy.THROUGH, "through it"),
        (ReadBy.BOTH, "both"),
        (ReadBy.TRANSFER, "transfer"),
    ]
    form.wide(SwitchField(session, "Read from", readers, read_by, stackedits.read_by))
    other_reader = form.button(
        "Look as the other reader",
        lambda: session.look_at(other_side=not session.other_side),
        "Work on what the other reader sees (Ctrl+B)",
    )
    form.row(
        "Printed on",
        ChoiceField(
            session,
            "Sides",
            [(False, "one side"), (True, "both sides")],
            lambda j: j.back is not None,
            both_sides,
        ),
    )
    why = form.words()

    def refresh() -> None:
        job = session.job
        if job is not None:
            circle = isinstance(job.piece.shape, Circle)
            on_film = job.roll is not None
            for row in shape_rows:
                row.setVisible(not on_film)
            film.setVisible(on_film)
            sizes.setVisible(not circle and not on_film)
            diameter.setVisible(circle and not on_film)
            corner.setVisible(isinstance(job.piece.shape, Rectangle) and not on_film)
            other_reader.setVisible(job.opposite is not None)
            through = job.reader is Reader.THROUGH
            other_reader.setText(
                f"Look as the one who {'looks at the ink' if through else 'looks through'}"
            )
            why.setText(f"{order_words(job)} {mirror_words(job)}")

    session.changed.connect(refresh)
    refresh()
    return StationView(PieceCanvas(desk), scrolled(form))


def _surface_choice(desk: Desk) -> ChoiceField:
    """Surfaces by name; what is set by hand is none of them."""
    choices = [(surface, surface.name) for surface in SURFACES]
    return ChoiceField(
        desk.session,
        "Surface like",
        choices,
        lambda j: j.piece.surface,
        lambda j, v: with_piece(j, surface=v),
    )
