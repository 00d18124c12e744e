"""The real window, offscreen: what a user does and what the job and the screen then say."""

from __future__ import annotations

import json
import os
from collections.abc import Callable
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QCoreApplication, QPoint, QPointF, QRect, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QFileDialog, QLineEdit, QMessageBox, QWidget
from pytestqt.qtbot import QtBot

from conftest import delete, small_art
from farbe.art.profiles import shipped_profile
from farbe.checks.weight import Weight
from farbe.desk.app import settle
from farbe.desk.autosave import autosave_folder, left_behind
from farbe.desk.fields import ChoiceField, NumberField, TextField
from farbe.desk.finder import Finder
from farbe.desk.openfile import OpenFile
from farbe.desk.preferences import Preferences
from farbe.desk.recovery import RecoveryDialog
from farbe.desk.stations.bed.canvas import BedCanvas
from farbe.desk.stations.bed.jigmenu import JigMenu
from farbe.desk.stations.layers.form import LayersInspector
from farbe.desk.stations.layers.platestrip import PlateStrip
from farbe.desk.stations.proof.canvas import ProofCanvas
from farbe.desk.stations.proof.form import ProofInspector
from farbe.desk.stations.run.printer import PrinterMenu
from farbe.desk.stations.run.runlist import RunPicture
from farbe.desk.turns import BeforeInput
from farbe.desk.window import MainWindow
from farbe.files.jobfile import open_job, save_job
from farbe.files.store import ArtStore
from farbe.follows.looking import Shown
from farbe.layout.faced import Faced
from farbe.layout.figures import Units, use_units
from farbe.model.layer import COLOUR, WHITE_UNDER
from farbe.model.piece import Material, Reader, Surface
from farbe.model.printer import LayerKind
from farbe.model.treatment import Choke, Shift
from farbe.plan.printers import PRINTERS
from farbe.plan.stations import Station
from hands import Painted, field, grabbed, job_line_text, now, type_into


@pytest.mark.long
def test_a_visited_station_is_painted_part_by_part_and_wholly(
    window: MainWindow, qtbot: QtBot
) -> None:
    """Its picture first, each thing around it in a turn: all at once would hold the window up."""
    bench = window.bench
    assert bench is not None
    painted = {}
    for station in (Station.BED, Station.LAYERS, Station.RUN):
        view = bench.views[station]
        window.visit(station)
        settle(window)
        strip = view.picture.findChild(PlateStrip)
        plates = {} if strip is None else {"strip": strip, "third plate": strip.thumbs[2][2]}
        painted[station] = Painted(
            window, picture=view.picture, rail=window.rail, inspector=view.inspector,
            listed=view.inspector.listed,
            **plates, under=view.under or bench.section,
        )  # fmt: skip
    # Who only passes a station by sees all of the one after it.
    for path in (
        (Station.LAYERS,),
        (Station.BED, Station.RUN),
        (Station.RUN, Station.LAYERS, Station.BED),
    ):
        order = painted[path[-1]].order
        order.clear()
        for station in path:
            window.visit(station)
        parts = painted[path[-1]].names
        qtbot.waitUntil(lambda: set(parts) <= set(order))  # noqa: B023
        for first, then in pairwise(map(order.index, parts)):
            assert "turn" in order[first:then], order


@pytest.mark.long
def test_keys_and_pointer_go_between_an_edit_and_its_picture(
    window: MainWindow, qtbot: QtBot
) -> None:
    """To tell an edit and to paint it in one turn would hold them up; what follows comes last."""
    window.visit(Station.BED)
    settle(window)
    order = Painted(window, picture=window.bench.views[Station.BED].picture).order
    window.session.edit("Gap", lambda job: job.replace(jig=job.jig.replace(gap_x=4.5)))
    window.workers.once_drawn("told", lambda: order.append("told"))
    QCoreApplication.sendPostedEvents()
    assert order == ["turn"]
    QTimer.singleShot(0, lambda: order.append("key"))
    qtbot.waitUntil(lambda: "told" in order)
    first = [order.index(what) for what in ("key", "picture", "told")]
    assert first == sorted(first), order


def test_plates_and_values_follow_a_picture_in_turns_of_their_own(
    window: MainWindow, qtbot: QtBot
) -> None:
    """All at once the window would be away for longer than it may."""
    window.visit(Station.LAYERS)
    settle(window)
    strip = window.bench.views[Station.LAYERS].picture.findChild(PlateStrip)
    white = next(thumb for _, _, thumb in strip.thumbs if thumb.text() == "White")
    shares, waiting = [white.share], []
    window.results.preview_rests.connect(lambda: waiting.append(
        [window.workers.busy(key) for key in ("plates", "layers")] + [white.share == shares[0]]
    ))  # fmt: skip
    window.results.findings_changed.connect(lambda: waiting.append(
        [window.workers.busy(key) for key in ("job line", "found", "marks")]
    ))  # fmt: skip
    type_into(field(window, Station.LAYERS, "Choke"), "0.7")
    settle(window)
    assert len(waiting) > 1 and all(waiting[0]) and all(all(each[:2]) for each in waiting)
    assert white.share < shares[0]
    # What follows a picture waits for the fine one; for none while a slider is dragged.
    results, rested = window.results, list[bool]()
    fine = results.preview
    assert fine is not None
    results.preview_rests.connect(lambda: rested.append(results.preview.coarse))  # type: ignore[union-attr]
    for coarse in (True, True, False, True):
        results.preview = replace(fine, coarse=coarse)
        results.preview_changed.emit()
    assert rested == [False]
    qtbot.waitUntil(lambda: rested == [False, True])


@pytest.mark.long
def test_the_section_is_drawn_by_itself_and_where_the_stack_is_another(
    window: MainWindow,
) -> None:
    """All values together take as long, and most edits leave it as it is."""
    window.visit(Station.LAYERS), settle(window)
    bench = window.bench
    assert bench is not None
    section = bench.section
    values = bench.views[Station.LAYERS].inspector.listed.viewport()
    order = Painted(window, section=section, values=values).order
    window.session.edit("Price", lambda j: j.replace(prices=j.prices.replace(work_hour=31.0)))
    settle(window)
    assert "section" not in order
    edits: list[Callable[[Faced], Faced]] = [
        lambda j: j.replace(stack=(j.stack[0].replace(hits=3), *j.stack[1:])),
        lambda j: j.replace(piece=j.piece.replace(height=7.5)),
        lambda j: j.replace(piece=j.piece.replace(name="Lid of glass")),
        lambda j: j.replace(
            piece=j.piece.replace(surface=Surface(material=Material.CLEAR)), reader=Reader.THROUGH),
        lambda j: j.replace(receiver=j.receiver.replace(mirrors=True)),
    ]  # fmt: skip
    beside = 0
    for number, edit in enumerate(edits):
        seen = grabbed(section)
        order.clear()
        window.session.edit(f"Edit {number}", edit), settle(window)
        assert "section" in order and not np.array_equal(grabbed(section), seen), number
        if "values" in order:
            first, then = sorted((order.index("values"), order.index("section")))
            assert "turn" in order[first:then], order
            beside += 1
    assert beside
    order.clear()
    use_units(Units.INCHES)
    window.session.tell(), settle(window)
    assert "section" in order


@pytest.mark.long
def test_what_follows_from_an_edit_is_told_before_the_next_key(window: MainWindow) -> None:
    """Nobody acts on what was shown before; what is dragged is followed in the edit's own turn."""
    window.visit(Station.RUN)
    settle(window)
    price = field(window, Station.RUN, "Price of an hour of work")
    window.bench.reveal(Station.RUN, price)  # type: ignore[union-attr]
    seen = [price.text()]
    for hour in (31.25, 32.5):
        window.session.edit(
            "Price", lambda j, hour=hour: j.replace(prices=j.prices.replace(work_hour=hour))
        )
        seen.append(price.text())
        if hour == 31.25:
            QTest.keyClick(window.windowHandle(), Qt.Key.Key_F12)
        else:
            QTest.mouseClick(window.windowHandle(), Qt.MouseButton.LeftButton, pos=QPoint(700, 300))
        seen.append(price.text())
    assert seen[1] == seen[0] and seen[2:] == ["31.25", "31.25", "32.5"]


@pytest.mark.parametrize("shown", [True, False])
def test_what_is_done_before_input_is_done_in_any_window(qapp: object, shown: bool) -> None:
    """The start page is shown before all else is there."""
    window, done = QWidget(), list[str]()
    field = QLineEdit(window)
    if shown:
        window.show()
    BeforeInput(window, lambda: done.append(field.text()))
    window.show()
    window.activateWindow()
    field.setFocus()
    QTest.keyClick(window.windowHandle(), Qt.Key.Key_A)
    QTest.keyClick(window.windowHandle(), Qt.Key.Key_B)
    typed = field.text()
    delete(window)
    assert typed == "ab" and list(dict.fromkeys(done)) == ["", "a"]


def test_a_typed_choke_changes_plate_and_picture_and_is_undone(window: MainWindow) -> None:
    window.visit(Station.LAYERS)
    window.bench.section.choose("White")
    choke = field(window, Station.LAYERS, "Choke")
    before_plate = window.results.preview.plates_of("White")[0].sum(dtype=np.int64)  # type: ignore[union-attr]
    before = window.session.job
    type_into(choke, "0.1*4")
    assert window.session.job.stack[0].choke == pytest.approx(0.4)  # type: ignore[union-attr]
    settle(window)
    preview = window.results.preview
    assert preview is not None
    assert preview.plates_of("White")[0].sum(dtype=np.int64) < 0.95 * before_plate
    assert window.session.undo_name == "Choke"
    window.session.undo()
    settle(window)
    assert window.session.job == before and choke.text() == "0.1"
    window.session.redo()
    settle(window)
    assert choke.text() == "0.4"


def test_what_is_typed_is_undone_one_by_one(window: MainWindow) -> None:
    """Two figures that were typed are two steps; steps by the arrow keys are one."""
    assert window.menuBar().actions()[0].text() == "&Job"
    window.visit(Station.LAYERS)
    window.bench.section.choose("White")
    choke = field(window, Station.LAYERS, "Choke")
    type_into(choke, "0.2"), type_into(choke, "0.3")
    for _ in range(3):
        QTest.keyClick(choke, Qt.Key.Key_Up)
    for left in (0.3, 0.2, 0.1):
        window.session.undo()
        assert now(window).stack[0].choke == pytest.approx(left)


def test_what_cannot_be_is_said_and_changes_nothing(window: MainWindow) -> None:
    before = window.session.job
    for name, text, words in (
        ("Diameter", "many", "not a figure"),
        ("Diameter", "0", "is not larger than 0"),
        ("Diameter", "2**9", "not a figure"),
        ("Height", "-4", "is smaller than 0"),
    ):
        type_into(field(window, Station.PIECE, name), text)
        assert words in window.check_bar.shown_text
        assert window.session.job == before


def test_units_and_arrow_keys(window: MainWindow) -> None:
    diameter = field(window, Station.PIECE, "Diameter")
    type_into(diameter, "0.5in")
    assert window.session.job.piece.shape.width == pytest.approx(12.7)  # type: ignore[union-attr]
    for _ in range(3):
        QTest.keyClick(diameter, Qt.Key.Key_Up)
    assert diameter.text() == "15.7"
    assert "round 15.7 mm" in job_line_text(window)


def test_dragging_a_film_reorders_stops_and_the_fix_mends(window: MainWindow) -> None:
    window.visit(Station.LAYERS)
    before = window.session.job
    white, colour = window.bench.section.films()[:2]
    start = white.box.center().toPoint()
    end = QPoint(start.x(), round(colour.box.top()) - 3)
    QTest.mousePress(window.bench.section, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(window.bench.section, end)
    QTest.mouseRelease(window.bench.section, Qt.MouseButton.LeftButton, pos=end)
    kinds = [layer.kind for layer in window.session.job.stack]  # type: ignore[union-attr]
    assert kinds == [LayerKind.COLOUR, LayerKind.WHITE, LayerKind.VARNISH]
    settle(window)
    assert "hides it" in window.check_bar.shown_text
    assert window.rail.buttons[Station.LAYERS].weight is Weight.STOP
    run = window.bench.views[Station.RUN].inspector.findChildren(QWidget)
    assert not next(
        w for w in run if getattr(w, "text", str)() == "Print on the test press"
    ).isEnabled()
    QTest.mouseClick(window.check_bar._fix, Qt.MouseButton.LeftButton)
    assert window.session.job == before
    settle(window)
    assert window.rail.buttons[Station.LAYERS].weight is not Weight.STOP


def test_dragging_the_eye_turns_reader_order_and_mirror(window: MainWindow) -> None:
    window.visit(Station.PROOF)
    section = window.bench.section
    start = section._eye().toPoint()
    end = QPoint(start.x(), section.height() - 22)
    QTest.mousePress(section, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(section, end)
    QTest.mouseRelease(section, Qt.MouseButton.LeftButton, pos=end)
    job = window.session.job
    assert job is not None and job.reader is Reader.THROUGH
    assert [la.kind for la in job.stack[:2]] == [LayerKind.COLOUR, LayerKind.WHITE]
    settle(window)
    assert "Mirrored, because" in window.check_bar.shown_text
    assert "read through" in job_line_text(window)
    window.session.undo()
    assert window.session.job.reader is Reader.FACE  # type: ignore[union-attr]


def test_keys_of_the_section(window: MainWindow) -> None:
    section = window.bench.section
    section.setFocus()
    section.choose("White")
    QTest.keyClick(section, Qt.Key.Key_Up)
    assert section.choice == "Colour"
    QTest.keyClick(section, Qt.Key.Key_X)
    assert not window.session.job.stack[1].on  # type: ignore[union-attr]
    QTest.keyClick(section, Qt.Key.Key_Delete)
    assert [la.name for la in window.session.job.stack] == ["White", "Varnish"]  # type: ignore[union-attr]
    section.choose("White")
    QTest.keyClick(section, Qt.Key.Key_Up, Qt.KeyboardModifier.ControlModifier)
    assert [la.name for la in window.session.job.stack] == ["Varnish", "White"]  # type: ignore[union-attr]


def test_pockets_are_chosen_switched_and_the_grid_moved(window: MainWindow) -> None:
    window.visit(Station.BED)
    settle(window)
    canvas = window.bench.views[Station.BED].picture
    assert isinstance(canvas, BedCanvas)
    job = window.session.job
    assert job is not None
    shape = job.piece.shape
    x = job.jig.first_x + shape.width / 2 + shape.width + job.jig.gap_x
    spot = canvas.at(x, job.jig.first_y + shape.height / 2).toPoint()
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=spot)
    assert canvas.chosen == 2
    lit = grabbed(canvas)[spot.y() - 40 : spot.y() + 40, spot.x() - 40 : spot.x() + 40]
    QTest.keyClick(canvas, Qt.Key.Key_X)
    assert window.session.job.jig.off == frozenset({2})  # type: ignore[union-attr]
    assert "11 × token" in job_line_text(window)
    dark = grabbed(canvas)[spot.y() - 40 : spot.y() + 40, spot.x() - 40 : spot.x() + 40]
    assert np.abs(lit - dark).mean() > 10
    before = window.session.job.jig.first_x  # type: ignore[union-attr]
    # A slip of the hand moves nothing, and is a click all the same.
    QTest.keyClick(canvas, Qt.Key.Key_Right)
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=spot)
    QTest.mouseMove(canvas, spot + QPoint(9, 0))
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=spot + QPoint(9, 0))
    assert window.session.job.jig.first_x == before  # type: ignore[union-attr]
    assert "Move the jig" in window.check_bar._message and canvas.chosen == 2
    QTest.keyClick(canvas, Qt.Key.Key_J)
    for _ in range(5):
        QTest.keyClick(canvas, Qt.Key.Key_Right)
    QTest.keyClick(canvas, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert window.session.job.jig.first_x == pytest.approx(before + 1.5)  # type: ignore[union-attr]
    window.session.undo()
    assert window.session.job.jig.first_x == pytest.approx(before)  # type: ignore[union-attr]
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=spot)
    for step in (6, 12, 18):
        QTest.mouseMove(canvas, spot + QPoint(step, 0))
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=spot + QPoint(18, 0))
    moved = window.session.job.jig.first_x - before  # type: ignore[union-attr]
    assert moved == pytest.approx(18 / canvas.scale, abs=0.11)
    assert window.session.undo_name == "Move the grid"
    window.session.undo()
    assert window.session.job.jig.first_x == pytest.approx(before)  # type: ignore[union-attr]
    QTest.keyClick(canvas, Qt.Key.Key_Escape)
    assert not canvas.loose


@pytest.mark.long
def test_the_wheel_zooms_at_the_pointer(window: MainWindow) -> None:
    window.visit(Station.BED)
    canvas = window.bench.views[Station.BED].picture
    assert isinstance(canvas, BedCanvas)
    point = QPointF(300, 200)
    place, scale = canvas.millimetres(point), canvas.scale
    canvas.zoom(2.0, point)
    assert canvas.scale == pytest.approx(2 * scale)
    assert canvas.millimetres(point).x() == pytest.approx(place.x())
    canvas.fit()
    assert canvas.scale == pytest.approx(scale)


def test_the_proof_shows_prediction_artwork_and_plates(window: MainWindow) -> None:
    window.visit(Station.PROOF)
    canvas = window.bench.views[Station.PROOF].picture.findChild(ProofCanvas)
    assert canvas is not None
    shown = {}
    for button in window.bench.views[Station.PROOF].inspector.findChildren(QWidget):
        shows = (button.accessibleName() or "").startswith("Show: ")
        if shows and button.isVisibleTo(window):
            QTest.mouseClick(button, Qt.MouseButton.LeftButton)
            settle(window)
            shown[button.accessibleName()] = grabbed(canvas)
    pictures = list(shown.values())
    assert len(pictures) == 7
    for one, other in pairwise(pictures):
        assert np.abs(one - other).mean() > 1
    look = pictures[0]
    inspector = window.bench.views[Station.PROOF].inspector
    assert isinstance(inspector, ProofInspector)
    form = inspector.look
    form.choose(Shown.LOOK)
    form.light.setValue(100)
    settle(window)
    assert np.abs(grabbed(canvas) - look).mean() > 1
    form.light.setValue(0)
    settle(window)
    assert np.abs(grabbed(canvas) - look).mean() < 0.5
    canvas.pointed.emit(QPointF(0, 0))
    texts = [w.text() for w in window.bench.views[Station.PROOF].inspector.findChildren(QWidget)
             if hasattr(w, "text") and "Cyan" in w.text()]  # fmt: skip
    assert "White  100 %" in texts[0]


@pytest.mark.long
def test_shake_says_what_is_enough_and_takes_it_over(window: MainWindow) -> None:
    window.visit(Station.PROOF)
    type_into(field(window, Station.PROOF, "Misregister across"), "0.3")
    settle(window)
    shake = window.results.shake
    assert shake is not None and shake.white is not None
    assert shake.white.chance > 0.3 and shake.white.least > 0.2
    form = window.bench.views[Station.PROOF].inspector
    assert isinstance(form, ProofInspector)
    assert "Enough choke" in form.shake._words.text()
    form.shake.take_over()
    settle(window)
    assert window.session.job.stack[0].choke >= shake.white.least  # type: ignore[union-attr]
    again = window.results.shake
    assert again is not None and again.white is not None and again.white.chance <= 0.05
    assert window.session.undo_name == "Take over choke and bleed"


def test_printing_on_the_press_ticks_every_step(window: MainWindow, qtbot: QtBot) -> None:
    window.send_job()
    picture = window.bench.views[Station.RUN].picture
    assert isinstance(picture, RunPicture)
    settle(window)
    assert picture.list.done == 5 and not picture.list.running
    assert picture.canvas.picture is not None
    assert (picture.canvas.picture.width(), picture.canvas.picture.height()) == (400, 300)
    window.session.edit("Hits", lambda j: j.replace(bleed=0.5))
    assert picture.list.done == 0 and picture.canvas.picture is None


def test_long_work_is_cancelled(window: MainWindow, qtbot: QtBot) -> None:
    window.send_job()
    qtbot.waitUntil(lambda: window.check_bar._stop.isVisible(), timeout=20_000)
    QTest.mouseClick(window.check_bar._stop, Qt.MouseButton.LeftButton)
    assert not window.workers.busy("press")
    settle(window)
    picture = window.bench.views[Station.RUN].picture
    assert isinstance(picture, RunPicture)
    assert picture.list.done < 5 and not window.check_bar._stop.isVisible()


def test_files_that_are_dropped(window: MainWindow, tmp_path: Path) -> None:
    before = window.session.job
    broken = tmp_path / "broken.png"
    broken.write_bytes(b"\x89PNG\r\n\x1a\nnothing")
    window.open_path(broken)
    settle(window)
    assert "broken.png" in window.check_bar.shown_text and window.session.job == before
    window.open_path(small_art(tmp_path / "wide.png", 200, 50))
    settle(window)
    # It goes beside what is there, at its own size.
    first, art = window.session.job.artworks  # type: ignore[union-attr]
    assert first == before.artwork and art.file_name == "wide.png"  # type: ignore[union-attr]
    assert (art.width, art.height) == pytest.approx((200 / 150 * 25.4, 50 / 150 * 25.4), abs=0.01)
    window.intake.replace_all([tmp_path / "wide.png"])
    settle(window)
    assert [a.file_name for a in window.session.job.artworks] == ["wide.png"]  # type: ignore[union-attr]
    (tmp_path / "bad.farbe").write_bytes(b"PK")
    window.open_path(tmp_path / "bad.farbe")
    settle(window)
    assert "bad.farbe" in window.check_bar.shown_text


def test_save_open_and_recent(window: MainWindow, tmp_path: Path) -> None:
    window.session.edit("Job name", lambda j: j.replace(name="Spring tokens"))
    assert window.session.unsaved and "*" in window.windowTitle()
    window.session.document.path = tmp_path / "tokens.farbe"
    assert window.save()
    settle(window)
    assert not window.session.unsaved
    kept = window.session.job
    window.close_job()
    assert window.session.job is None and window.start_page.isVisible()
    assert Preferences().recent == [tmp_path / "tokens.farbe"]
    window.open_path(tmp_path / "tokens.farbe")
    settle(window)
    assert window.session.job == kept


def test_unsaved_work_is_on_disk_and_offered_after_a_kill(
    window: MainWindow, tmp_path: Path
) -> None:
    window.session.edit("Job name", lambda j: j.replace(name="Unsaved"))
    window.autosave.write()
    settle(window)
    path = window.autosave.path
    assert path.exists() and left_behind() == []
    # As windows that are gone would have left them, one of a job that has a file.
    first, second = (autosave_folder() / f"{name}{path.suffix}" for name in ("one", "two"))
    own = tmp_path / "own.farbe"
    save_job(now(window).job, window.session.store, own)
    save_job(now(window).replace(name="First").job, window.session.store, first)
    save_job(now(window).replace(name="Second").job, window.session.store, second)
    first.with_suffix(".json").write_text(json.dumps({"name": "First", "path": str(own)}))
    os.utime(first, ns=(1, 1)), os.utime(second, ns=(2, 2))
    assert [one.name for one in left_behind()] == ["a job", "First"]
    dialog = RecoveryDialog(window, left_behind())
    assert dialog.jobs.item(1).text().startswith("First, ")
    dialog.throw_button.click()
    assert not second.exists() and dialog.jobs.count() == 1
    dialog.open_button.click()
    assert dialog.chosen is not None
    window.files.recover(dialog.chosen), settle(window)
    job = window.session.job
    assert job is not None and job.name == "First" and window.session.unsaved
    # It is saved where it came from; its copy is this window's now.
    assert window.session.path == own and not first.exists() and path.exists()
    assert not left_behind()
    window.close()
    assert not path.exists()


def test_a_file_that_somebody_changed_is_asked_about(
    window: MainWindow, store: ArtStore, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """And a second window on it is told; what the suffix makes of a name is asked, too."""
    path, asked = tmp_path / "job.farbe", list[str]()
    save_job(now(window).job, store, path)
    window.open_path(path), settle(window)
    other = OpenFile()
    assert not other.take(path)
    save_job(now(window).replace(name="Theirs").job, store, path)
    window.session.edit("Name", lambda j: j.replace(name="Mine"))
    answers = iter([QMessageBox.StandardButton.No, QMessageBox.StandardButton.Yes])

    def question(_: object, __: str, words: str, *___: object) -> object:
        asked.append(words)
        return next(answers)

    monkeypatch.setattr(QMessageBox, "question", question)
    assert not window.save() and "changed by somebody else" in asked[0]
    assert open_job(path, store).name == "Theirs"
    assert window.save(), settle(window)
    settle(window)
    assert open_job(path, store).name == "Mine"
    answers = iter([QMessageBox.StandardButton.No])
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "job"), ""))
    assert not window.files.save_as() and "is there already" in asked[-1]
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Discard)
    window.close_job(), settle(window)
    assert other.take(path)
    window.open_path(path), settle(window)
    assert "open in another window" in window.check_bar.shown_text
    other.let_go()


@pytest.mark.long
def test_the_finder_reaches_every_value(window: MainWindow) -> None:
    window.open_finder()
    finder = window.findChild(Finder)
    assert finder is not None
    QTest.keyClicks(finder.line, "corner rad")
    assert finder.list.count() == 1
    QTest.keyClick(finder.line, Qt.Key.Key_Return)
    assert window.station is Station.PIECE
    names = [
        f.accessibleName()
        for view in window.bench.views.values()
        for kind in (NumberField, TextField, ChoiceField)
        for f in view.inspector.findChildren(kind)
    ]
    assert len(names) > 30 and all(names)


@pytest.mark.long
def test_stations_by_alt_and_number(window: MainWindow) -> None:
    keys = {a.shortcut().toString(): a for a in window._menus.actions}
    for number, station in enumerate(Station, start=1):
        keys[f"Alt+{number}"].trigger()
        assert window.station is station
        assert window.rail.buttons[station].isChecked()


def test_nothing_is_cut_off_in_a_small_window(window: MainWindow) -> None:
    window.resize(1100, 700)
    for station in Station:
        window.visit(station)
        settle(window)
        for link in window.job_line._links:
            if link.isVisible():
                assert link.geometry().right() <= window.job_line.width()
                assert link.geometry().bottom() <= window.job_line.height()
        inspector = window.bench.views[station].inspector
        for thing in inspector.things:
            form = thing.page.widget()
            assert form.minimumSizeHint().width() <= inspector.width()


def test_the_start_page_has_room_in_the_smallest_window(window: MainWindow) -> None:
    """No button of it lies over another one, and at 1100 × 700 each is whole."""
    window.close_job()
    window.resize(window.minimumSize())
    settle(window)
    page = window.start_page
    buttons = [b for b in page.findChildren(QAbstractButton) if b.isVisible()]
    boxes = [QRect(b.mapTo(page, QPoint(0, 0)), b.size()) for b in buttons]
    assert len(boxes) >= 15
    for index, one in enumerate(boxes):
        assert not any(one.intersects(other) for other in boxes[index + 1 :])
    window.resize(1100, 700)
    settle(window)
    for button in buttons:
        assert page.rect().contains(QRect(button.mapTo(page, QPoint(0, 0)), button.size()))


@pytest.mark.long
def test_each_recipe_starts_a_job_without_surprises(window: MainWindow) -> None:
    from farbe.plan.recipes import RECIPES

    for recipe in RECIPES:
        window.files.new(recipe)
        settle(window)
        checks = window.results.findings.checks  # type: ignore[union-attr]
        assert [c.code for c in checks if c.weight is Weight.STOP] == ["no-artwork"]


@pytest.mark.long
def test_a_kept_jig_is_used_again_with_other_artwork(window: MainWindow, tmp_path: Path) -> None:
    menu = window.bench.views[Station.BED].inspector.findChild(JigMenu)
    assert menu is not None
    window.session.edit(
        "Gap", lambda j: j.replace(jig=j.jig.replace(name="Tokens / wide", gap_x=6.5, columns=3))
    )
    kept = window.session.job
    menu.keep()
    assert "is kept" in window.check_bar.shown_text
    window.session.undo()
    window.session.edit("Name", lambda j: j.replace(name="Other job", artworks=()))
    menu.aboutToShow.emit()
    entry = menu.actions()[0]
    assert entry.text() == "Tokens / wide, 9 pockets" and not entry.icon().isNull()
    entry.trigger()
    job = window.session.job
    assert job is not None and kept is not None
    assert job.jig == kept.jig and job.name == "Other job" and job.artwork is None
    assert window.session.undo_name == "Use Tokens / wide"
    bad = tmp_path / "bad.jig.json"
    bad.write_text('{"format": "farbe-jig", "version": 1, "jig": {}}')
    menu.take_file(bad)
    assert "holds no jig" in window.check_bar.shown_text and window.session.job == job


@pytest.mark.long
def test_another_profile_changes_the_plates(window: MainWindow, tmp_path: Path) -> None:
    window.visit(Station.LAYERS)
    window.bench.section.choose("Colour")
    form = window.bench.views[Station.LAYERS].inspector
    assert isinstance(form, LayersInspector)
    form.conversion.take_profile(small_art(tmp_path / "no.icc.png"))
    assert "not an ICC profile" in window.check_bar.shown_text
    assert window.session.job.conversion.profile is None  # type: ignore[union-attr]
    # The shipped profile as a file: another profile to the job, the same plates.
    before = window.results.preview.plates_of("Colour")  # type: ignore[union-attr]
    (tmp_path / "press.icc").write_bytes(shipped_profile())
    form.conversion.take_profile(tmp_path / "press.icc")
    settle(window)
    preview = window.results.preview
    assert preview is not None and preview.job.conversion.profile is not None
    for one, other in zip(before, preview.plates_of("Colour"), strict=True):
        assert np.array_equal(one, other)
    window.session.edit(
        "Intent", lambda j: j.replace(conversion=j.conversion.replace(intent="absolute"))
    )
    settle(window)
    changed = window.results.preview.plates_of("Colour")  # type: ignore[union-attr]
    assert any(not np.array_equal(a, b) for a, b in zip(before, changed, strict=True))


@pytest.mark.long
def test_printers_are_chosen_edited_and_exchanged(window: MainWindow, tmp_path: Path) -> None:
    menu = window.bench.views[Station.RUN].inspector.findChild(PrinterMenu)
    assert menu is not None
    menu.aboutToShow.emit()
    small = window.session.job.printer  # type: ignore[union-attr]
    names = [a.text() for a in menu.actions()]
    assert names[:4] == [printer.name for printer in PRINTERS] and len(set(names[:4])) == 4
    menu.actions()[2].trigger()
    assert window.session.job.printer == PRINTERS[2]  # type: ignore[union-attr]
    window.session.undo()
    type_into(field(window, Station.RUN, "Highest piece"), "2")
    settle(window)
    assert "takes 2 mm" in window.check_bar.shown_text
    menu.save_file(tmp_path / "mine.printer.json")
    window.session.undo()
    assert window.session.job.printer == small  # type: ignore[union-attr]
    menu.take_file(tmp_path / "mine.printer.json")
    assert window.session.job.printer == small.replace(max_piece_height=2)  # type: ignore[union-attr]
    before = window.session.job
    (tmp_path / "bad.printer.json").write_text('{"printer": {"name": "x"}}')
    menu.take_file(tmp_path / "bad.printer.json")
    assert "holds no printer" in window.check_bar.shown_text and window.session.job == before


@pytest.mark.long
def test_a_rubber_band_switches_several_pockets(window: MainWindow) -> None:
    window.visit(Station.BED)
    settle(window)
    canvas = window.bench.views[Station.BED].picture
    assert isinstance(canvas, BedCanvas)
    first, last = canvas.pockets[0], canvas.pockets[5]
    start = canvas.at(first.x - 7.5, first.y - 7.5).toPoint()
    end = canvas.at(last.x + 7.5, last.y + 7.5).toPoint()
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(canvas, end)
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=end)
    assert canvas.banded == frozenset({1, 2, 5, 6})
    QTest.keyClick(canvas, Qt.Key.Key_X)
    assert window.session.job.jig.off == frozenset({1, 2, 5, 6})  # type: ignore[union-attr]
    assert window.session.undo_name == "Switch 4 pockets"
    QTest.keyClick(canvas, Qt.Key.Key_X)
    assert window.session.job.jig.off == frozenset()  # type: ignore[union-attr]
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=canvas.at(first.x, first.y).toPoint())
    assert canvas.banded == frozenset() and canvas.chosen == 1


def test_findings_are_shown_where_they_are_and_accepted(window: MainWindow) -> None:
    """The strip tells how closely the job was looked at; F8 goes to places, F9 accepts."""
    layers = (WHITE_UNDER.replace(treatments=(Choke(by=0.1), Shift(x=0.6))), COLOUR)
    window.session.edit("Shift", lambda job: job.replace(stack=layers))
    settle(window)
    assert window.look_strip.shown_text == "Looked at 1 of 1 print at 150 × 210 dpi."
    findings, bar = window.results.findings, window.check_bar
    assert findings is not None and findings.exact
    codes = [check.code for check in findings.checks]
    while "looks out" not in bar.shown_text:
        bar._turn(1)
    check = findings.checks[codes.index("ink-looks-out")]
    bar.next_place()
    settle(window)
    assert window.station is Station.LAYERS and window.results.place == check.places[0]
    part = window.results.place_pixels
    assert part is not None and part.grid.dpi_x == 150 and part.plates_of("White")
    bar.next_place()
    settle(window)
    assert window.results.place == check.places[1 % len(check.places)]
    bar.accept_current()
    settle(window)
    kept = window.session.job.job.accepted  # type: ignore[union-attr]
    assert [one.code for one in kept] == ["ink-looks-out"]
    last = window.results.findings.checks[-1]  # type: ignore[union-attr]
    assert last.accepted and last.code == "ink-looks-out"
    window.session.undo()
    assert not window.session.job.job.accepted  # type: ignore[union-attr]


@pytest.mark.long
def test_windows_are_dressed_and_the_application_is_not(window: MainWindow) -> None:
    """What is opened over a window looks as it does, and a station is not dressed while made."""
    from PySide6.QtWidgets import QApplication, QDialog, QLineEdit, QVBoxLayout

    from farbe.desk.theme import DARK, LIGHT, use_theme

    app = QApplication.instance()
    assert isinstance(app, QApplication) and app.styleSheet() == ""
    dialog = QDialog(window)
    line, bare = QLineEdit(), QLineEdit()
    QVBoxLayout(dialog).addWidget(line)
    dialog.show(), settle(window)
    assert line.sizeHint().height() > bare.sizeHint().height()

    def ground() -> str:
        return line.grab().toImage().pixelColor(line.width() // 2, 4).name()

    try:
        use_theme(app, DARK), settle(window)
        assert ground() == DARK.field
    finally:
        use_theme(app, LIGHT)
    settle(window)
    assert ground() == LIGHT.field
    dialog.close()
