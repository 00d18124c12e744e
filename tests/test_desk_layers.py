"""The Layers station in the real window: sources, treatments, artwork, recipes."""

from __future__ import annotations

import random
import threading
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QGuiApplication, QImage, QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QCheckBox, QComboBox, QLabel, QLineEdit, QPushButton

from conftest import small_art
from farbe.art.artwork import Pixels
from farbe.desk import results
from farbe.desk.app import settle
from farbe.desk.images import alpha_image, covered, paint_coverage, paint_picture, rgb_image
from farbe.desk.marks import BARS
from farbe.desk.stations.closerworld import REST, CloserWorld
from farbe.desk.stations.layers import edgepicture, platestrip
from farbe.desk.stations.layers import station as layers
from farbe.desk.stations.layers.curvefield import CurveField
from farbe.desk.stations.layers.form import LayersInspector
from farbe.desk.stations.layers.platestrip import PlateStrip
from farbe.desk.stations.layers.station import PlateCanvas, inks_on_grey
from farbe.desk.stations.run.printer import with_named_ink
from farbe.desk.window import MainWindow
from farbe.edits.stack import with_choke
from farbe.follows.preview import Drawn, preview_of
from farbe.layout.faced import Faced
from farbe.model.base import rgb
from farbe.model.edit import Clear, CurvePoints
from farbe.model.layer import Join, Joined
from farbe.model.meaning import Meaning
from farbe.model.piece import Circle, Reader
from farbe.model.placing import Fit
from farbe.model.printer import LayerKind
from farbe.model.source import FilePlate, PickedColours, Region, Tones, WholePiece
from farbe.model.treatment import Choke, Curve, Ease, Holes
from farbe.plan.recipes import recipe
from farbe.plan.stations import Station
from farbe.render.glimpse import Glimpse, glimpse
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid
from hands import Painted, field, grabbed, pixels_of, type_into
from test_drawings import spot_page


def station(window: MainWindow, layer: str) -> tuple[LayersInspector, PlateCanvas]:
    window.visit(Station.LAYERS)
    window.bench.section.choose(layer)
    settle(window)
    view = window.bench.views[Station.LAYERS]
    form = view.inspector
    canvas = view.picture.findChild(PlateCanvas)
    assert isinstance(form, LayersInspector) and isinstance(canvas, PlateCanvas)
    return form, canvas


def layer_of(window: MainWindow, name: str) -> object:
    assert window.session.job is not None
    return next(la for la in window.session.job.stack if la.name == name)


def button(form: LayersInspector, name: str) -> QPushButton:
    return next(
        b for b in form.findChildren(QPushButton)
        if name in (b.text(), b.accessibleName()) and form.offers(b)
    )  # fmt: skip


def combo(form: LayersInspector, name: str) -> QComboBox:
    return next(
        c for c in form.findChildren(QComboBox)
        if c.accessibleName() == name and form.offers(c)
    )  # fmt: skip


def step(form: LayersInspector, words: str) -> QCheckBox:
    return next(c for c in form.findChildren(QCheckBox) if c.text() == words and form.offers(c))


def moved_on(form: LayersInspector) -> list[str]:
    """Buttons of steps that another follows."""
    names = [b.accessibleName() for b in form.layer.findChildren(QPushButton) if b.isVisible()]
    return [name for name in names if name.endswith(" later")]


def choose(window: MainWindow, box: QComboBox, words: str) -> None:
    index = box.findText(words)
    assert index >= 0, [box.itemText(i) for i in range(box.count())]
    box.setCurrentIndex(index)
    box.activated.emit(index)
    settle(window)


@pytest.mark.parametrize(
    ("bare", "white"),
    [((0, 0), (0, 1)), ((0, 1), (1, 0)), ((1, 0), (0, 0)), ((1, 1), None), (None, None)],
)
@pytest.mark.usefixtures("qapp")
def test_words_on_an_edge_lie_on_what_they_say(
    monkeypatch: pytest.MonkeyPatch,
    bare: tuple[int, int] | None,
    white: tuple[int, int] | None,
) -> None:
    """Colour with one corner that has none and one with white; no words fit anywhere else."""
    plates = np.full((15, 19), 255, np.uint8), np.zeros((15, 19), np.uint8)
    for plate, corner, level in zip(plates, (bare, white), (0, 255), strict=True):
        if corner is not None:
            below, right = corner
            plate[9 * below :, 11 * right :][:6, :8] = level
    named = ((plates[0] == 0) & (plates[1] == 0), plates[1] == 255)
    # A pixel in each corner is no room for words.
    plates[0][::14, ::18] = 0
    shown = []
    for names in (edgepicture._name_inks, lambda *_: None):
        monkeypatch.setattr(edgepicture, "_name_inks", names)
        image = QImage(190, 150, QImage.Format.Format_Grayscale8)
        painter = QPainter(image)
        edgepicture.paint_edge(painter, QRectF(image.rect()), *plates, (0.04, 0.04))
        painter.end()
        shown.append(np.frombuffer(image.constBits(), np.uint8).reshape(150, -1)[:, :190].copy())
    written = (shown[0] != shown[1]).reshape(15, 10, 19, 10).any(axis=(1, 3))
    assert not (written & ~named[0] & ~named[1]).any()
    assert all((written & own).any() == own.any() for own in named)


def test_treatments_are_added_switched_moved_and_removed(window: MainWindow) -> None:
    form, _ = station(window, "White")
    before = window.results.preview.plates_of("White")[0]  # type: ignore[union-attr]
    form.layer.treatments.add(Holes(spacing=1.0, size=0.6))
    settle(window)
    after = window.results.preview.plates_of("White")[0]  # type: ignore[union-attr]
    assert after.sum(dtype=np.int64) < 0.9 * before.sum(dtype=np.int64)
    type_into(field(window, Station.LAYERS, "Holes: size"), "0.3")
    assert [type(t) for t in layer_of(window, "White").treatments] == [Choke, Holes]  # type: ignore[attr-defined]
    assert layer_of(window, "White").treatments[1].size == 0.3  # type: ignore[attr-defined]
    assert moved_on(form) == ["Choke later"]
    button(form, "Holes earlier").click()
    settle(window)
    assert [type(t) for t in layer_of(window, "White").treatments] == [Holes, Choke]  # type: ignore[attr-defined]
    assert moved_on(form) == ["Holes later"]
    switch = step(form, "Holes")
    switch.click()
    assert not layer_of(window, "White").treatments[0].on  # type: ignore[attr-defined]
    settle(window)
    off = window.results.preview.plates_of("White")[0]  # type: ignore[union-attr]
    assert np.array_equal(off, before)
    window.session.undo()
    settle(window)
    assert step(form, "Holes").isChecked()
    button(form, "Remove holes").click()
    settle(window)
    assert [type(t) for t in layer_of(window, "White").treatments] == [Choke]  # type: ignore[attr-defined]
    assert not moved_on(form)
    menu = button(form, "Add a treatment").menu()
    assert menu is not None and len(menu.actions()) == 12
    form, _ = station(window, "Colour")
    allowed = [a.text() for a in button(form, "Add a treatment").menu().actions()]  # type: ignore[union-attr]
    assert allowed == [
        "Harden soft edges",
        "Dots for half tones",
        "Tone curve",
        "Largest amount",
        "Holes",
        "Shift",
    ]


@pytest.mark.long
def test_an_edit_is_drawn_with_its_picture(
    window: MainWindow, qtbot: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The canvas waits for it, and draws without it what takes long."""
    _, canvas = station(window, "white")
    drawn, paint, go = list[object](), canvas.paint_world, threading.Event()

    def painted(painter: object) -> None:
        drawn.append(window.results.preview)
        paint(painter)

    monkeypatch.setattr(canvas, "paint_world", painted)
    canvas._without.setInterval(60_000)
    window.session.edit("Bleed", lambda j: j.replace(bleed=0.5))
    assert canvas._without.isActive()
    settle(window)
    assert not canvas._without.isActive()
    assert drawn[-1] is window.results.preview

    asked = results.ask

    def slow(work: Any, *args: Any, **more: Any) -> Any:
        if work is preview_of:
            go.wait(10.0)
        return asked(work, *args, **more)

    monkeypatch.setattr(results, "ask", slow)
    canvas._without.setInterval(1)
    now = window.results.preview
    window.session.edit("Bleed", lambda j: j.replace(bleed=0.7))
    canvas._without.timeout.connect(drawn.clear)
    qtbot.waitUntil(lambda: drawn == [now])
    go.set()
    settle(window)
    assert drawn[-1] is window.results.preview is not now


def test_what_needs_no_look_is_made_while_that_is(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Of plates and artwork, which the picture then has; nothing is made of them again."""
    _, canvas = station(window, "white")
    asked, came = results.ask, list[tuple[Drawn, set[int]]]()

    def noted(work: Any, *args: Any, **more: Any) -> Any:
        if work is preview_of and not more["coarse"]:
            ahead = more["ahead"]

            def drawn(part: Drawn) -> None:
                ahead(part)
                kept = (*canvas._faint.latest(), *canvas._pictures.latest())
                came.append((part, {key[0] for key, _ in kept}))

            return asked(work, *args, **more | {"ahead": drawn})
        return asked(work, *args, **more)

    monkeypatch.setattr(results, "ask", noted)
    window.session.edit(
        "Moved", lambda job: job.replace(placing=job.placing.replace(offset_x=0.4, offset_y=0.3))
    )
    settle(window)
    ((part, made),) = came
    picture, (white,) = window.results.preview, part.plates_of("White")
    assert picture is not None and not part.coarse
    assert picture.artwork is part.artwork and picture.plates_of("White")[0] is white
    assert {id(part.artwork), id(white)} <= made


@settings(max_examples=30)
@given(st.lists(st.tuples(*[st.integers(0, 255)] * 4), min_size=1, max_size=40))
def test_colour_plates_lie_on_grey_as_filters(inks: list[tuple[int, ...]]) -> None:
    """Each by its share of the plate's colour; no ink is the grey, half of any is all there."""
    plates = [np.array([plate], np.uint8) for plate in zip(*inks, strict=True)]
    shown = inks_on_grey(plates)
    for at, levels in enumerate(inks):
        veil = min(1.0, 2 * max(levels) / 255)
        for band, found in enumerate(shown[0, at].tolist()):
            paper = 1.0
            for level, bar in zip(levels, BARS, strict=True):
                paper *= 1 - level / 255 * (1 - rgb(bar)[band] / 255)
            wanted = 255 * (104 / 255 * (1 - veil) + paper * veil)
            assert abs(found - wanted) < 0.51


@pytest.mark.parametrize("ratio", [1, 3])
def test_pictures_have_the_pixels_of_the_screen(qapp: object, ratio: int) -> None:
    """Where it has several for each of the window's, a picture is drawn with all of them."""
    side = 24
    stripes = np.zeros((ratio * side, ratio * side), np.uint8)
    stripes[:, ::2] = 255
    screen = QImage(ratio * side, ratio * side, QImage.Format.Format_RGB32)
    screen.setDevicePixelRatio(ratio)
    pictures = rgb_image(np.repeat(stripes[..., None], 3, axis=2)), alpha_image(stripes)
    for at, picture in enumerate(pictures):
        screen.fill(Qt.GlobalColor.black)
        painter, box = QPainter(screen), QRectF(0, 0, side, side)
        if at:
            paint_coverage(painter, box, picture, QColor("white"))
        else:
            paint_picture(painter, box, picture)
        painter.end()
        assert (pixels_of(screen) == stripes[..., None]).all()


#: What is seen of a piece where no artwork lies.
GREY = 0x68


def white_on(canvas: PlateCanvas, part: Glimpse) -> tuple[np.ndarray, np.ndarray]:
    """Where in a picture white of a part is solid, and where, close to white, nothing lies."""
    box = canvas.box(part.box.left, part.box.bottom, part.box.width, part.box.height).toRect()
    seen = box.intersected(canvas.rect()).translated(-box.topLeft())
    white, alpha = (
        cv2.resize(plate, box.size().toTuple(), interpolation=cv2.INTER_NEAREST)[
            seen.top() : seen.bottom() + 1, seen.left() : seen.right() + 1
        ]
        for plate in (part.plates_of("White")[0], part.artwork[..., 3])
    )
    inside, bare = (
        cv2.erode(there.astype(np.uint8), np.ones((3, 3))) > 0
        for there in (white == 255, np.maximum(white, alpha) == 0)
    )
    return inside, bare & (cv2.dilate(white, np.ones((15, 15))) > 0)


def pictures_made(monkeypatch: pytest.MonkeyPatch) -> list[tuple[object, bool]]:
    """Of which pixels pictures are made, and whether by the window's thread."""
    made = list[tuple[object, bool]]()

    def shown(pixels: np.ndarray) -> QImage:
        made.append((pixels, threading.current_thread() is threading.main_thread()))
        return rgb_image(pixels)

    monkeypatch.setattr(layers, "rgb_image", shown)
    return made


def print_finely(window: MainWindow) -> None:
    """Have pixels that cannot be told in a picture of the whole piece."""
    window.session.edit("Finer", lambda job: job.replace(
        printer=job.printer.replace(dpi_x=600, dpi_y=900),
        piece=job.piece.replace(shape=Circle(diameter=60)),
    ))  # fmt: skip


@pytest.mark.long
def test_zoomed_in_the_plates_are_those_that_print(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Wherever it is moved to, after each edit, and only while somebody sees it."""
    asked = list[object]()
    ask = layers.ask
    monkeypatch.setattr(layers, "ask", lambda *of, **how: (asked.append(of), ask(*of, **how))[1])
    made = pictures_made(monkeypatch)
    print_finely(window)
    _, canvas = station(window, "White")
    store, place = window.session.store, (0.4, 0.3)
    canvas.zoom(9, canvas.at(*place))
    blurred = grabbed(canvas)

    def near() -> Glimpse:
        QTest.qWait(REST + 40), settle(window)
        part, job = canvas.near(), window.session.job
        assert part is not None and job is not None and part.job == job
        sharp = glimpse(job, store, Grid(600, 900))
        row, column = sharp.pixel_at(part.box.left + 1e-3, part.box.bottom + part.box.height - 1e-3)  # type: ignore[misc]
        for found, all_ in zip(part.plates, sharp.plates, strict=True):
            high, wide = found.shape
            assert (found == all_[row : row + high, column : column + wide]).all()
        return part

    first = near()
    inside, beside = white_on(canvas, first)
    sharp = grabbed(canvas)
    # Its pictures were made beside the window, once.
    assert [here for pixels, here in made if pixels is first.artwork] == [False]
    assert sharp[inside].mean() > 190
    assert (sharp == GREY)[beside].mean() > 0.95 > 0.9 > (blurred == GREY)[beside].mean()
    canvas.view_moved(), near()
    assert len(asked) == 1, "it is there already"
    # By the hand, by a key, by another size of the window.
    middle, moved = canvas.rect().center(), list[Glimpse]()
    for go in (
        lambda: QTest.keyClick(canvas, Qt.Key.Key_Left, Qt.KeyboardModifier.AltModifier),
        lambda: (
            QTest.mousePress(canvas, Qt.MouseButton.MiddleButton, pos=middle),
            QTest.mouseMove(canvas, middle + QPoint(0, 40)),
            QTest.mouseRelease(canvas, Qt.MouseButton.MiddleButton, pos=middle),
        ),
        lambda: window.resize(window.width() + 90, window.height()),
    ):
        go()
        moved.append(near())
    assert len({first.box, *(part.box for part in moved)}) == 4
    # After an edit it is that of the new job, once its picture is fine; never that of another.
    fits = list[bool]()
    window.results.preview_changed.connect(lambda: fits.append(
        canvas.near() is None or canvas.near().job == window.results.preview.job  # type: ignore[union-attr]
    ))  # fmt: skip
    window.session.edit("Choke", lambda job: job.replace(
        stack=tuple(
            with_choke(layer, 0.5) if layer.kind is LayerKind.WHITE else layer
            for layer in job.stack
        )
    ))  # fmt: skip
    settle(window)
    part = canvas.near()
    assert part is not None and part.box == moved[-1].box
    assert part.job == window.session.job and len(fits) >= 2 and all(fits)
    assert (part.plates_of("White")[0] != moved[-1].plates_of("White")[0]).any()
    # What is picked there is the pixel that prints.
    row, column = part.pixel_at(*place)  # type: ignore[misc]
    red, green, blue = part.artwork[row, column, :3].tolist()
    assert canvas.colour_at(QPointF(*place)) == f"#{red:02x}{green:02x}{blue:02x}"
    count = len(asked)
    window.visit(Station.PIECE), settle(window)
    window.session.edit("Bleed", lambda job: job.replace(bleed=0.7)), settle(window)
    assert canvas.near() is None and len(asked) == count
    window.visit(Station.LAYERS), settle(window)
    near()
    canvas.fit(), QTest.qWait(REST + 40), settle(window)
    assert canvas.near() is None


@pytest.mark.long
@pytest.mark.parametrize("where", [Station.LAYERS, Station.PROOF])
def test_nothing_is_looked_at_closely_where_nothing_is_in_view(
    window: MainWindow, where: Station
) -> None:
    broken = list[str]()
    window.workers.broke.connect(lambda mishap: broken.append(mishap.report))
    print_finely(window)
    window.visit(where), settle(window)
    (canvas,) = window.bench.canvases(where)  # type: ignore[union-attr]
    assert isinstance(canvas, CloserWorld)
    canvas.zoom(9, QPointF(canvas.rect().center()))
    for x, y in ((-9000, 0), (9000, 0), (0, -9000), (0, 9000)):
        QTest.qWait(REST + 40), settle(window)
        assert canvas.near() is not None
        canvas.pan(QPointF(x, y)), QTest.qWait(REST + 40), settle(window)
        assert canvas.near() is None and not broken
        canvas.pan(QPointF(-x, -y))


@pytest.mark.long
def test_an_edit_of_white_draws_no_other_plate_anew(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Coarse and fine pictures take turns, and each has the plates that it had before."""
    _, canvas = station(window, "Colour")
    strip = canvas.parentWidget().findChild(PlateStrip)
    assert strip is not None
    drawn, mixed = list[object](), list[int]()

    def inked(size: QSize, box: QRectF, cover: QImage, brush: object, **how: float) -> QImage:
        drawn.append(brush)
        return covered(size, box, cover, brush, **how)  # type: ignore[arg-type]

    def on_grey(plates: list[Plate]) -> Pixels:
        mixed.append(len(plates))
        return inks_on_grey(plates)

    monkeypatch.setattr(platestrip, "covered", inked)
    monkeypatch.setattr(layers, "inks_on_grey", on_grey)
    shown = list[QImage]()
    for at, by in enumerate((0.1, 0.2, 0.3, 0.4)):
        if at == 2:
            # By now there was a coarse and a fine picture of all plates.
            drawn.clear(), mixed.clear()
        window.session.edit("Choke", lambda job, by=by: job.replace(stack=tuple(
            with_choke(layer, by) if layer.kind is LayerKind.WHITE else layer
            for layer in job.stack
        )))  # fmt: skip
        settle(window)
        grabbed(strip), grabbed(canvas)
        white = next(thumb for name, _, thumb in strip.thumbs if name == "White")
        assert white.picture is not None
        shown.append(white.picture)
    assert drawn and not [one for one in drawn if isinstance(one, QColor)] and not mixed
    assert shown[2] != shown[3]
    window.session.edit("Bleed", lambda job: job.replace(bleed=0.7))
    settle(window)
    grabbed(strip), grabbed(canvas)
    assert [one for one in drawn if isinstance(one, QColor)] and mixed


@pytest.mark.long
def test_what_is_shown_of_plates_is_made_while_the_window_goes_on(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Small plates and mixed inks of an edit; where they are not seen, of its fine picture alone,
    so that they are there when they are."""
    _, canvas = station(window, "Colour")
    made, sizes = list[tuple[str, bool]](), set[int]()

    def told(name: str, make: Any) -> Any:
        def one(of: Any, *more: Any) -> Any:
            made.append((name, threading.current_thread() is threading.main_thread()))
            sizes.add(max((of if name == "small" else of[0]).shape))
            return make(of, *more)

        return one

    monkeypatch.setattr(platestrip, "halved", told("small", platestrip.halved))
    monkeypatch.setattr(layers, "anew", told("inks", layers.anew))
    # At which fine pictures are larger than coarse ones.
    window.session.edit("Resolution", lambda job: job.replace(
        printer=job.printer.replace(dpi_x=600, dpi_y=600)
    ))  # fmt: skip
    settle(window), grabbed(canvas)
    assert set(made) == {("small", False), ("inks", False)} and len(sizes) == 2
    window.visit(Station.BED), settle(window)
    made.clear(), sizes.clear()
    window.session.edit("Bleed", lambda job: job.replace(bleed=0.3))
    settle(window)
    assert set(made) == {("small", False), ("inks", False)} and len(sizes) == 1
    made.clear()
    window.visit(Station.LAYERS), settle(window), grabbed(canvas)
    assert not made


@pytest.mark.long
@pytest.mark.parametrize("zoom", [0.21, 0.5, 1.0, 3.0])
def test_plates_are_drawn_as_large_as_they_are_seen(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch, zoom: float
) -> None:
    """By no more pixels than twice a side, with the same coverage at every place; once."""
    _, canvas = station(window, "White")
    canvas.zoom(zoom, QPointF(canvas.rect().center())), settle(window)
    preview, job = window.results.preview, window.session.job
    assert preview is not None and job is not None
    white = next(la for la in job.stack if la.kind is LayerKind.WHITE)
    plate = preview.plates_of(white.name)[0]
    picture = canvas._plate_image(preview, white)
    seen = preview.size[0] * canvas.scale
    full = plate.shape[::-1]
    assert seen <= picture.width() < 2 * seen + 2 or picture.size().toTuple() == full
    alpha = picture.convertToFormat(QImage.Format.Format_Alpha8)
    rows = np.frombuffer(alpha.constBits(), np.uint8).reshape(alpha.height(), -1)
    size = picture.size().toTuple()
    wanted = np.asarray(Image.fromarray(plate).resize(size, Image.Resampling.BOX))  # type: ignore[arg-type]
    assert np.abs(rows[:, : alpha.width()].astype(int) - wanted).max() <= 1
    faint = canvas._faint_artwork(preview)
    assert faint.width() < 2 * seen + 2 or faint.width() == preview.artwork.shape[1]
    made = list[object]()
    for name in ("reduced", "rich"):
        monkeypatch.setattr(layers, name, lambda *_: made.append(0))
    before = grabbed(canvas)
    canvas.update(), settle(window)
    assert not made and np.array_equal(grabbed(canvas), before)


def test_a_curve_is_drawn_with_the_mouse(window: MainWindow) -> None:
    form, _ = station(window, "White")
    form.layer.treatments.add(Curve())
    settle(window)
    curve = form.findChild(CurveField)
    assert curve is not None
    middle, higher = curve.at(50, 50).toPoint(), curve.at(60, 80).toPoint()
    QTest.mousePress(curve, Qt.MouseButton.LeftButton, pos=middle)
    QTest.mouseMove(curve, higher)
    QTest.mouseRelease(curve, Qt.MouseButton.LeftButton, pos=higher)
    points = layer_of(window, "White").treatments[1].points  # type: ignore[attr-defined]
    assert points[1] == pytest.approx((60, 80), abs=1)
    QTest.keyClick(curve, Qt.Key.Key_Down)
    assert layer_of(window, "White").treatments[1].points[1][1] == points[1][1] - 1  # type: ignore[attr-defined]
    QTest.keyClick(curve, Qt.Key.Key_Delete)
    assert len(layer_of(window, "White").treatments[1].points) == 2  # type: ignore[attr-defined]


def test_sources_are_chosen_picked_and_drawn(window: MainWindow) -> None:
    form, canvas = station(window, "Varnish")
    choose(window, combo(form, "Source"), "picked colours")
    assert isinstance(layer_of(window, "Varnish").source, PickedColours)  # type: ignore[attr-defined]
    settle(window)
    button(form, "Pick from the picture").click()
    assert window.desk.picking.wants_colour
    spot = canvas.at(-0.6, 1.1).toPoint()
    wanted = canvas.colour_at(canvas.millimetres(spot))
    assert wanted is not None
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=spot)
    assert layer_of(window, "Varnish").source.colours == (wanted,)  # type: ignore[attr-defined]
    assert not window.desk.picking.wants_colour
    choose(window, combo(form, "Joined with"), "but not")
    layer = layer_of(window, "Varnish")
    assert layer.more[0].join is Join.SUBTRACT and isinstance(layer.more[0].source, Region)  # type: ignore[attr-defined]
    settle(window)
    draw = next(
        b for b in form.findChildren(QPushButton)
        if b.text().startswith("Draw") and form.offers(b)
    )  # fmt: skip
    draw.click()
    start, end = canvas.at(-2, -1).toPoint(), canvas.at(3, 2).toPoint()
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(canvas, end)
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=end)
    ring = layer_of(window, "Varnish").more[0].source.rings[0]  # type: ignore[attr-defined]
    assert ring[0] == pytest.approx((-2, -1), abs=0.1) and ring[2] == pytest.approx((3, 2), abs=0.1)
    # One more, corner by corner: a corner taken back, closed with Enter.
    settle(window)
    button(form, "One more").click()
    corners = ((-4.0, -4.0), (-1.0, -4.0), (-3.0, 3.0), (-2.5, -2.0))
    for corner in corners:
        QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=canvas.at(*corner).toPoint())
    QTest.keyClick(canvas, Qt.Key.Key_Backspace)
    assert len(layer_of(window, "Varnish").more[0].source.rings) == 1  # type: ignore[attr-defined]
    QTest.keyClick(canvas, Qt.Key.Key_Return)
    rings = layer_of(window, "Varnish").more[0].source.rings  # type: ignore[attr-defined]
    assert rings[0] == ring and np.allclose(rings[1], corners[:3], atol=0.1)
    settle(window)
    plate = window.results.preview.plates_of("Varnish")[0]  # type: ignore[union-attr]
    grid = window.results.preview.grid  # type: ignore[union-attr]
    row, column = plate.shape[0] // 2 + int(2.5 * grid.per_mm_y), plate.shape[1] // 2
    assert not plate[row, column - int(2.4 * grid.per_mm_x)]
    choose(window, combo(form, "Second source"), "its light or dark end")
    assert isinstance(layer_of(window, "Varnish").more[0].source, Tones)  # type: ignore[attr-defined]
    choose(window, combo(form, "Joined with"), "nothing else")
    assert layer_of(window, "Varnish").more == ()  # type: ignore[attr-defined]


@pytest.mark.long
def test_only_plates_that_are_others_are_painted_anew(window: MainWindow) -> None:
    form, _ = station(window, "White")
    strip = window.bench.views[Station.LAYERS].picture.findChild(PlateStrip)
    assert isinstance(strip, PlateStrip)
    painted = Painted(window, **{thumb.text(): thumb for _, _, thumb in strip.thumbs}).order
    assert form.layer.chosen(window.session.job).name == "White"  # type: ignore[arg-type]
    type_into(field(window, Station.LAYERS, "Choke"), "0.6")
    settle(window)
    assert set(painted) - {"turn"} == {"White"}


@pytest.mark.long
def test_a_coarse_picture_is_shown_however_soon_it_is_there(window: MainWindow) -> None:
    """Before anything else followed from the edit, too."""
    station(window, "White")
    coarse = list[bool]()
    window.results.preview_changed.connect(lambda: coarse.append(window.results.preview.coarse))  # type: ignore[union-attr]
    for choke in (0.31, 0.32, 0.33):
        coarse.clear()
        window.session.edit(
            "Choke", lambda job, choke=choke: job.replace(  # type: ignore[misc]
                stack=tuple(with_choke(la, choke) if la.name == "White" else la for la in job.stack)
            ),
        )  # fmt: skip
        window.workers.linger("coarse preview", 10)
        settle(window)
        assert coarse[:2] == [True, False]


@pytest.mark.long
def test_rows_are_kept_and_look_as_if_made_anew(window: MainWindow) -> None:
    """Whatever is added, moved, taken away or undone; a row that stays is the same row."""
    form, _ = station(window, "White")
    treatments, corrections = form.layer.treatments, form.artwork.steps
    rng = random.Random(4)

    def join(job: Faced) -> Faced:
        more = form.layer.chosen(job).more
        joined = Joined(join=rng.choice(list(Join)), source=rng.choice((WholePiece(), Tones())))
        return form.layer.change(job, more=() if more else (joined,))

    edits = [
        lambda: treatments.add(rng.choice((Holes(), Curve(), Ease()))),
        lambda: treatments.move(0, 1),
        lambda: treatments.remove(0),
        lambda: treatments.switch(0, bool(rng.randint(0, 1))),
        lambda: corrections.add(rng.choice((Clear(), CurvePoints()))),
        lambda: corrections.remove(0),
        lambda: window.session.edit("Joined", join),
        window.session.undo,
    ]
    hits = field(window, Station.LAYERS, "Hits")
    for _ in range(12):
        rng.choice(edits)()
        window.session.end_action(), settle(window)
        assert field(window, Station.LAYERS, "Hits") is hits and hits.isVisible()
    for shown, part in ((form._artwork, form.artwork), (form._films[-1], form.layer)):
        form.choose(shown)
        settle(window)
        kept = grabbed(part)
        part._blocks.show_blocks(())
        part.refresh()
        settle(window)
        assert np.array_equal(grabbed(part), kept)


def test_a_background_goes_and_comes_back(window: MainWindow) -> None:
    form, canvas = station(window, "Colour")
    before = window.results.preview.artwork[..., 3].sum(dtype=np.int64)  # type: ignore[union-attr]
    form.artwork.steps.add(Clear(connected=False, tolerance=10))
    settle(window)
    after = window.results.preview.artwork[..., 3].sum(dtype=np.int64)  # type: ignore[union-attr]
    assert after < before
    form.artwork.steps.add(CurvePoints())
    settle(window)
    button(form, "Pick black from the picture").click()
    spot = canvas.at(1.0, -1.5).toPoint()
    wanted = canvas.colour_at(canvas.millimetres(spot))
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=spot)
    job = window.session.job
    assert job is not None and job.artworks[0].edits[1].black == wanted
    window.session.undo(), window.session.undo(), window.session.undo()
    settle(window)
    assert window.results.preview.artwork[..., 3].sum(dtype=np.int64) == before  # type: ignore[union-attr]


@pytest.mark.long
@pytest.mark.usefixtures("read_here")
def test_plates_of_a_pdf_get_meanings(window: MainWindow, tmp_path: Path) -> None:
    window.intake.replace_all([spot_page(tmp_path / "label.pdf")])
    settle(window)
    window.session.edit("Fit", lambda j: j.replace(placing=j.placing.replace(fit=Fit.FIT)))
    form, _ = station(window, "White")
    assert layer_of(window, "White").source == FilePlate(meaning=Meaning.WHITE)  # type: ignore[attr-defined]
    form, _ = station(window, "Colour")
    choose(window, combo(form, "Plate CutLine"), "colour")
    settle(window)
    type_into(field(window, Station.LAYERS, "CutLine as magenta"), "80")
    art = window.session.job.artworks[0]  # type: ignore[union-attr]
    use = next(u for u in art.plates if u.name == "CutLine")
    assert use.meaning is Meaning.COLOUR and use.inks[1] == 80
    settle(window)
    magenta = window.results.preview.plates_of("Colour")[1]  # type: ignore[union-attr]
    assert magenta.max() >= 120
    type_into(field(window, Station.LAYERS, "Page of the artwork"), "2")
    settle(window)
    # The other page brings no plate, so its white follows from its shape.
    assert window.session.job.artworks[0].plates == ()  # type: ignore[union-attr]
    assert window.results.preview.plates_of("White")[0].any()  # type: ignore[union-attr]
    kept = window.session.job
    type_into(field(window, Station.LAYERS, "Page of the artwork"), "9")
    assert "no page 9" in window.check_bar.shown_text and window.session.job == kept
    # The next file's plate of that name means the same.
    window.intake.replace_all([spot_page(tmp_path / "again.pdf")])
    settle(window)
    again = {u.name: u.meaning for u in window.session.job.artworks[0].plates}  # type: ignore[union-attr]
    assert again["CutLine"] is Meaning.COLOUR


@pytest.mark.long
@pytest.mark.usefixtures("read_here")
def test_any_group_of_a_drawing_can_be_a_plate(window: MainWindow, tmp_path: Path) -> None:
    (tmp_path / "stall.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="10mm" height="10mm" viewBox="0 0 10 10">'
        '<rect width="10" height="10" fill="#205030"/><g id="wax seal"><circle cx="5" cy="5" r="2"'
        ' fill="#ffcc00"/></g></svg>'
    )
    window.intake.replace_all([tmp_path / "stall.svg"])
    form, canvas = station(window, "Colour")
    assert window.results.preview.offers.groups == ("wax seal",)  # type: ignore[union-attr]
    assert canvas.colour_at(QPointF(0, 0)) == "#ffcc00"
    menu = button(form, "Groups as plates").menu()
    menu.actions()[0].trigger()
    settle(window)
    assert canvas.colour_at(QPointF(0, 0)) == "#205030"
    choose(window, combo(form, "Plate wax seal"), "varnish")
    settle(window)
    assert layer_of(window, "Varnish").source == FilePlate(meaning=Meaning.VARNISH)  # type: ignore[attr-defined]
    plate = window.results.preview.plates_of("Varnish")[0]  # type: ignore[union-attr]
    grid = window.results.preview.grid  # type: ignore[union-attr]
    area = (plate / 255).sum() / grid.per_mm_x / grid.per_mm_y
    assert area == pytest.approx(np.pi * 4, rel=0.02)
    button(form, "Groups as plates").menu().actions()[0].trigger()
    settle(window)
    assert canvas.colour_at(QPointF(0, 0)) == "#ffcc00"


def test_a_layer_is_renamed_where_it_stands(window: MainWindow) -> None:
    station(window, "White")
    QTest.keyClick(window.bench.section, Qt.Key.Key_F2)
    editor = window.bench.section.findChild(QLineEdit)
    assert editor is not None and editor.text() == "White"
    QTest.keyClicks(editor, "Underbase")
    QTest.keyClick(editor, Qt.Key.Key_Return)
    assert window.bench.section.choice == "Underbase" and layer_of(window, "Underbase")
    QTest.keyClick(window.bench.section, Qt.Key.Key_F2)
    QTest.keyClicks(window.bench.section.findChild(QLineEdit), "varnish")
    QTest.keyClick(window.bench.section.findChild(QLineEdit), Qt.Key.Key_Return)
    assert "same name" in window.check_bar.shown_text and layer_of(window, "Underbase")
    assert window.bench.section.findChild(QLineEdit) is None


@pytest.mark.long
def test_what_is_edited_elsewhere_is_there_when_the_layers_are_looked_at(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Until then no edit waits for values that nobody sees."""
    form, _ = station(window, "White")
    shown = list[object]()
    made = form.layer.refresh
    monkeypatch.setattr(form.layer, "refresh", lambda: (shown.append(1), made()))
    window.visit(Station.BED)
    settle(window)
    window.session.edit(
        "Hits", lambda job: job.replace(stack=tuple(la.replace(hits=2) for la in job.stack))
    )
    settle(window)
    hits = field(window, Station.LAYERS, "Hits")
    assert not shown and hits.text() == "1"
    station(window, "White")
    assert shown and hits.text() == "2"


@pytest.mark.long
def test_layers_that_come_while_nobody_looks_are_there_later(window: MainWindow) -> None:
    """The station was made for a job of which nothing was to be printed."""
    job = window.session.job
    assert job is not None
    window.session.take(job.replace(stack=()).job, saved=True)
    settle(window)
    window.visit(Station.LAYERS)
    window.visit(Station.BED)
    settle(window)
    window.session.edit("Layers", lambda bare: bare.replace(stack=job.stack))
    settle(window)
    form, _ = station(window, job.stack[0].name)
    assert {layer.name for layer in job.stack} <= {thing.name for thing in form.things}
    ink = form.layer.findChildren(QLabel)
    assert any("ml for the order" in one.text() for one in ink)


def test_recipes_are_kept_and_used(window: MainWindow, tmp_path: Path) -> None:
    form, _ = station(window, "White")
    form.layer.treatments.add(Ease(least=20))
    job = window.session.job
    assert job is not None
    form.layer.recipes.keep_as("Lids, eased")
    assert "is kept" in window.check_bar.shown_text
    form.layer.recipes.use(recipe("clear, read through"))
    assert window.session.job.reader is Reader.THROUGH  # type: ignore[union-attr]
    assert window.session.job.piece.surface == job.piece.surface  # type: ignore[union-attr]
    form.layer.recipes.aboutToShow.emit()
    form.layer.recipes.actions()[0].trigger()
    assert window.session.job.stack == job.stack  # type: ignore[union-attr]
    assert window.session.job.reader is Reader.FACE  # type: ignore[union-attr]
    form.layer.recipes.take_new_by("transfer on light")
    window.close_job()
    window.intake.replace_all([small_art(tmp_path / "new.png")])
    settle(window)
    assert window.session.job.reader is Reader.TRANSFER  # type: ignore[union-attr]
    (tmp_path / "bad.recipe.json").write_text('{"name": "x"}')
    form.layer.recipes.take_file(tmp_path / "bad.recipe.json")
    assert "holds no recipe" in window.check_bar.shown_text


def test_blackout_named_ink_and_copies(window: MainWindow) -> None:
    form, canvas = station(window, "White")
    window.session.edit("Ink", lambda j: with_named_ink(j, "Gold", "#c9a227"))
    assert not window.session.edit("Ink", lambda j: with_named_ink(j, "gold", "#c9a227"))
    assert "already" in window.check_bar.shown_text
    from farbe.edits import stack as stack_edits

    for kind in (LayerKind.BLACKOUT, LayerKind.NAMED):
        window.bench.section.choose(stack_edits.add(window.session, kind, 1))
    settle(window)
    assert combo(form, "Named ink").currentText() == "Gold"
    window.bench.section.choose("White")
    QTest.keyClick(window.bench.section, Qt.Key.Key_D)
    job: Faced | None = window.session.job
    assert job is not None
    assert [la.name for la in job.stack] == [
        "White", "White 2", "Gold", "Blackout", "Colour", "Varnish",
    ]  # fmt: skip
    settle(window)
    channels = {use.channel for use in window.results.findings.estimate.inks}  # type: ignore[union-attr]
    assert {"Gold", "Black", "Blackout", "White 2"} <= channels
    before = grabbed(canvas)
    window.session.edit("Flood", lambda j: form.layer.change(j, source=WholePiece()))
    settle(window)
    assert np.abs(grabbed(canvas) - before).mean() > 1
    # What is on the clipboard goes into any job, under a name that is free there.
    window.bench.section.choose("Gold")
    window.bench.section.copy()
    window.bench.section.paste()
    assert window.session.job is not None and window.session.undo_name == "Paste Gold 2"
    QGuiApplication.clipboard().setText("no layer")
    window.bench.section.paste()
    assert "no layer on the clipboard" in window.check_bar.shown_text


@pytest.mark.long
def test_the_inset_shows_the_worst_edge(window: MainWindow, tmp_path: Path) -> None:
    """What a choke leaves of a hairline is seen there, and not the broad part."""
    pixels = np.zeros((200, 300, 4), np.uint8)
    pixels[40:160, 20:140] = pixels[98:104, 150:290] = (40, 120, 200, 255)
    Image.fromarray(pixels).save(tmp_path / "hairline.png", dpi=(635, 635))
    window.intake.replace_all([tmp_path / "hairline.png"])
    settle(window)
    edges = window.results.edges
    assert edges is not None
    # The hairline lies in the right half of the artwork and is 0.22 mm high: 0.1 mm off each side.
    assert edges.worst.x > 0
    # 0.1 mm of it is spared.
    assert edges.worst.white.sum() < 0.75 * edges.worst.colour.sum()
    # Nothing is told of an edge that is no longer there.
    seen: list[bool] = []
    window.results.preview_changed.connect(lambda: seen.append(window.results.edges is None))
    window.session.edit("Bleed", lambda job: job.replace(bleed=0.7))
    settle(window)
    assert seen and all(seen) and window.results.edges is not None
