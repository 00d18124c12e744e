"""Pockets one by one, in the window."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMenu, QPushButton

from farbe.desk.app import settle
from farbe.desk.stations.bed.canvas import BedCanvas
from farbe.desk.stations.bed.drawingdialog import DrawingDialog, read_drawing
from farbe.desk.stations.bed.form.places import PlacesPart
from farbe.desk.stations.bed.repeatdialog import RepeatDialog
from farbe.desk.window import MainWindow
from farbe.edits.bed import with_change
from farbe.edits.piece import with_width
from farbe.edits.values import with_artwork
from farbe.folders import queue_folder
from farbe.layout.laid import allotted, laid, places
from farbe.layout.tiling import parts_of, tiled
from farbe.model.placing import Across, Fit
from farbe.plan.stations import Station
from farbe.queue.store import Queue
from farbe.queue.work import job_of
from hands import field, type_into


def part(window: MainWindow) -> PlacesPart:
    window.visit(Station.BED), settle(window)
    assert window.bench is not None
    inspector = window.bench.views[Station.BED].inspector
    inspector.choose(inspector.places.thing), settle(window)  # type: ignore[attr-defined]
    return inspector.places  # type: ignore[attr-defined, no-any-return]


def press(here: PlacesPart, words: str) -> None:
    settle(here.form.window())  # type: ignore[arg-type]
    button = next(b for b in here.form.findChildren(QPushButton)
                  if b.isVisible() and getattr(b, "words", b.text()) == words)  # fmt: skip
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    settle(here.form.window())  # type: ignore[arg-type]


def canvas_of(window: MainWindow) -> BedCanvas:
    found = window.findChild(BedCanvas)
    assert found is not None
    return found


def drag(canvas: BedCanvas, start: QPointF, by: QPoint) -> None:
    at = start.toPoint()
    left = Qt.MouseButton.LeftButton
    QTest.mousePress(canvas, left, Qt.KeyboardModifier.AltModifier, at)
    for share in (0.5, 1.0):
        QTest.mouseMove(canvas, at + by * share)
        QTest.qWait(1)
    QTest.mouseRelease(canvas, left, Qt.KeyboardModifier.AltModifier, at + by)


def test_pockets_are_typed_dragged_turned_and_go_back(window: MainWindow) -> None:
    session = window.session
    grid = session.job
    assert grid is not None
    here, canvas = part(window), canvas_of(window)
    press(here, "Place pockets one by one")
    for one, other in zip(places(session.job), places(grid), strict=True):
        assert (one.x, one.y) == pytest.approx((other.x, other.y))
    model = here.model
    assert model.rowCount() == 12
    assert model.setData(model.index(4, 3), "33°") and model.setData(model.index(4, 1), "3*10,5")
    fifth = places(session.job)[4]
    assert (fifth.x, fifth.turn) == (31.5, 33.0)
    assert not model.setData(model.index(4, 1), "far away")
    # Held until it is said that pockets move; then the chosen ones alone do.
    before = places(session.job)
    drag(canvas, canvas.at(before[0].x, before[0].y), QPoint(30, 0))
    assert (session.job.jig.places[0].x, session.job.jig.places[0].y) == (before[0].x, before[0].y)
    press(here, "Move pockets")
    drag(canvas, canvas.at(before[0].x, before[0].y), QPoint(30, 0))
    moved = places(session.job)
    assert moved[0].x > before[0].x + 1 and (moved[1].x, moved[1].y) == (before[1].x, before[1].y)
    assert session.undo_name == "Move pockets"
    # Rows that are chosen are chosen in the picture, and the other way round.
    here.table.selectRow(2)
    assert canvas.selected == {3}
    canvas.choose(7)
    assert {index.row() for index in here.table.selectedIndexes()} == {6}
    press(here, "Back to the grid"), settle(window)
    assert session.job.jig == grid.jig


@pytest.mark.long
def test_pockets_are_arranged_together(window: MainWindow) -> None:
    here, canvas = part(window), canvas_of(window)
    press(here, "Place pockets one by one")
    QGuiApplication.clipboard().setText("x\ty\tturn\n10,5\t12\t0\n41\t14\t90\n68\t13\t-15\n")
    here.table.setFocus()
    QTest.keyClick(here.table, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    session = window.session
    assert [(p.x, p.y, p.turn) for p in places(session.job)] == [
        (10.5, 12, 0), (41, 14, 90), (68, 13, 345)
    ]  # fmt: skip
    actions = {a.text(): a for b in window.findChildren(QPushButton) if b.menu() is not None
               and getattr(b, "words", "") == "Arrange" for a in b.menu().actions()}  # fmt: skip
    canvas.choose_several({1, 2, 3})
    actions["Align middles in a row"].trigger()
    assert {p.y for p in places(session.job)} == {12}
    actions["Spread evenly from left to right"].trigger()
    assert places(session.job)[1].x == pytest.approx((10.5 + 68) / 2)
    canvas.choose(2)
    press(here, "Remove")
    assert [p.number for p in places(session.job)] == [1, 2]
    QGuiApplication.clipboard().setText("1\t2\tthree")
    said: list[str] = []
    session.said.connect(said.append)
    here.paste(QGuiApplication.clipboard().text())
    assert "has no column named x" in said[-1]


@pytest.mark.long
def test_a_drawing_is_asked_about_and_taken(window: MainWindow, tmp_path: Path) -> None:
    from test_jig_drawings import draw

    here = part(window)
    read_drawing(here.desk, draw(tmp_path / "jig.dxf"), here.form)
    settle(window)
    dialog = window.findChild(DrawingDialog)
    assert dialog is not None and len(dialog.uses) == 4
    assert [combo.currentText() for combo in dialog.uses].count("Pins") == 1
    for combo in dialog.uses:
        combo.setCurrentText("Nothing")
    dialog.accept()
    assert "Choose one kind" in dialog.words.text() and dialog.isVisible()
    dialog.uses[0].setCurrentText("Pockets of this piece")
    dialog.accept(), settle(window)
    assert len(places(window.session.job)) == 14 and not window.session.job.jig.kinds


@pytest.mark.long
def test_a_jig_that_is_moved_after_its_guide_was_made_is_said(
    window: MainWindow, tmp_path: Path
) -> None:
    def moved() -> list[str]:
        settle(window)
        findings = window.results.findings
        assert findings is not None
        return [check.text for check in findings.checks if check.code == "jig-moved"]

    session = window.session
    first = session.job
    assert first is not None and not moved()
    here = part(window)
    here.desk.exports.guide(tmp_path / "jig.svg"), settle(window)
    assert session.undo_name == "The guide was made" and not moved()
    # It is noted, and nobody is asked to save for that alone.
    assert not session.unsaved and not window.isWindowModified()
    session.edit("Gap", lambda j: j.replace(jig=j.jig.replace(gap_x=5.5, off=frozenset({2}))))
    assert len(moved()) == 1 and first.job.printer is session.job.job.printer
    check = next(c for c in window.results.findings.checks if c.code == "jig-moved")
    assert check.fix is not None
    session.edit("Back", check.fix.mend)
    assert not moved() and session.job.jig.gap_x == first.jig.gap_x
    assert session.job.jig.off == {2}


@pytest.mark.long
def test_pockets_are_repeated_as_a_second_grid(window: MainWindow) -> None:
    here, canvas = part(window), canvas_of(window)
    press(here, "Place pockets one by one")
    canvas.choose_several({1, 2})
    dialog = RepeatDialog(window.session, canvas.selected, (20.0, 15.0), window)
    dialog.columns.setText("3"), dialog.rows.setText("2"), dialog.across.setText("21,5")
    dialog.accept()
    found = places(window.session.job)
    assert len(found) == 12 + 2 * 5 and window.session.undo_name == "Repeat pockets"
    assert (found[-1].x, found[-1].y) == (
        pytest.approx(found[1].x + 43), pytest.approx(found[1].y + 15)
    )  # fmt: skip
    here.refresh()


@pytest.mark.long
def test_failed_pieces_are_queued_by_a_click(window: MainWindow) -> None:
    part(window)
    canvas = canvas_of(window)
    canvas.choose_several({2, 5})
    menu = QMenu()
    found = places(window.session.job)[1]
    canvas.fill_menu(menu, QPointF(found.x, found.y))
    action = next(a for a in menu.actions() if a.text().startswith("They failed"))
    action.trigger(), settle(window)
    (entry,) = Queue(queue_folder()).entries()
    again = job_of(Queue(queue_folder()), entry, window.session.store).again
    assert again is not None and again.numbers == (2, 5)


def test_a_pocket_has_its_own_size_and_place(window: MainWindow) -> None:
    part(window)
    canvas = canvas_of(window)
    canvas.choose(3)
    session = window.session
    session.edit("One", lambda j: with_change(
        j, {3}, fit=Fit.INSIDE, margin=1.0, across=Across.LEFT))  # fmt: skip
    prints = allotted(session.job).prints
    own, all_ = prints[3].placing, prints[4].placing
    assert (own.fit, own.margin, own.across) == (Fit.INSIDE, 1.0, Across.LEFT)
    assert all_ == session.job.placing


@pytest.mark.long
def test_artwork_larger_than_the_board_is_printed_in_loads(window: MainWindow) -> None:
    """Each part is reached by choosing its load, and the queue takes all of them at once."""
    session = window.session
    window.visit(Station.BED), settle(window)
    assert window.bench is not None
    inspector = window.bench.views[Station.BED].inspector
    art = inspector.artwork  # type: ignore[attr-defined]
    inspector.choose(art.thing), settle(window)
    whole = session.job
    wide = whole.artwork.replace(width=70.0, height=45.0)  # type: ignore[union-attr]
    session.edit("Larger", lambda j: j.replace(artworks=(wide,), texts=()))
    used = len(laid(session.job))  # type: ignore[arg-type]
    art.lay_out(2.0), settle(window)
    moves = parts_of(session.job)  # type: ignore[arg-type]
    loads = -(-len(moves) // used)
    assert loads > 1
    seen = []
    load = field(window, Station.BED, "Load of parts")
    for number in range(1, loads + 1):
        type_into(load, str(number)), settle(window)
        prints = allotted(session.job).prints.values()  # type: ignore[arg-type]
        seen += [(what.placing.offset_x, what.placing.offset_y) for what in prints]
    assert tuple(seen) == moves
    assert "cut-off" not in {c.code for c in window.desk.results.findings.checks}  # type: ignore[union-attr]
    window.press.add(held=True), settle(window)
    queue = Queue(queue_folder())
    entries = queue.entries()
    assert len(entries) == loads
    named = [job_of(queue, entry, session.store).faces[0].parts for entry in entries]
    assert [part.first for part in named] == list(range(1, len(moves) + 1, used))  # type: ignore[union-attr]
    press(art, "Print it in one piece"), settle(window)
    assert session.job is not None and session.job.parts is None


@pytest.mark.long
def test_a_piece_may_become_too_small_for_its_parts(window: MainWindow) -> None:
    """Nothing is refused or lost by typing a smaller piece first and a smaller overlap then."""
    session = window.session
    art = session.job.artworks[0]  # type: ignore[union-attr]
    wide, high = 3 * art.width, 3 * art.height
    session.edit("Larger", lambda job: with_artwork(job, 0, width=wide, height=high))
    session.edit("In parts", lambda job: tiled(job, 4.0)), settle(window)
    many = len(parts_of(session.job))  # type: ignore[arg-type]
    session.edit("Smaller", lambda job: with_width(job, 3.5))
    for station in Station:
        window.visit(station), settle(window)
    codes = [check.code for check in window.results.findings.checks]  # type: ignore[union-attr]
    assert "no-prints" in codes and not parts_of(session.job)  # type: ignore[arg-type]
    session.edit("Overlap", lambda job: tiled(job, 1.0)), settle(window)
    codes = [check.code for check in window.results.findings.checks]  # type: ignore[union-attr]
    assert "no-prints" not in codes
    assert len(parts_of(session.job)) > many  # type: ignore[arg-type]
