"""What is worked out takes its time: what the operator does meanwhile is neither lost nor mixed."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import tifffile
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMessageBox, QPushButton

from conftest import small_art, small_job, some
from farbe.desk import autosave as autosaves
from farbe.desk.app import settle
from farbe.desk.conditions.teaching import take_condition
from farbe.desk.intake import Intake
from farbe.desk.stations.bed.canvas import BedCanvas
from farbe.desk.stations.bed.rollcanvas import RollCanvas
from farbe.desk.stations.bed.tray import Card
from farbe.desk.stations.layers.pickrow import PickRow
from farbe.desk.stations.layers.solidrow import NO_REGION
from farbe.desk.stations.piece.station import take_outline
from farbe.desk.stations.run import testprint
from farbe.desk.window import MainWindow
from farbe.desk.workers import Workers
from farbe.edits.artwork import with_added
from farbe.edits.bed import both_sides
from farbe.edits.film import on_roll, with_roll
from farbe.edits.stack import with_layer
from farbe.files.jobfile import open_job, save_job
from farbe.files.printerfile import kept_printers
from farbe.folders import press_folder
from farbe.layout.faced import Faced
from farbe.layout.laid import laid
from farbe.model.artwork import ArtworkFile
from farbe.model.condition import Condition
from farbe.model.job import Job
from farbe.plan.stations import Station
from farbe.press.memory import LEDGER
from hands import now, pixels_of

BUTTONS = QMessageBox.StandardButton


class Hold:
    """Holds up work that shows itself, once it is done and before it is handed back."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch) -> None:
        self._may = threading.Event()
        self.held = 0
        begin = Workers._begin

        def later(workers: Workers, task: Any, pool: Any, work: Any, then: Any) -> Any:
            def held(report: Any) -> Any:
                found = work(report)
                if task.title:
                    self.held += 1
                    assert self._may.wait(60)
                return found

            return begin(workers, task, pool, held, then)

        monkeypatch.setattr(Workers, "_begin", later)

    @contextmanager
    def until_done(self, window: MainWindow, count: int = 1) -> Iterator[None]:
        """What is done here is done while ``count`` pieces of work have an end that waits."""
        until = time.monotonic() + 60
        while self.held < count:
            assert time.monotonic() < until
            QApplication.processEvents()
        yield
        self._may.set()
        settle(window)
        self.held = 0
        self._may.clear()


@pytest.fixture
def hold(monkeypatch: pytest.MonkeyPatch) -> Hold:
    return Hold(monkeypatch)


def another(window: MainWindow, folder: Path) -> Job:
    """Another job than the one that is open."""
    return small_job(window.session.store, small_art(folder / "another.png", 50, 30)).job


def add(window: MainWindow, folder: Path) -> None:
    window.intake.add([small_art(folder / "more.png", 44, 30)])


def replace(window: MainWindow, folder: Path) -> None:
    art = small_art(folder / "third.png", 46, 30)
    window.intake.replace(now(window).artworks[0], art)


def drawing(folder: Path) -> Path:
    path = folder / "shape.svg"
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="9mm" height="6mm" viewBox="0 0 9 6">'
        '<path d="M0 0H9V6Z"/></svg>'
    )
    return path


def outline(window: MainWindow, folder: Path) -> None:
    take_outline(window.desk, drawing(folder))


def trim(window: MainWindow, folder: Path) -> None:
    window.visit(Station.BED), settle(window)
    card = window.findChildren(Card)[0]
    card.trim()


@pytest.mark.parametrize("start", some([add, replace, outline, trim], trim))
def test_what_is_worked_out_for_a_job_goes_into_no_other_one(
    window: MainWindow, tmp_path: Path, hold: Hold, start: Callable[[MainWindow, Path], None]
) -> None:
    heard: list[str] = []
    window.session.said.connect(heard.append)
    other, before = another(window, tmp_path), now(window).job
    start(window, tmp_path)
    with hold.until_done(window):
        window.session.take(other, saved=True)
    assert now(window).job == other and any("left out" in words for words in heard)
    window.session.take(before, saved=True), settle(window)
    start(window, tmp_path)
    with hold.until_done(window):
        pass
    assert now(window).job != before


@pytest.mark.long
@pytest.mark.parametrize("start", [add, replace, trim])
def test_what_is_worked_out_for_a_face_goes_into_no_other_one(
    window: MainWindow, tmp_path: Path, hold: Hold, start: Callable[[MainWindow, Path], None]
) -> None:
    """The piece was turned over by then; told is what is looked at, and not before it is there."""
    session = window.session
    session.edit("Two sides", lambda job: both_sides(job, True)), settle(window)
    turned = now(window).job
    start(window, tmp_path)
    told: list[bool] = []
    with hold.until_done(window):
        session.look_at(other_side=True)
        session.changed.connect(lambda: told.append(session.other_side))
    made = now(window).job
    assert session.other_side and told and all(told)
    assert made.faces[0] != turned.faces[0] and made.faces[1] == turned.faces[1]
    session.undo(), settle(window)
    assert now(window).job == turned
    # Where that face is gone there is no place for it.
    heard: list[str] = []
    session.said.connect(heard.append)
    session.look_at(other_side=True)
    start(window, tmp_path)
    with hold.until_done(window):
        session.edit("One side", lambda job: both_sides(job, False))
    assert len(now(window).job.faces) == 1 and any("left out" in words for words in heard)


@pytest.mark.long
def test_an_artwork_is_told_by_what_it_is_while_its_file_is_read(
    window: MainWindow, tmp_path: Path, hold: Hold
) -> None:
    """Another one that is in its place by then is left alone."""
    more = window.session.store.add_artwork(small_art(tmp_path / "more.png", 44, 30))
    window.session.edit("More", lambda job: with_added(job, more)), settle(window)
    replace(window, tmp_path)
    with hold.until_done(window):
        window.session.edit("Turn", lambda job: job.replace(artworks=job.artworks[::-1]))
    assert [art.file_name for art in now(window).artworks] == ["more.png", "third.png"]


def pages(window: MainWindow, folder: Path) -> None:
    """Have artwork of a file that has three."""
    with tifffile.TiffWriter(folder / "pages.tif") as file:
        for page in range(3):
            file.write(np.full((30, 40 + page, 3), 60 * page, np.uint8), resolution=(300, 300))
    window.session.edit(
        "Pages",
        lambda job: with_added(job, window.session.store.add_artwork(folder / "pages.tif")),
    )


@pytest.mark.long
@pytest.mark.parametrize(
    "start",
    [
        lambda intake, art: intake.at_page(art.key, 2, art.box),
        lambda intake, art: intake.all_pages(art.key, 3),
    ],
)
def test_pages_of_artwork_that_went_while_they_were_read_are_left_out(
    window: MainWindow, tmp_path: Path, hold: Hold, start: Callable[[Intake, ArtworkFile], None]
) -> None:
    heard: list[str] = []
    window.session.said.connect(heard.append)
    pages(window, tmp_path), settle(window)
    start(window.intake, now(window).artworks[-1])
    with hold.until_done(window):
        window.session.undo()
        without = now(window)
    assert now(window) == without and any("pages.tif was taken out" in one for one in heard)
    window.session.redo()
    before = now(window)
    start(window.intake, before.artworks[-1])
    with hold.until_done(window):
        pass
    assert 2 in [art.page for art in now(window).artworks]


@pytest.mark.long
def test_files_that_come_one_by_one_make_one_job(
    window: MainWindow, tmp_path: Path, hold: Hold
) -> None:
    window.session.take(None), settle(window)
    add(window, tmp_path)
    window.intake.add([small_art(tmp_path / "next.png", 40, 40)])
    with hold.until_done(window, 2):
        pass
    assert {art.file_name for art in now(window).artworks} == {"more.png", "next.png"}


@pytest.mark.long
def test_what_is_drawn_or_read_for_a_layer_goes_into_no_other_one(
    window: MainWindow, tmp_path: Path, hold: Hold
) -> None:
    """Where another layer is chosen by then, or another job open."""
    other, section, picking = another(window, tmp_path), window.bench.section, window.desk.picking
    names = "White", "Varnish"

    def undrawn(job: Faced) -> Faced:
        for name in names:
            job = with_layer(job, name, lambda layer: layer.replace(source=NO_REGION))
        return job

    def sources() -> list[Any]:
        return [layer.source for layer in now(window).stack if layer.name in names]

    def row() -> PickRow:
        section.choose("White"), settle(window)
        return next(row for row in window.findChildren(PickRow) if row.isVisible())

    window.visit(Station.LAYERS)
    window.session.edit("Undrawn", undrawn), settle(window)
    heard: list[str] = []
    window.session.said.connect(heard.append)
    row().take_drawing(drawing(tmp_path))
    with hold.until_done(window):
        section.choose("Varnish")
        QTest.qWait(30)
    assert sources() == [NO_REGION, NO_REGION] and "left out" in heard[-1]
    for leave in (
        lambda: section.choose("Varnish"),
        lambda: window.session.look_at(other_side=False),
        lambda: window.session.take(other),
    ):
        row().findChildren(QPushButton)[0].click()
        assert picking.wants_region
        leave(), settle(window)
        assert not picking.wants_region
    assert now(window).job == other
    window.session.edit("Undrawn", undrawn), settle(window)
    row().take_drawing(drawing(tmp_path))
    with hold.until_done(window):
        window.visit(Station.BED)
        QTest.qWait(30)
    assert [source == NO_REGION for source in sources()] == [False, True]


@pytest.mark.long
def test_a_job_that_is_left_while_it_is_saved_keeps_its_file(
    window: MainWindow, tmp_path: Path, hold: Hold
) -> None:
    """Neither is the next one taken for it, nor is it not written since that is saved, too."""
    store, (mine, theirs) = window.session.store, (tmp_path / f"{n}.farbe" for n in ("a", "b"))
    first, other = now(window).job, another(window, tmp_path)
    save_job(first, store, mine), save_job(other, store, theirs)
    window.session.take(first, mine, saved=True)
    window.session.edit("Job name", lambda job: job.replace(name="Edited"))
    assert window.files.save()
    with hold.until_done(window):
        window.session.take(other, theirs, saved=True)
    assert window.session.path == theirs and not window.session.unsaved
    assert open_job(mine, store).name == "Edited" and open_job(theirs, store) == other

    window.session.take(first, mine, saved=True)
    window.session.edit("Job name", lambda job: job.replace(name="Again"))
    assert window.files.save()
    with hold.until_done(window):
        window.session.take(other, theirs, saved=True)
        window.session.edit("Job name", lambda job: job.replace(name="Next"))
        assert window.files.save()
    assert (open_job(mine, store).name, open_job(theirs, store).name) == ("Again", "Next")
    assert window.session.path == theirs and not window.session.unsaved


@pytest.mark.long
@pytest.mark.parametrize("answer", [BUTTONS.Cancel, BUTTONS.Discard])
@pytest.mark.parametrize("sample", [True, False])
def test_what_is_edited_while_another_job_is_opened_is_asked_about(
    window: MainWindow, tmp_path: Path, hold: Hold, monkeypatch: pytest.MonkeyPatch,
    answer: BUTTONS, sample: bool,
) -> None:  # fmt: skip
    asked: list[object] = []
    monkeypatch.setattr(QMessageBox, "question", lambda *_: (asked.append(_), answer)[1])
    path = tmp_path / "other.farbe"
    save_job(another(window, tmp_path), window.session.store, path)
    window.open_sample("jar-lids") if sample else window.open_path(path)
    with hold.until_done(window):
        assert not asked
        window.session.edit("Job name", lambda job: job.replace(name="Edited"))
    assert len(asked) == 1
    assert (now(window).name == "Edited") is (answer is BUTTONS.Cancel)
    # What was not edited is left without a question.
    window.session.take(another(window, tmp_path), saved=True)
    window.open_path(path)
    with hold.until_done(window):
        pass
    assert len(asked) == 1 and window.session.path == path


def test_a_copy_that_is_wanted_no_longer_does_not_come_back(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    may, begun = threading.Event(), threading.Event()

    def slow(*of: Any) -> None:
        begun.set()
        assert may.wait(60)
        save_job(*of)

    monkeypatch.setattr(autosaves, "save_job", slow)
    window.session.edit("Job name", lambda job: job.replace(name="Edited"))
    window.autosave.write()
    assert begun.wait(60)
    window.autosave.discard()
    may.set(), settle(window)
    assert not list(autosaves.autosave_folder().iterdir())
    # One that is wanted since stays.
    window.autosave.write(), window.autosave.discard(), window.autosave.write()
    settle(window)
    assert open_job(window.autosave.path, window.session.store).name == "Edited"
    window.close()
    assert not list(autosaves.autosave_folder().iterdir())


def test_a_condition_goes_to_the_printer_that_was_measured(window: MainWindow) -> None:
    measured = now(window).printer
    inks = tuple(ink.name for ink in measured.inks)
    made = Condition(name="Own", surfaces=(now(window).piece.surface.material,), inks=inks)
    window.session.edit(
        "Another printer", lambda job: job.replace(printer=job.printer.replace(name="Another"))
    )
    take_condition(window.session, made, measured)
    assert made not in now(window).printer.conditions
    kept = {found.printer.name: found.printer for found in kept_printers()}
    assert made in kept[measured.name].conditions and "Another" not in kept
    window.session.undo()
    take_condition(window.session, made, measured)
    assert made in now(window).printer.conditions


@pytest.mark.long
def test_a_test_print_goes_to_the_printer_that_it_was_made_for(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    may, write, boards = threading.Event(), testprint._write, list[QImage]()

    def slow(*of: Any) -> None:
        write(*of)
        assert may.wait(60)

    monkeypatch.setattr(testprint, "_write", slow)
    window.press.board_printed.connect(boards.append)
    window.workers.failed.connect(pytest.fail)
    window.visit(Station.RUN), settle(window)
    made_for = now(window).printer.name
    button = next(
        one
        for one in window.findChildren(QPushButton)
        if one.text() == "Print it on the test press"
    )
    button.click()
    window.session.edit(
        "Another printer", lambda job: job.replace(printer=job.printer.replace(name="Another"))
    )
    may.set(), settle(window)
    assert (press_folder(made_for) / LEDGER).read_text().count("\n") == 1
    assert not (press_folder("Another") / LEDGER).exists()
    (board,) = boards
    assert not board.isNull() and len(set(pixels_of(board).reshape(-1, 3).tobytes())) > 2


def test_what_comes_while_an_artwork_is_dragged_on_film_stays(window: MainWindow) -> None:
    window.session.edit(
        "Film", lambda job: on_roll(job.replace(changes=(), texts=(), table=None), True)
    )
    window.visit(Station.BED), settle(window)
    canvas = next(one for one in window.findChildren(RollCanvas) if one.isVisible())
    (place,) = now(window).roll.places  # type: ignore[union-attr]
    at = canvas.at(place.x, place.y).toPoint()
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at)
    QTest.mouseMove(canvas, at + QPoint(20, 0))
    window.session.edit("Job name", lambda job: job.replace(name="Edited"))
    QTest.mouseMove(canvas, at + QPoint(40, 0))
    (moved,) = now(window).roll.places  # type: ignore[union-attr]
    assert now(window).name == "Edited" and moved.x > place.x + 30 / canvas.scale
    # What was laid anew meanwhile is not where it was taken.
    turned = moved.replace(turned=90)
    window.session.edit("Laid", lambda job: with_roll(job, places=(turned,)))
    QTest.mouseMove(canvas, at + QPoint(60, 0))
    assert now(window).roll.places == (turned,)  # type: ignore[union-attr]
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=at)
    # Whoever gives up a drag takes back no more than that.
    at = canvas.at(turned.x, turned.y).toPoint()
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at)
    window.session.edit("Job name", lambda job: job.replace(name="Once more"))
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert now(window).name == "Once more"
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at)
    QTest.mouseMove(canvas, at + QPoint(20, 0))
    assert now(window).roll.places != (turned,)  # type: ignore[union-attr]
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert now(window).roll.places == (turned,)  # type: ignore[union-attr]


@pytest.mark.long
@pytest.mark.parametrize("film", [False, True])
def test_a_drag_ends_when_nobody_sees_it_any_more(window: MainWindow, film: bool) -> None:
    """The button comes up somewhere else; what was held does not hang on the pointer later."""
    if film:
        window.session.edit(
            "Film", lambda job: on_roll(job.replace(changes=(), texts=(), table=None), True)
        )
    window.visit(Station.BED), settle(window)
    kind = RollCanvas if film else BedCanvas
    canvas = next(one for one in window.findChildren(kind) if one.isVisible())
    if isinstance(canvas, BedCanvas):
        canvas.loosen_jig(True)
    before = now(window)
    piece = laid(before)[0]
    at = canvas.at(piece.x, piece.y).toPoint()
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at)
    QTest.mouseMove(canvas, at + QPoint(30, 0))
    moved = now(window)
    assert moved != before
    window.visit(Station.LAYERS), settle(window)
    assert window.station is Station.LAYERS
    window.visit(Station.BED), settle(window)
    QTest.mouseMove(canvas, at + QPoint(90, 20))
    assert now(window) == moved
    window.session.undo()
    assert now(window) == before
