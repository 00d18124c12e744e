"""The Run station in the real window: modes, files, costs, queue, press."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pypdfium2
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QLabel, QMessageBox
from pytestqt.qtbot import QtBot

from conftest import kill_press, small_art
from farbe.desk.app import settle
from farbe.desk.fields import TextField
from farbe.desk.preferences import Preferences
from farbe.desk.stations.run.entrytable import NOTE
from farbe.desk.stations.run.form import RunInspector
from farbe.desk.stations.run.queueview import QueueView
from farbe.desk.stations.run.runlist import RunList, RunPicture
from farbe.desk.window import MainWindow
from farbe.estimate.steps import steps
from farbe.files.ticket import read_ticket
from farbe.folders import lock_file, press_folder, press_folders, queue_folder
from farbe.layout.laid import laid
from farbe.model.base import BadInput
from farbe.model.layer import COLOUR, WHITE_UNDER
from farbe.model.piece import Material, Reader, Surface
from farbe.model.receiver import Drive, Split
from farbe.model.roll import Garment
from farbe.owners import Owner, owner_of
from farbe.plan.printers import FLATBED
from farbe.plan.receivers import RECEIVERS
from farbe.plan.sentence import job_line
from farbe.plan.stations import Station
from farbe.press.client import PressLine, press_of
from farbe.press.memory import LEDGER
from farbe.queue.onpress import await_idle
from farbe.queue.store import Queue, State
from hands import Painted, field, grabbed, type_into


def station(window: MainWindow) -> tuple[RunInspector, QueueView, RunPicture]:
    window.visit(Station.RUN)
    settle(window)
    view = window.bench.views[Station.RUN]
    form, under, picture = view.inspector, view.under, view.picture
    assert isinstance(form, RunInspector) and isinstance(under, QueueView)
    assert isinstance(picture, RunPicture)
    return form, under, picture


def said(form: RunInspector, name: str) -> str:
    return next(w.text() for w in form.findChildren(QLabel) if w.accessibleName() == name)


def press_button(view: QueueView, words: str) -> None:
    button = view._buttons[words]
    assert button.isEnabled() and button.isVisibleTo(view), words
    button.click()


@pytest.mark.long
def test_modes_runs_and_prices_change_time_and_price(window: MainWindow) -> None:
    form, _, picture = station(window)
    window.session.edit("Modes", lambda j: j.replace(
        printer=j.printer.replace(modes=FLATBED.modes)
    ))  # fmt: skip
    form.quality.use("fine")
    settle(window)
    job = window.session.job
    assert job is not None and job.printer.passes == 16 and job.printer.dpi_y == 900
    assert form.quality._mode.text() == "fine"
    window.session.edit("Apart", lambda j: j.replace(running=j.running.replace(separate=True)))
    settle(window)
    type_into(field(window, Station.RUN, "Drying time"), "2")
    assert window.session.job.running.dry == 120  # type: ignore[union-attr]
    settle(window)
    assert "4 min drying" in said(form, "Both ways compared")
    assert len(picture.list.steps) == len(steps(window.session.job)) == 11  # type: ignore[arg-type]
    before = said(form, "Cost and price")
    type_into(field(window, Station.RUN, "Price of a piece"), "2")
    settle(window)
    assert "pieces 24.00" in said(form, "Cost and price") != before
    third = QPoint(30, RunList.TOP + 2 * RunList.ROW + 10)
    QTest.mouseClick(picture.list, Qt.MouseButton.LeftButton, pos=third)
    assert picture.list.done == 3


def test_nothing_is_printed_while_a_field_is_refused(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Its figure is not in the job, whatever shows; the field says why, and has the keys."""
    form, view, _ = station(window)
    asked: list[str] = []
    monkeypatch.setattr(window.press, "send_open_job", lambda: asked.append("sent"))
    monkeypatch.setattr(window.press, "add", lambda held: asked.append("added"))
    price = field(window, Station.RUN, "Price of a piece")
    window.bench.reveal(Station.RUN, price)  # type: ignore[union-attr]
    window.activateWindow()
    start = form.start.button_
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: asked.append("written"))
    for act in (start.click, lambda: press_button(view, "Add this job"), form.files.save.click):
        # Not entered, entered, and left.
        price.setFocus(), price.selectAll()
        QTest.keyClicks(price, "2 or 3")
        for leave in (lambda: None, lambda: None, price.clearFocus):
            leave(), window.check_bar.say(""), act()
            assert not asked and price.hasFocus() and "2 or 3" in window.check_bar.shown_text
        type_into(price, "3")
        act()
        assert len(asked) == 1
        asked.clear()


@pytest.mark.long
def test_what_shows_the_same_is_not_painted(window: MainWindow) -> None:
    """Neither at an edit nor once findings come or work ends."""
    _, _, picture = station(window)
    settle(window)
    painted = Painted(window, listed=picture.list, bed=picture.canvas).order
    window.session.edit("Price", lambda j: j.replace(prices=j.prices.replace(work_hour=31.25)))
    settle(window)
    assert set(painted) == {"turn"}
    window.session.edit("Bed", lambda j: j.replace(printer=j.printer.replace(bed_width=81)))
    settle(window)
    assert "bed" in painted
    painted.clear()
    window.session.edit("Speed", lambda j: j.replace(printer=j.printer.replace(speed=100)))
    settle(window)
    assert "listed" in painted and "bed" not in painted


def test_files_are_announced_and_written(window: MainWindow, tmp_path: Path) -> None:
    form, _, _ = station(window)
    form.receiver.menu.use(next(r for r in RECEIVERS if r.split is Split.LAYER))
    settle(window)
    announced = said(form, "Files that will be written").splitlines()
    assert "artwork white.tif: WHT" in announced
    type_into_text(window, "Channel of White", "Underlay")
    settle(window)
    announced = said(form, "Files that will be written").splitlines()
    assert "artwork white.tif: Underlay" in announced
    window.desk.exports.hand_off(tmp_path / "out")
    settle(window)
    names = {f"{f.name}: {', '.join(f.channels)}" for r in read_ticket(tmp_path / "out").runs
             for f in r.files}  # fmt: skip
    assert names == set(announced)
    window.desk.exports.run_sheet(tmp_path / "run.pdf")
    window.desk.exports.estimate(tmp_path / "e.json")
    settle(window)
    page = pypdfium2.PdfDocument(tmp_path / "run.pdf")[0].get_textpage().get_text_range()
    assert "Tokens" in page and "1. Print the guide" in page and "White" in page
    found = json.loads((tmp_path / "e.json").read_text())
    assert found["pieces"] == 12 and found["cost"]["price"] > found["cost"]["ink"]
    assert sum(found["ink_ml"].values()) == pytest.approx(
        sum(use.ml for use in window.results.findings.estimate.inks), abs=1e-3  # type: ignore[union-attr]
    )  # fmt: skip


def type_into_text(window: MainWindow, name: str, text: str) -> None:
    form = window.bench.views[Station.RUN].inspector
    target = next(
        f for f in form.findChildren(TextField)
        if f.accessibleName() == name and not f.isHidden()
    )  # fmt: skip
    type_into(target, text)


def test_the_queue_is_worked_from_the_window(window: MainWindow) -> None:
    _, view, picture = station(window)
    press_button(view, "Add this job"), settle(window)
    press_button(view, "Add this job"), settle(window)
    assert [e.number for e in view.model.entries] == [1, 2]
    view.choose(2)
    press_button(view, "↑"), settle(window)
    assert [e.number for e in view.model.entries] == [2, 1] and view.chosen().number == 2  # type: ignore[union-attr]
    press_button(view, "Hold"), settle(window)
    assert view.chosen().state is State.HELD and view._buttons["Hold"].text() == "Release"  # type: ignore[union-attr]
    press_button(view, "Prepare"), settle(window)
    assert view.chosen().prepared and "hand-off is in" in window.check_bar.shown_text  # type: ignore[union-attr]
    assert "prepared" in str(view.model.data(view.model.index(0, 3)))
    view.by_itself.setChecked(True)
    settle(window), window.press.look(), settle(window)
    # The press is off until something is sent to it by hand.
    press_button(view, "Print"), settle(window)
    window.press.look(), settle(window), settle(window)
    view.show_past(True)
    assert {e.number for e in view.model.entries} == {1, 2}
    assert all(e.state is State.DONE for e in view.model.entries)
    view.by_itself.setChecked(False)
    view.choose(1)
    press_button(view, "Repeat"), settle(window)
    view.show_past(False)
    assert [e.number for e in view.model.entries] == [3]
    window.session.edit("Other", lambda j: j.replace(name="Changed since"))
    view.choose(3)
    press_button(view, "Open"), settle(window)
    assert window.session.job.name == "Tokens" and window.session.unsaved  # type: ignore[union-attr]
    view.choose(3)
    press_button(view, "Cancel"), settle(window)
    assert not view.model.entries and picture.list.done == 0


@pytest.mark.long
def test_no_press_of_a_button_is_lost_and_rows_are_dragged(window: MainWindow) -> None:
    _, view, _ = station(window)
    for _ in range(4):
        press_button(view, "Add this job")
    settle(window)
    assert [e.number for e in view.model.entries] == [1, 2, 3, 4]
    view.choose(4)
    for _ in range(3):
        press_button(view, "↑")
    settle(window)
    assert [e.number for e in view.model.entries] == [4, 1, 2, 3]
    view.choose(1, 3)
    press_button(view, "Hold"), settle(window)
    held = [e.number for e in view.model.entries if e.state is State.HELD]
    assert held == [1, 3] and view.numbers() == [1, 3]
    dragged = view.model.mimeData([view.model.index(r, 0) for r in (1, 3)])
    top = view.model.index(0, 0)
    view.model.dropMimeData(dragged, Qt.DropAction.MoveAction, -1, -1, top)
    settle(window)
    assert [e.number for e in view.model.entries] == [1, 3, 4, 2]
    view.model.setData(view.model.index(2, NOTE), "for the  fair", Qt.ItemDataRole.EditRole)
    settle(window)
    view.search.setText("fair")
    assert [e.number for e in view.model.entries] == [4]
    view.search.setText("held")
    assert [e.number for e in view.model.entries] == [1, 3]
    view.search.clear()
    view.lane.setCurrentText(window.press.printer)
    assert len(view.model.entries) == 4


@pytest.mark.long
def test_two_printers_print_at_once_and_the_second_job_waits_for_the_first(
    window: MainWindow,
) -> None:
    _, view, _ = station(window)
    window.send_job(), window.send_job()
    window.session.edit("Printer", lambda j: j.replace(
        printer=j.printer.replace(name="The other one")
    ))  # fmt: skip
    window.send_job()
    settle(window), window.press.look(), settle(window)
    past = window.press.looked.past
    assert [e.state for e in past] == [State.DONE] * 3 and not window.press.looked.open
    ledgers = [
        [json.loads(line)["token"] for line in (folder / LEDGER).read_text().splitlines()]
        for folder in press_folders()
    ]
    assert sorted(len(ledger) for ledger in ledgers) == [2, 4]
    by_lane = {e.lane: e.token for e in past}
    assert len(by_lane) == 2 and set(by_lane.values()) <= {t for one in ledgers for t in one}
    view.show_past(True)
    assert view.lane.count() == 3


def test_a_job_is_handed_to_a_folder_and_what_came_of_it_is_said(
    window: MainWindow, tmp_path: Path
) -> None:
    form, view, _ = station(window)
    hot = tmp_path / "hot"
    window.session.edit("Receiver", lambda j: j.replace(
        receiver=j.receiver.replace(drive=Drive.FOLDER, folder=str(hot), marker=".ok")
    ))  # fmt: skip
    settle(window)
    assert form.start.button_.text() == "Hand to the receiver"
    window.send_job(), settle(window)
    assert "is not there" in window.check_bar.shown_text
    view.choose(1)
    assert view.chosen().state is State.WAITING  # type: ignore[union-attr]
    hot.mkdir()
    # In a while it is tried again.
    window.press._rests.clear()
    window.press.look(), settle(window), settle(window)
    assert [p.name for p in hot.iterdir()] == ["Tokens 1"]
    assert read_ticket(hot / "Tokens 1").job == "Tokens"
    window.press.look(), settle(window)
    assert window.press.looked.open[0].state is State.HANDED
    (hot / "Tokens 1.ok").touch()
    window.press.look(), settle(window)
    assert window.press.looked.open[0].state is State.TAKEN
    view.choose(1)
    view.pieces.setText("3, x")
    press_button(view, "Printed"), settle(window)
    assert "no number of a piece" in window.check_bar.shown_text
    view.pieces.setText("3, 7-8")
    press_button(view, "Printed"), settle(window), settle(window)
    view.show_past(True)
    view.choose(1)
    assert view.chosen().failed == (3, 7, 8)  # type: ignore[union-attr]
    press_button(view, "Print again"), settle(window)
    view.show_past(False)
    assert [(e.number, e.pieces, e.again_of) for e in view.model.entries] == [(2, 3, 1)]


def test_a_folder_is_watched_from_the_window(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    monkeypatch.setattr("farbe.queue.watch.LOOK", 0.01)
    form, view, _ = station(window)
    inbox = tmp_path / "inbox"
    form.watched.recipe.setCurrentText("transfer on light")
    form.watched.watch(inbox)
    qtbot.waitUntil(inbox.is_dir)
    small_art(inbox / "mint.png")
    (inbox / "bad.png").write_bytes(b"no picture")
    qtbot.waitUntil(lambda: len(window.watcher.done) == 2, timeout=20_000)
    settle(window)
    assert [e.name for e in view.model.entries] == ["mint"]
    words = said(form, "What was done with dropped files")
    assert "mint.png: number 1 in the queue" in words and "bad.png: failed: " in words
    assert (inbox / "failed" / "bad.png.txt").is_file()
    assert form.watched.thing.state == "2 taken"
    # What another window has is not taken here, and not counted.
    window.watcher.stop()
    owners: list[Owner | None] = []

    def is_free() -> bool:
        owners.append(owner_of(lock_file("watched", inbox)))
        return owners[-1] is not None

    qtbot.waitUntil(is_free)
    form.watched.watch(inbox)
    qtbot.waitUntil(lambda: len(window.watcher.done) == 3, timeout=20_000)
    assert "watched by another window" in said(form, "What was done with dropped files")
    assert form.watched.thing.state == "2 taken"
    owners[-1].let_go()  # type: ignore[union-attr]
    # It is watched again when the window opens next.
    assert Preferences().watch_folder == str(inbox)
    window.watcher.stop()
    assert not Preferences().watch_folder and not window.watcher.on
    small_art(inbox / "late.png")
    settle(window)
    assert (inbox / "late.png").is_file()
    # Where there can be no folder, nothing is watched, which is said.
    told: list[str] = []
    window.workers.failed.connect(told.append)
    form.watched.watch(inbox / "late.png" / "more")
    qtbot.waitUntil(lambda: not window.watcher.on, timeout=20_000)
    assert "late.png" in told[0] and form.watched.thing.state == "none"
    # Another folder in place of one that is watched is.
    for folder in (inbox, tmp_path / "other"):
        form.watched.watch(folder)
    qtbot.waitUntil((tmp_path / "other").is_dir)
    settle(window)
    assert window.watcher.folder == tmp_path / "other" and len(told) == 1
    window.watcher.stop()


@pytest.mark.long
def test_ticks_by_hand_are_kept(window: MainWindow) -> None:
    """What was done at another printer is still ticked when the job is opened again."""
    _, _, picture = station(window)
    third = QPoint(30, RunList.TOP + 2 * RunList.ROW + 10)
    QTest.mouseClick(picture.list, Qt.MouseButton.LeftButton, pos=third)
    job = window.session.first
    assert job is not None and picture.list.done == 3
    window.session.take(job.replace(name="Another").job), settle(window)
    assert picture.list.done == 0
    dearer = job.replace(prices=job.prices.replace(piece=3.0))
    window.session.take(dearer.job), settle(window)
    assert picture.list.done == 3


@pytest.mark.long
def test_jobs_are_nested_and_one_is_taken_out(window: MainWindow) -> None:
    window.session.edit("Room", lambda j: j.replace(
        printer=j.printer.replace(bed_height=150),
        jig=j.jig.replace(columns=2, rows=2),
    ))  # fmt: skip
    _, view, _ = station(window)
    for _ in range(3):
        press_button(view, "Add this job"), settle(window)
    view.choose(1, 3)
    assert view._buttons["Nest"].isVisible() and not view._buttons["Take out"].isVisible()
    press_button(view, "Nest"), settle(window), settle(window)
    assert [(e.number, e.nest) for e in view.model.entries] == [(1, 1), (3, 1), (2, 0)]
    assert "+ Tokens" in str(view.model.data(view.model.index(1, 1)))
    view.choose(3)
    press_button(view, "Take out"), settle(window), settle(window)
    assert [e.nest for e in view.model.entries] == [0, 0, 0]


@pytest.mark.long
def test_faults_are_said_and_the_run_goes_on(window: MainWindow) -> None:
    form, view, picture = station(window)
    window.send_job(), settle(window)
    assert form.press.thing.state == "ready" and picture.list.done == 5
    window.press.ask(do="fault", name="cover open"), settle(window)
    assert "cover is open" in said(form, "State of the test press")
    window.send_job(), settle(window)
    assert "cover is open" in window.check_bar.shown_text
    window.press.look(), settle(window)
    view.choose(2)
    assert view.chosen().state is State.STOPPED and view._buttons["Print"].text() == "Go on"  # type: ignore[union-attr]
    window.press.ask(do="fault", name="cover open", on=False), settle(window)
    press_button(view, "Print"), settle(window)
    window.press.look(), settle(window)
    assert [e.state for e in window.press.looked.past] == [State.DONE, State.DONE]
    form.press.load(), settle(window)
    window.session.edit("Board", lambda j: j.replace(
        jig=j.jig.replace(board=j.jig.board.replace(width=79, height=58))
    ))  # fmt: skip
    window.send_job(), settle(window)
    assert "loaded is 78 × 56 mm" in window.check_bar.shown_text
    window.press.look(), settle(window)
    form.press.take_over()
    job = window.session.job
    assert job is not None and job.printer.bed_width == 3200
    assert (job.jig.board.width, job.jig.board.height) == (78, 56)


@pytest.mark.long
def test_a_click_on_the_bed_shows_the_finished_piece(window: MainWindow) -> None:
    _, _, picture = station(window)
    canvas = picture.canvas
    window.send_job(), settle(window)
    assert window.session.job is not None
    first = laid(window.session.job)[0]
    middle = canvas.at(first.x, first.y).toPoint()
    bed = grabbed(canvas)
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=middle), settle(window)
    ((face, words),) = canvas.piece
    assert words == "as its reader sees it" and abs(face.width() - face.height()) <= 1
    assert not np.array_equal(grabbed(canvas), bed)
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=middle), settle(window)
    assert not canvas.piece and np.array_equal(grabbed(canvas), bed)
    # Between the pieces there is nothing to see.
    corner = canvas.at(0.5, 0.5).toPoint()
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=corner), settle(window)
    assert not canvas.piece
    # A transfer is seen on each garment of its order.
    garments = (Garment(colour="#202028", name="black"), Garment(colour="#c03040", name="red"))
    window.session.edit("Transfer", lambda j: j.replace(
        reader=Reader.TRANSFER, stack=(COLOUR, WHITE_UNDER), garments=garments,
        piece=j.piece.replace(surface=Surface(material=Material.TEXTILE, colour="#202028")),
    ))  # fmt: skip
    window.send_job(), settle(window)
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=middle), settle(window)
    assert [words for _, words in canvas.piece] == ["on black", "on red"]
    corners = [shown.pixelColor(0, 0).name() for shown, _ in canvas.piece]
    assert corners == ["#202028", "#c03040"]


@pytest.mark.long
def test_a_window_that_closes_looks_no_longer(window: MainWindow) -> None:
    """Else the next look would ask workers that are gone."""
    _, view, _ = station(window)
    view.by_itself.setChecked(True)
    settle(window)
    assert window.press._timer.isActive()
    window.close()
    assert not window.press._timer.isActive() and not window.press.by_itself


@pytest.mark.long
def test_a_window_that_closes_while_it_prints_leaves_the_run_to_its_press(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    """It asks first; the run is printed to its end, and the entry goes on where it was."""
    with press_of(press_folder(window.press.printer)) as press:
        # Warm already, and slow from now on.
        press.ask(do="pace", pace=3.0)
    window.send_job()

    def running() -> bool:
        window.press.look()
        return bool(window.press.state and window.press.state["running"])

    qtbot.waitUntil(running, timeout=20_000)
    asked: list[str] = []
    monkeypatch.setattr(
        QMessageBox, "question",
        lambda *given: asked.append(given[2]) or QMessageBox.StandardButton.No,
    )  # fmt: skip
    assert not window.close() and "A job prints from here" in asked[0]
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Yes)
    printer = window.press.printer
    assert window.close()
    queue = Queue(queue_folder())
    (entry,) = queue.entries()
    assert entry.state is State.STOPPED and "Farbe ended" in entry.note
    with PressLine(press_folder(printer)) as press:
        press.ask(do="pace", pace=0.0)
        await_idle(press)
        assert press.ask(do="status")["complete"]


@pytest.mark.long
def test_a_press_that_dies_is_said_and_started_again(window: MainWindow) -> None:
    form, _, _ = station(window)
    window.send_job(), settle(window)
    kill_press(press_folder(window.press.printer))
    window.press.look(), settle(window)
    assert form.press.thing.state == "off" and "It is off" in said(form, "State of the test press")
    with pytest.raises(BadInput, match="does not answer"):
        PressLine(press_folder(window.press.printer))
    window.send_job(), settle(window)
    window.press.look(), settle(window)
    assert form.press.thing.state == "ready" and len(window.press.looked.past) == 2


def read_elsewhere(folder: Path, path: Path) -> None:
    """What a device reads of a chart that a machine of its own printed."""
    from farbe.files.reference import read_reference
    from farbe.press.device import APERTURE, as_cgats, read_spots
    from farbe.press.machine import TestPress
    from farbe.press.truth import true_inks

    reference = read_reference(folder / "chart.reference.txt")
    press = TestPress(inks=true_inks(9))
    press.take(folder)
    press.place()
    press.print_run("artwork", lambda *_: None)
    spots = [(spot.x, spot.y) for spot in reference.spots]
    xyz = read_spots(press.spot_light("piece", spots, APERTURE))
    path.write_text(as_cgats([spot.name for spot in reference.spots], xyz, spectral=False))


@pytest.mark.long
def test_the_printer_is_taught_from_the_window(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A chart is written, measured elsewhere, taken; the job follows, and a file carries it."""
    from farbe.desk.conditions.readingsdialog import ReadingsDialog
    from farbe.desk.conditions.window import open_conditions
    from farbe.files.printerfile import kept_printers

    session = window.session
    small = FLATBED.replace(name="Shop", dpi_x=100, dpi_y=100, modes=(), conditions=())
    session.edit("Printer", lambda j: j.replace(printer=small))
    settle(window)
    assert "Nobody has measured" in window.check_bar.shown_text or any(
        check.code == "condition-missing"
        for check in window.desk.results.findings.checks  # type: ignore[union-attr]
    )
    form, *_ = station(window)
    part = form.test_prints
    part.kind.setCurrentIndex(part.kind.findData("chart"))
    part.fields.colours.setValue(60)
    folder = tmp_path / "chart"
    part.write(folder)
    settle(window)
    read_elsewhere(folder, tmp_path / "read.txt")
    conditions = open_conditions(window.desk, window)
    assert conditions.chosen is None and "Nobody has measured" in conditions.words.text()
    dialog = ReadingsDialog("Lids", conditions)
    assert not dialog.go.isEnabled() and dialog.chosen is None
    dialog.choose(reference=folder / "chart.reference.txt", readings=(tmp_path / "read.txt",))
    dialog.detail.setCurrentIndex(0)
    assert dialog.go.isEnabled() and dialog.chosen is not None
    conditions.take(dialog.chosen)
    settle(window)
    known = session.job.condition  # type: ignore[union-attr]
    assert known is not None and known.name == "Lids" and known.films and known.trueness
    assert "ΔE00" in conditions.words.text() and "Before" in conditions.found.text()
    assert grabbed(conditions.pictures).std() > 5
    assert any(one.printer.name == "Shop" and one.printer.conditions for one in kept_printers())
    assert "Lids" in " ".join(phrase.text for phrase in job_line(session.job))  # type: ignore[arg-type]
    # Out and in again; away and back by undo.
    conditions.save_file(tmp_path / "a.condition.json")
    conditions.remove()
    assert session.job.condition is None and conditions.chosen is None  # type: ignore[union-attr]
    conditions.take_file(tmp_path / "a.condition.json")
    assert session.job.condition == known  # type: ignore[union-attr]
    session.undo()
    assert session.job.condition is None  # type: ignore[union-attr]
    # Readings of another chart are said, and change nothing.
    heard: list[str] = []
    session.said.connect(heard.append)
    window.desk.workers.failed.connect(heard.append)
    (tmp_path / "bad.txt").write_text("A1,1\nA2,2\n")
    dialog.choose(readings=(tmp_path / "bad.txt",))
    conditions.take(dialog.chosen)  # type: ignore[arg-type]
    settle(window)
    assert any("neither spectra nor" in words for words in heard)
    assert session.job.condition is None  # type: ignore[union-attr]


def test_a_condition_that_cannot_be_kept_is_said_and_the_job_has_it(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    from farbe.desk.conditions import teaching
    from farbe.model.condition import Condition

    def full(*_: object) -> None:
        raise BadInput("The disk is full; make room and try again.")

    heard: list[str] = []
    window.session.said.connect(heard.append)
    monkeypatch.setattr(teaching, "keep_printer", full)
    job = window.session.job
    assert job is not None
    inks = tuple(ink.name for ink in job.printer.inks)
    made = Condition(name="Own", surfaces=(job.piece.surface.material,), inks=inks)
    teaching.take_condition(window.session, made, job.printer)
    assert heard == ["The disk is full; make room and try again."]
    assert made in window.session.job.printer.conditions  # type: ignore[union-attr]
