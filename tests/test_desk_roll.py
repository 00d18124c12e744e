"""Film and two readers in the real window."""

from __future__ import annotations

from pathlib import Path
from types import SimpleNamespace

import cv2
import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainterPath, QPolygonF
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QFileDialog, QPushButton
from shapely import Polygon

from conftest import behind, some
from farbe.desk.app import settle
from farbe.desk.stations.bed.rollcanvas import RollCanvas
from farbe.desk.stations.bed.station import BedInspector
from farbe.desk.stations.run.queueview import QueueView
from farbe.desk.window import MainWindow
from farbe.estimate.steps import steps
from farbe.layout.cutfile import cut_page
from farbe.layout.laid import laid
from farbe.layout.rolls import film_length, missing, near_boxes
from farbe.model.piece import Reader
from farbe.model.printer import LayerKind
from farbe.model.roll import Packing
from farbe.plan.readers import ReadBy
from farbe.plan.sentence import job_line
from farbe.plan.stations import Station
from farbe.render.cutlines import cut_lines
from hands import choose, control, grabbed, now, type_into


def film(window: MainWindow) -> tuple[BedInspector, RollCanvas]:
    window.visit(Station.BED)
    settle(window)
    view = window.bench.views[Station.BED]
    form = view.inspector
    assert isinstance(form, BedInspector)
    canvas = view.picture.findChild(RollCanvas)
    assert isinstance(canvas, RollCanvas)
    return form, canvas


@pytest.mark.long
def test_artworks_are_laid_anew_as_quantities_change(window: MainWindow) -> None:
    form, canvas = film(window)
    board = now(window)
    lies = control(form, "Lies on")
    choose(lies, 1)
    settle(window)
    assert now(window).roll is not None and canvas.isVisible()
    assert "on film" in job_line(now(window))[0].text
    tray = window.bench.views[Station.BED].under
    type_into(control(tray, "Quantity 1"), "9")
    settle(window), settle(window)
    roll = now(window).roll
    assert roll is not None and len(roll.places) == 9 and not missing(now(window))
    length = film_length(now(window))
    # The new places are a part of the edit that asked for them.
    window.session.undo(), settle(window), settle(window)
    assert now(window).artworks[0].quantity is None and len(now(window).roll.places) == 1  # type: ignore[union-attr]
    window.session.redo(), settle(window), settle(window)
    assert len(now(window).roll.places) == 9  # type: ignore[union-attr]
    type_into(control(form, "Film width"), "40")
    settle(window), settle(window)
    assert film_length(now(window)) > length
    type_into(control(form, "Film width"), "14")
    settle(window), settle(window)
    assert "does not fit on a sheet" in window.check_bar.shown_text
    window.session.undo(), settle(window)
    choose(lies, 0)
    settle(window)
    assert now(window).roll is None and now(window).jig == board.jig and not canvas.isVisible()


@pytest.mark.parametrize("turned", some([0, 90, 180, 270], 90))
@pytest.mark.parametrize("reader", [Reader.FACE, Reader.TRANSFER])
def test_artworks_are_drawn_pixel_for_pixel(
    window: MainWindow, turned: int, reader: Reader
) -> None:
    form, canvas = film(window)
    choose(control(form, "Lies on"), 1)
    settle(window)
    window.session.edit("Turned", lambda j: j.replace(reader=reader, medium=j.roll.replace(  # type: ignore[union-attr]
        packing=Packing.HAND,
        places=tuple(one.replace(turned=turned, x=30, y=30) for one in j.roll.places)  # type: ignore[union-attr]
    )))  # fmt: skip
    settle(window)
    (place,) = laid(now(window))
    (wide, high), (thumb,) = place.size, window.results.thumbs.values()
    box = canvas.box(place.x - wide / 2, place.y - high / 2, wide, high)
    straight = np.rot90(thumb[:, ::-1] if reader is Reader.TRANSFER else thumb, turned // 90)
    wanted = cv2.resize(
        np.ascontiguousarray(straight), box.size().toSize().toTuple(), interpolation=cv2.INTER_AREA
    ).astype(int)
    left, top = box.topLeft().toPoint().toTuple()
    shown = grabbed(canvas)[top : top + len(wanted), left : left + wanted.shape[1], :3]
    solid = cv2.erode((wanted[..., 3] == 255).astype(np.uint8), np.ones((5, 5))) > 0
    assert solid.sum() > 200
    assert np.abs(shown.astype(int) - wanted[..., :3])[solid].mean() < 1.5


@pytest.mark.long
def test_artworks_are_moved_turned_doubled_and_taken_off(window: MainWindow) -> None:
    form, canvas = film(window)
    lies = control(form, "Lies on")
    choose(lies, 1)
    settle(window)
    before = now(window).roll.places[0]  # type: ignore[union-attr]
    start = canvas.at(before.x, before.y)
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=start.toPoint())
    for share in (0.5, 1.0):
        QTest.mouseMove(canvas, (start + QPointF(60, -40) * share).toPoint())
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton)
    roll = now(window).roll
    assert roll is not None and roll.packing is Packing.HAND and canvas.choice == 1
    assert roll.places[0].x > before.x and roll.places[0].y > before.y
    QTest.keyClick(canvas, Qt.Key.Key_R)
    assert now(window).roll.places[0].turned == 90  # type: ignore[union-attr]
    QTest.keyClick(canvas, Qt.Key.Key_D)
    roll = now(window).roll
    assert roll is not None and len(roll.places) == 2 and not missing(now(window))
    assert not near_boxes(now(window), roll.gap - 0.01)
    QTest.keyClick(canvas, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert now(window).roll.places[0].x == roll.places[0].x - 1  # type: ignore[union-attr]
    window.session.edit("On top", lambda j: j.replace(
        medium=j.roll.replace(places=(j.roll.places[0], j.roll.places[0]))  # type: ignore[union-attr]
    ))  # fmt: skip
    settle(window)
    findings = window.results.findings
    assert findings is not None and findings.met == {1, 2}
    assert any(c.code == "artworks-meet" for c in findings.checks)
    QTest.keyClick(canvas, Qt.Key.Key_Delete)
    assert len(now(window).roll.places) == 1 and not missing(now(window))  # type: ignore[union-attr]


def test_artworks_are_cut_apart_along_their_shapes(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    form, canvas = film(window)
    choose(control(form, "Lies on"), 1)
    settle(window), settle(window)
    assert window.results.cuts == {} and not form.offers(control(form, "Cut beyond the ink"))
    choose(control(form, "Cut apart"), 1)
    settle(window), settle(window)
    (shape,) = window.results.cuts.values()
    assert len(shape.lines) == 1
    # What does not change the lines does not have them drawn from anew.
    path = canvas._cuts[now(window).artworks[0].key][1]
    type_into(control(form, "Gap on the film"), "7")
    settle(window), settle(window)
    assert list(window.results.cuts.values()) == [shape]
    assert canvas._cuts[now(window).artworks[0].key][1] is path
    inked = grabbed(canvas)
    type_into(control(form, "Cut beyond the ink"), "3")
    settle(window), settle(window)
    (wider,) = window.results.cuts.values()
    assert np.ptp(wider.lines[0][:, 0]) - np.ptp(shape.lines[0][:, 0]) == pytest.approx(
        3.0, abs=0.2
    )
    assert not np.array_equal(grabbed(canvas), inked)
    target = tmp_path / "film.svg"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    write = next(
        b for b in form.cut.form.findChildren(QPushButton)
        if b.text() == "Write the cutting file…"
    )  # fmt: skip
    QTest.mouseClick(write, Qt.MouseButton.LeftButton)
    settle(window)
    assert 'id="piece-1"' in target.read_text(encoding="utf-8")


@pytest.mark.long
def test_lines_on_the_film_are_those_that_are_cut(window: MainWindow) -> None:
    """Of artworks turned by any quarter, mirrored or not, to a quarter of the screen's pixel."""
    form, canvas = film(window)
    choose(control(form, "Lies on"), 1)
    settle(window), settle(window)
    choose(control(form, "Cut apart"), 1)
    for number, turned in enumerate((0, 90, 180, 270)):
        window.session.edit("Turn", lambda job, turned=turned: job.replace(
            medium=job.roll.replace(
                places=tuple(place.replace(turned=turned) for place in job.roll.places),
                packing=Packing.HAND,
            )
        ))  # fmt: skip
        if number == 2:
            window.session.edit("Reader", lambda job: job.replace(reader=Reader.THROUGH))
        settle(window), settle(window)
        job = now(window)
        wanted = dict(cut_page(job, shapes=(cut_lines(job, window.session.store),)).lines)
        for place in laid(job):
            art = place.what.artwork if place.what is not None else None
            assert art is not None and place.what is not None
            drawn = list[QPainterPath]()
            painter = SimpleNamespace(setPen=lambda _: None, drawPath=drawn.append)
            canvas._paint_cut(painter, art.key, place.what.turned or 0, place)  # type: ignore[arg-type]
            (path,) = drawn
            (polygon,) = path.toSubpathPolygons()
            found = Polygon([(at.x(), at.y()) for at in canvas_mm(canvas, polygon)])
            cut = Polygon(wanted[f"piece-{place.shown}"])
            assert found.exterior.hausdorff_distance(cut.exterior) <= 0.26 / canvas.scale
            assert len(found.exterior.coords) <= len(cut.exterior.coords) + 1


def canvas_mm(canvas: RollCanvas, polygon: QPolygonF) -> list[QPointF]:
    return [canvas.millimetres(at) for at in polygon.toList()]


@pytest.mark.long
def test_a_film_is_printed_on_both_sides_from_the_window(window: MainWindow) -> None:
    form, canvas = film(window)
    choose(control(form, "Lies on"), 1)
    settle(window), settle(window)
    choose(control(form, "Film printed on"), 1)
    settle(window), settle(window)
    job = now(window)
    assert job.other is not None and job.roll is not None
    assert job.roll.places[0].behind == job.other.artworks[0].digest
    twice = (job.artworks[0].replace(quantity=2),)
    window.session.edit("Two", lambda j: behind(j.replace(artworks=twice), artworks=twice))
    settle(window), settle(window)
    assert len(now(window).roll.places) == 2  # type: ignore[union-attr]
    canvas.choice = 1
    QTest.keyClick(canvas, Qt.Key.Key_PageUp)
    assert canvas.choice == 2
    window.switch_side(), settle(window)
    assert canvas.isVisible() and now(window).came_up is not None
    window.switch_side(), settle(window)
    type_into(control(form, "Side B to the right"), "0.4")
    assert now(window).roll.offset.x == 0.4  # type: ignore[union-attr]
    window.visit(Station.RUN), settle(window)
    run = window.bench.views[Station.RUN].inspector
    window.press.ask(do="fault", name="line not seen"), settle(window)
    window.send_job(), settle(window), settle(window)
    assert "last end first" in window.check_bar.shown_text
    queue = window.bench.views[Station.RUN].under
    assert isinstance(queue, QueueView)

    def go_on() -> None:
        window.press.look(), settle(window)
        queue.choose(1)
        queue._buttons["Print"].click(), settle(window), settle(window)

    go_on()
    assert "not found" in window.check_bar.shown_text
    moved = control(run, "Film right")
    assert run.offers(moved)
    type_into(moved, "0.2")
    run.press.move_film(), settle(window)
    go_on()
    window.press.look(), settle(window)
    assert [e.state.value for e in window.press.looked.past] == ["done"]
    assert window.bench.views[Station.RUN].picture.list.done == len(steps(now(window)))


@pytest.mark.long
def test_the_start_page_begins_on_film_and_on_bottles(window: MainWindow) -> None:
    for words, station in (
        ("film from a roll", Station.BED),
        ("round body on rollers", Station.PIECE),
    ):
        window.close_job(), settle(window)
        tile = next(b for b in window.start_page.findChildren(QAbstractButton)
                    if b.accessibleName() == f"New job: {words}")  # fmt: skip
        QTest.mouseClick(tile, Qt.MouseButton.LeftButton)
        settle(window)
        assert window.station is station
        assert (now(window).roll is not None) is (station is Station.BED)


@pytest.mark.long
def test_garments_are_listed_for_transfers(window: MainWindow) -> None:
    form, _ = film(window)
    lies = control(form, "Lies on")
    choose(lies, 1)
    settle(window)
    assert not form.garments.thing.is_there
    window.session.edit("Transfer", lambda j: j.replace(reader=Reader.TRANSFER))
    settle(window)
    form.garments.add()
    settle(window)
    type_into(control(form, "Garment 1 size"), "XL")
    type_into(control(form, "Garment 1 count"), "3")
    assert [(g.size, g.count) for g in now(window).garments] == [("XL", 3)]
    form.garments._remove(0)
    settle(window)
    assert not now(window).garments


def test_a_clear_piece_gets_two_readers(window: MainWindow) -> None:
    window.visit(Station.PIECE)
    settle(window)
    form = window.bench.views[Station.PIECE].inspector
    both, face = control(form, "Read from: both"), control(form, "Read from: the face")
    assert isinstance(both, QPushButton) and isinstance(face, QPushButton)
    both.click()
    settle(window)
    job = now(window)
    assert job.two_readers and len(job.stack) == 6
    assert "through the piece" in job_line(job)[3].text
    window.switch_side(), settle(window)
    assert now(window).reader is Reader.THROUGH
    # What is edited there is the other reader's.
    window.session.edit("Its own", lambda j: j.replace(artworks=()))
    window.switch_side(), settle(window)
    assert now(window).artworks == job.artworks and not now(window).other.artworks  # type: ignore[union-attr]
    window.visit(Station.LAYERS), settle(window)
    layers = window.bench.views[Station.LAYERS].inspector
    window.session.edit("Clear", lambda j: j.replace(
        piece=j.piece.replace(surface=j.piece.surface.replace(material="clear"))
    ))  # fmt: skip
    settle(window)
    holes = control(layers, "See-through holes")
    choose(holes, 1)
    settle(window)
    assert now(window).see_through is not None
    assert any(c.code == "open-share" for c in window.results.findings.checks)  # type: ignore[union-attr]
    face.click()
    settle(window)
    assert not now(window).two_readers
    assert [la.kind for la in now(window).stack].count(LayerKind.COLOUR) == 1
    assert ReadBy.BOTH.value == "both"
