"""At home on the desktop: files that it is told by, habits of its programs, looks."""

from __future__ import annotations

import subprocess
import sys
import tarfile
import zipfile
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from types import SimpleNamespace
from typing import Any
from xml.etree import ElementTree

import pytest
from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QGuiApplication, QImage, QKeyEvent, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QMenu, QWidget

from farbe import APP_ID, __version__
from farbe.cli import app
from farbe.commands.desktopcommand import _with_command, places
from farbe.desk import handout, notify, theme
from farbe.desk.about import open_guide
from farbe.desk.app import settle
from farbe.desk.canvas import Canvas, next_towards
from farbe.desk.doorbell import Doorbell, ring
from farbe.desk.guidewindow import GUIDE, guide_file
from farbe.desk.preferences import Preferences
from farbe.desk.preferencesdialog import PreferencesDialog
from farbe.desk.recentlist import list_file, note_recent
from farbe.desk.stations.bed.canvas import BedCanvas
from farbe.desk.stations.proof.canvas import ProofCanvas
from farbe.desk.theme import (
    CONTRAST,
    DARK,
    LIGHT,
    MARK_CONTRAST,
    TEXT_CONTRAST,
    Look,
    Theme,
    contrast,
)
from farbe.desk.window import MainWindow
from farbe.edits import bed as bed_edits
from farbe.edits.bed import with_change
from farbe.files.jobfile import open_job
from farbe.files.paper import Paper
from farbe.plan.stations import Station
from hands import field

ROOT = Path(__file__).parents[1]
DESKTOP = ROOT / "src" / "farbe" / "data" / "desktop"


def run(*words: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(words, capture_output=True, text=True, check=False)


# what the desktop is told


def test_the_desktop_s_own_judges_pass() -> None:
    entry = run("desktop-file-validate", str(DESKTOP / f"{APP_ID}.desktop"))
    assert (entry.returncode, entry.stdout) == (0, "")
    facts = DESKTOP / f"{APP_ID}.metainfo.xml"
    found = run("appstreamcli", "validate", "--no-net", str(facts))
    assert found.returncode == 0, found.stdout
    told = ElementTree.parse(facts).getroot()
    assert next(r.get("version") for r in told.iter("release")) == __version__


def test_all_that_the_desktop_needs_is_put_in_place_and_taken_away(tmp_path: Path) -> None:
    command = [sys.executable, "-m", "farbe", "install-desktop", "--prefix", str(tmp_path)]
    assert run(*command).returncode == 0
    share = tmp_path / "share"
    assert all((share / place).is_file() for _, place in places())
    entry = (share / "applications" / f"{APP_ID}.desktop").read_text()
    started = next(line for line in entry.splitlines() if line.startswith("Exec=")).split()[0]
    assert Path(started.removeprefix("Exec=")).is_file()
    assert (
        run("desktop-file-validate", str(share / "applications" / f"{APP_ID}.desktop")).stdout == ""
    )
    assert run("update-mime-database", str(share / "mime")).returncode == 0
    assert "application/vnd.farbe.job+zip:*.farbe" in (share / "mime" / "globs").read_text()
    for size in (16, 48, 256):
        for folder, name in (("apps", APP_ID), ("mimetypes", "application-vnd.farbe.job+zip")):
            icon = share / f"icons/hicolor/{size}x{size}/{folder}/{name}.png"
            assert QImage(str(icon)).width() == size
    assert run(*command, "--remove").returncode == 0
    assert not any((share / place).exists() for _, place in places())


def test_a_program_in_an_odd_folder_is_quoted(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    script = tmp_path / 'a "b" 100%' / "farbe"
    script.parent.mkdir()
    script.touch()
    monkeypatch.setattr(sys, "executable", str(script.with_name("python")))
    entry = tmp_path / "one.desktop"
    entry.write_text(_with_command((DESKTOP / f"{APP_ID}.desktop").read_text()))
    assert run("desktop-file-validate", str(entry)).stdout == ""
    assert '\\\\"b\\\\" 100%%/farbe" open %F' in entry.read_text()


def test_the_manual_page_is_what_the_commands_say() -> None:
    sys.path.insert(0, str(ROOT / "scripts"))
    import make_man

    sys.path.pop(0)
    assert (DESKTOP / "farbe.1").read_text() == make_man.page()
    for command in app.registered_commands:
        assert command.callback is not None


def test_commands_are_completed() -> None:
    told = {"_FARBE_COMPLETE": "complete_bash", "COMP_WORDS": "farbe est", "COMP_CWORD": "1"}
    import os

    found = subprocess.run(
        [sys.executable, "-m", "farbe"], capture_output=True, text=True, check=False,
        env=os.environ | told,
    )  # fmt: skip
    assert found.stdout.split() == ["estimate"]


@pytest.mark.long
def test_the_wheel_brings_it_all(tmp_path: Path) -> None:
    done = run(sys.executable, "-m", "build", "--no-isolation", "-o", str(tmp_path), str(ROOT))
    assert done.returncode == 0, done.stdout + done.stderr
    wheel = next(tmp_path.glob("*.whl"))
    names = set(zipfile.ZipFile(wheel).namelist())
    assert {f"farbe/data/desktop/{name}" for name, _ in places()} <= names
    guide = zipfile.ZipFile(wheel).read(f"farbe/data/guide/{GUIDE}").decode()
    pictures = [part.split(")")[0] for part in guide.split("](screenshots/")[1:]]
    assert pictures and {f"farbe/data/guide/screenshots/{one}" for one in pictures} <= names
    with tarfile.open(next(tmp_path.glob("*.tar.gz"))) as source:
        assert any(name.endswith(f"docs/{GUIDE}") for name in source.getnames())


def test_the_desktop_s_list_of_files_keeps_what_others_wrote(tmp_path: Path) -> None:
    target = list_file()
    target.parent.mkdir(parents=True, exist_ok=True)
    target.write_text(
        '<?xml version="1.0" encoding="UTF-8"?><xbel version="1.0"'
        ' xmlns:bookmark="http://www.freedesktop.org/standards/desktop-bookmarks">'
        '<bookmark href="file:///of/another" added="2026-01-01T00:00:00Z"/></xbel>'
    )
    job = tmp_path / "a job & more.farbe"
    assert note_recent(job) and note_recent(job)
    entries = ElementTree.parse(target).getroot().findall("bookmark")
    assert [e.get("href") for e in entries] == ["file:///of/another", job.as_uri()]
    used = entries[1].find(".//{http://www.freedesktop.org/standards/desktop-bookmarks}application")
    assert used is not None and (used.get("name"), used.get("count")) == ("Farbe", "2")
    target.write_text("<xbel")
    assert not note_recent(job) and target.read_text() == "<xbel"


# jobs and windows


def answer(monkeypatch: pytest.MonkeyPatch, path: Path) -> None:
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))


def action(window: MainWindow, words: str) -> Callable[[], None]:
    found = next(a for a in window._menus.actions if a.text().replace("&", "").startswith(words))
    assert found.isEnabled()
    return found.trigger


def test_copies_are_saved_and_jobs_reverted_and_closed(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    own, copy = tmp_path / "own.farbe", tmp_path / "copy.farbe"
    answer(monkeypatch, own)
    action(window, "Save as…")(), settle(window)
    assert window.windowFilePath() == str(own) and not window.isWindowModified()
    window.session.edit("Name", lambda j: j.replace(name="Changed"))
    assert window.isWindowModified() and window.windowTitle() == "Changed[*] · Farbe"
    answer(monkeypatch, copy)
    action(window, "Save a copy…")(), settle(window)
    # The copy has the change; the job is still its own file's, and still unsaved.
    assert open_job(copy, window.session.store).name == "Changed"
    assert window.session.path == own and window.session.unsaved
    answer(monkeypatch, own)
    action(window, "Save a copy…")(), settle(window)
    assert "own file" in window.check_bar.shown_text
    action(window, "Revert")(), settle(window)
    assert window.session.job is not None and window.session.job.name == "Tokens"
    assert not window.session.unsaved
    action(window, "Close")(), settle(window)
    assert window.session.job is None and window.windowFilePath() == ""


@pytest.mark.long
def test_a_job_that_is_open_is_shown_by_whoever_opens_it_again(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "open.farbe"
    answer(monkeypatch, path)
    window.files.save_as(), settle(window)
    code = (
        "import sys; from pathlib import Path; from PySide6.QtCore import QCoreApplication;"
        "from farbe.desk.doorbell import ring; app = QCoreApplication([]);"
        "sys.exit(0 if ring(Path(sys.argv[1])) else 7)"
    )
    with subprocess.Popen([sys.executable, "-c", code, str(path)]) as other:
        while other.poll() is None:
            QTest.qWait(20)
    assert other.returncode == 0
    assert "open here already" in window.check_bar.shown_text
    window.check_bar.say("")
    window.open_path(path)
    assert "open here already" in window.check_bar.shown_text and not window.workers.busy("open")
    # Once it is closed nobody answers, not even for a socket that a kill left.
    window.close_job(), settle(window)
    assert not ring(path)
    left = Doorbell(window)
    left.listen(path)
    left._server.close()
    again = Doorbell(window)
    again.listen(path)
    assert again._server.isListening()
    again.listen(None)


def test_every_export_of_the_menu_writes_its_file(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(tmp_path / "out"))
    Preferences().paper = Paper.LETTER
    for words, name in (("Guide as a", "jig.dxf"), ("Run sheet", "run.pdf"),
                        ("Proof sheet", "proof"), ("Estimate", "e.csv")):  # fmt: skip
        answer(monkeypatch, tmp_path / name)
        action(window, words)(), settle(window)
    action(window, "Plates")(), settle(window)
    assert (tmp_path / "jig.dxf").stat().st_size and (tmp_path / "out" / "ticket.json").exists()
    assert "ink" in (tmp_path / "e.csv").read_text()
    for name in ("run.pdf", "proof.pdf"):
        assert b"/MediaBox [ 0 0 612 792 ]" in (tmp_path / name).read_bytes()


# habits


def press(widget: object, key: Qt.Key) -> None:
    QGuiApplication.sendEvent(
        widget, QKeyEvent(QEvent.Type.KeyPress, key, Qt.KeyboardModifier.NoModifier)
    )


def moved(widget: QWidget, to: QPoint) -> None:
    """The pointer is moved with its left button down, which the test tool does not tell."""
    left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    there = QPointF(to)
    event = QMouseEvent(
        QEvent.Type.MouseMove, there, QPointF(widget.mapToGlobal(to)), left, left, none
    )
    QGuiApplication.sendEvent(widget, event)


def shown(window: MainWindow) -> list[Canvas]:
    assert window.bench is not None
    return [canvas for canvas in window.bench.canvases(window.station) if canvas.isVisible()]


def bed(window: MainWindow) -> BedCanvas:
    window.visit(Station.BED), settle(window)
    return next(c for c in shown(window) if isinstance(c, BedCanvas))


def test_esc_takes_back_what_is_half_done(window: MainWindow) -> None:
    from farbe.desk.fields import NumberField

    canvas, before = bed(window), window.session.job
    pocket = canvas.pockets[0]
    at = canvas.at(pocket.x, pocket.y).toPoint()
    canvas.loosen_jig(True)
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at)
    QTest.mouseMove(canvas, at + QPointF(40, 12).toPoint())
    assert window.session.job != before
    QTest.keyClick(canvas, Qt.Key.Key_Escape)
    assert window.session.job == before
    # What goes on with the pointer moves nothing more.
    QTest.mouseMove(canvas, at + QPointF(60, 30).toPoint())
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=at)
    assert window.session.job == before
    field = next(f for f in window.findChildren(NumberField) if f.isVisible() and f.isEnabled())
    field.setFocus()
    field.selectAll()
    shown = field.text()
    QTest.keyClicks(field, "77")
    QTest.keyClick(field, Qt.Key.Key_Escape)
    assert field.text() == shown and window.session.job == before
    window.visit(Station.LAYERS)
    section = window.bench.section  # type: ignore[union-attr]
    section.choose("White")
    section.rename()
    QTest.keyClicks(window.focusWidget(), "Other")
    QTest.keyClick(window.focusWidget(), Qt.Key.Key_Escape)
    assert window.session.job == before
    window.desk.picking.begin_colour(window, lambda _: None)
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert not window.desk.picking.wants_colour


def test_esc_ends_work_that_is_shown(window: MainWindow) -> None:
    def work(report):  # type: ignore[no-untyped-def]
        while True:
            report(0.1)

    task = window.workers.start("long", work, lambda _: None, title="Something long")
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert task.cancelled.is_set()
    settle(window)


@pytest.mark.long
def test_layers_pockets_and_pictures_are_copied_and_pasted(window: MainWindow) -> None:
    window.visit(Station.LAYERS), settle(window)
    window.bench.section.choose("White")  # type: ignore[union-attr]
    action(window, "Copy")(), action(window, "Paste")()
    assert window.session.job is not None
    assert [la.name for la in window.session.job.stack].count("White 2") == 1
    canvas = bed(window)
    canvas.choose(1)
    window.session.edit("Apart", lambda j: with_change(j, {1}, rotation=90.0))
    action(window, "Copy")()
    canvas.choose(3)
    action(window, "Paste")()
    assert [(c.pocket, c.rotation) for c in window.session.job.changes] == [(1, 90.0), (3, 90.0)]
    # What is no change of a pocket is refused and changes nothing.
    before, odd = window.session.job, QMimeData()
    odd.setData(handout.POCKET_MIME, b'{"pocket": 1, "scale": "large"}')
    assert not canvas.pasted(odd) and window.session.job == before
    window.visit(Station.PROOF), settle(window)
    action(window, "Copy")()
    proof = next(c for c in shown(window) if isinstance(c, ProofCanvas))
    picture = proof.picture()
    assert picture is not None
    assert QGuiApplication.clipboard().image().size() == picture.size()


@pytest.mark.long
def test_menus_of_pockets_and_plates_do_what_they_say(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    canvas = bed(window)
    pocket = canvas.pockets[4]
    menu = QMenu(canvas)
    canvas.fill_menu(menu, QPointF(pocket.x, pocket.y))
    words = {a.text(): a for a in menu.actions()}
    words["Switch off"].trigger()
    assert window.session.job is not None and window.session.job.jig.off == {pocket.number}
    assert not words["Print as all do"].isEnabled()
    window.visit(Station.PROOF), settle(window)
    proof = next(c for c in shown(window) if isinstance(c, ProofCanvas))
    dragged: list[tuple[QImage, str]] = []
    monkeypatch.setattr(
        "farbe.desk.stations.proof.canvas.drag_picture",
        lambda _, picture, name: dragged.append((picture, name)),
    )
    middle = proof.rect().center()
    QTest.mousePress(proof, Qt.MouseButton.LeftButton, pos=middle)
    for far in (30, 50):
        moved(proof, middle + QPoint(far, far))
    QTest.mouseRelease(proof, Qt.MouseButton.LeftButton, pos=middle)
    assert [name for _, name in dragged] == ["Tokens proof"]
    data = handout.picture_data(dragged[0][0], "Tokens / proof")
    file = Path(data.urls()[0].toLocalFile())
    kept, given = QImage(str(file)), dragged[0][0]
    handout.clear_handed_out()
    assert file.is_file()
    assert file.name == "Tokens   proof.png" and kept == given.convertToFormat(kept.format())
    handout.clear_handed_out(older=-1.0)
    assert not file.exists()


def test_the_end_of_long_work_is_told_to_who_looks_elsewhere(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    told: list[str] = []
    monkeypatch.setattr("farbe.desk.window.tell", lambda _, words: told.append(words))
    monkeypatch.setattr("farbe.desk.window.LONG", 0.0)
    window.workers.start("a", lambda _: None, lambda _: None, title="Writing it"), settle(window)
    assert told == ["Writing it: it has come to its end."]
    started: list[list[str]] = []
    monkeypatch.setattr(notify.shutil, "which", lambda _: "there")
    monkeypatch.setattr(notify.QProcess, "startDetached", lambda *words: started.append(words[1]))
    monkeypatch.setattr(window, "isActiveWindow", lambda: False)
    assert notify.tell(window, "It is done.") and started[0][-1] == "It is done."
    monkeypatch.setattr(window, "isActiveWindow", lambda: True)
    assert not notify.tell(window, "It is done.")


@pytest.mark.long
def test_preferences_take_effect_at_once_and_odd_ones_are_refused(
    window: MainWindow, tmp_path: Path
) -> None:
    dialog = PreferencesDialog(window.preferences, window)
    dialog.taken.connect(window._preferred)
    dialog.look.setCurrentIndex(list(Look).index(Look.CONTRAST))
    dialog.currency.setText("CHF")
    dialog.jobs.line.setText(str(tmp_path / "nowhere"))
    dialog._take()
    assert "no folder" in dialog.refused.text() and window.desk.currency == "€"
    dialog.jobs.line.setText("")
    dialog.keep.setText("x")
    dialog._take()
    assert dialog.refused.text() and window.preferences.look is Look.FOLLOW
    dialog.keep.setText("7")
    dialog._take(), settle(window)
    try:
        assert theme.theme() is CONTRAST and Preferences().keep_days == 7.0
        assert "CHF" in window.job_line.accessibleName()
        window.visit(Station.RUN), settle(window)
        for name, unit in (("Price of White", "CHF/l"), ("Price of an hour of work", "CHF/h")):
            assert field(window, Station.RUN, name).accessibleName() == f"{name}, {unit}"
        window.visit(Station.LAYERS), settle(window)
    finally:
        theme.use_theme(QGuiApplication.instance(), LIGHT)  # type: ignore[arg-type]


def test_the_guide_opens_with_its_pictures_and_is_searched(window: MainWindow) -> None:
    guide = open_guide(window)
    assert guide is not None and open_guide(window) is guide
    assert guide.contents.count() > 4
    guide.contents.setCurrentRow(2)
    guide.search.setText("kerb")
    guide.find_next()
    assert guide.text.textCursor().selectedText().casefold() == "kerb"
    guide.search.setText("no such words")
    guide.find_next()
    assert guide.found.text()
    path = guide_file()
    assert path is not None
    for part in path.read_text().split("](screenshots/")[1:]:
        assert (path.parent / "screenshots" / part.split(")")[0]).is_file()
    guide.close()


# looks


@pytest.mark.parametrize("look", [LIGHT, DARK, CONTRAST], ids=["light", "dark", "contrast"])
def test_text_and_borders_stand_out(look: Theme) -> None:
    grounds = (look.panel, look.field, look.bar, look.rail, look.paper)
    for ground in grounds:
        for text in (look.text, look.faint):
            assert contrast(text, ground) >= TEXT_CONTRAST, (text, ground)
    assert contrast(look.on_accent, look.accent) >= TEXT_CONTRAST
    assert contrast(look.footer_text, look.footer) >= TEXT_CONTRAST
    for ground in (look.panel, look.field):
        for mark in (look.edge, look.accent):
            assert contrast(mark, ground) >= MARK_CONTRAST, (mark, ground)
    assert all(value.startswith("#") for value in asdict(look).values())


def test_an_accent_is_taken_where_it_can_be_seen() -> None:
    assert theme.with_accent(LIGHT, "#7a1fa2").accent == "#7a1fa2"
    assert theme.with_accent(LIGHT, "#f5e663") is LIGHT
    assert theme.with_accent(DARK, "#f5e663").on_accent == "#14202f"


@pytest.mark.long
def test_each_print_is_named_and_stepped_to(window: MainWindow) -> None:
    from farbe.desk.printbar import PrintBar

    window.visit(Station.PROOF), settle(window)
    assert window.bench is not None
    bar = window.bench.views[Station.PROOF].picture.findChild(PrintBar)
    assert bar is not None and bar.isHidden()
    window.session.edit("Apart", lambda j: with_change(j, {2, 5}, rotation=90.0)), settle(window)
    assert not bar.isHidden()
    first = window.results.preview
    action(window, "Next print")(), settle(window)
    assert bar.accessibleName() == "Shown: art.png, pocket 2 and 1 alike, print 2 of 2"
    assert window.results.preview is not first and window.results.shown_print[0] == 1
    action(window, "Next print")(), settle(window)
    assert window.results.shown_print == (0, 2, "art.png, pocket 1 and 9 alike")
    window.results.show_pocket(5)
    assert window.results.shown_print[2] == "art.png, pocket 5 and 1 alike"


def test_the_bed_is_worked_by_keys_alone(window: MainWindow) -> None:
    canvas = bed(window)
    canvas.choose(1)
    control, alt = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier
    before = window.session.job
    for key, wanted in ((Qt.Key.Key_Right, 2), (Qt.Key.Key_Up, 6), (Qt.Key.Key_Left, 5),
                        (Qt.Key.Key_Left, 5), (Qt.Key.Key_Down, 1)):  # fmt: skip
        QTest.keyClick(canvas, key, control)
        assert canvas.chosen == wanted
    assert window.session.job == before
    assert canvas.accessibleDescription() == "Pocket 1 of 12 is chosen"
    QTest.keyClick(canvas, Qt.Key.Key_X)
    assert canvas.accessibleDescription() == "Pocket 1 of 12 is chosen, switched off"
    QTest.keyClick(canvas, Qt.Key.Key_A)
    assert canvas.accessibleDescription() == "12 pockets are chosen, 1 to 12"
    QTest.keyClick(canvas, Qt.Key.Key_Escape)
    bed_edits.add_keep_out(window.session, circle=True)
    QTest.keyClick(canvas, Qt.Key.Key_K)
    assert canvas.keep_out == 0 and "Keep-out" in canvas.accessibleDescription()
    where = window.session.job.jig.keep_outs[0].x  # type: ignore[union-attr]
    QTest.keyClick(canvas, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert window.session.job.jig.keep_outs[0].x == pytest.approx(where + 1.0)  # type: ignore[union-attr]
    QTest.keyClick(canvas, Qt.Key.Key_K)
    assert canvas.keep_out is None
    scale, corner = canvas.scale, canvas.at(0, 0)
    QTest.keyClick(canvas, Qt.Key.Key_Plus)
    assert canvas.scale == pytest.approx(scale * 1.25)
    QTest.keyClick(canvas, Qt.Key.Key_Minus)
    QTest.keyClick(canvas, Qt.Key.Key_Right, alt)
    assert (canvas.at(0, 0) - corner).x() == pytest.approx(-60.0)


def test_what_lies_next_in_a_direction() -> None:
    grid = [(1, 0.0, 0.0), (2, 10.0, 1.0), (3, 20.0, 0.0), (4, 9.0, 30.0)]
    assert next_towards((0, 0), grid[1:], (1, 0)) == 2
    assert next_towards((20, 0), grid[:2], (-1, 0)) == 2
    assert next_towards((0, 0), grid[1:], (0, 1)) == 2
    assert next_towards((9, 30), grid[:3], (0, 1)) is None


def test_the_start_page_needs_none_of_the_slow_modules_and_works_before_they_are_there(
    tmp_path: Path,
) -> None:
    code = """
import sys
from farbe.desk import app
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QAbstractButton, QApplication

def soon(window, then):
    QApplication.processEvents()
    slow = {"numpy", "cv2", "shapely", "PIL", "reportlab", "scipy"} & set(sys.modules)
    assert not slow, slow
    assert window.start_page.isVisible() and not window.is_furnished
    # A click that comes first is done as well.
    next(b for b in window.findChildren(QAbstractButton) if "film" in b.text().lower()).click()
    assert window.is_furnished
    first(window, lambda w: (then(w), QTimer.singleShot(0, done)))

def done():
    window = next(w for w in QApplication.topLevelWidgets() if hasattr(w, "session"))
    on_film = window.session.job is not None and window.session.job.roll is not None
    # Nor does the first job wait for what only measuring needs.
    assert window.bench is not None and not {"scipy.stats", "scipy.optimize"} & set(sys.modules)
    QApplication.exit(0 if on_film else 7)

first, app.furnish_soon = app.furnish_soon, soon
sys.exit(app.run_desk())
"""
    found = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, check=False, timeout=100
    )
    assert found.returncode == 0, found.stderr[-2000:]


@pytest.mark.long
def test_pictures_and_lists_tell_what_they_show(window: MainWindow) -> None:
    from farbe.desk.stations.layers.station import PlateCanvas
    from farbe.desk.stations.run.runlist import RunList

    window.visit(Station.LAYERS), settle(window)
    window.bench.section.choose("White")  # type: ignore[union-attr]
    plate = next(c for c in shown(window) if isinstance(c, PlateCanvas))
    assert plate.accessibleDescription().startswith("White covers ")
    assert "percent; art.png, pocket 1" in plate.accessibleDescription()
    window.visit(Station.PROOF), settle(window)
    proof = next(c for c in shown(window) if isinstance(c, ProofCanvas))
    assert "Predicted look" in proof.accessibleDescription()
    window.visit(Station.RUN), settle(window)
    steps = window.findChild(RunList)
    assert steps is not None and "Step 1 of" in steps.accessibleDescription()
    QTest.keyClick(steps, Qt.Key.Key_Down)
    QTest.keyClick(steps, Qt.Key.Key_Space)
    settle(window)
    assert steps.done == 2 and "done. 2 are done" in steps.accessibleDescription()
    QTest.keyClick(steps, Qt.Key.Key_Space)
    assert steps.done == 1
    settle(window)


@pytest.mark.long
def test_where_windows_cannot_be_found_jobs_open_all_the_same(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "one.farbe"
    answer(monkeypatch, path)
    window.files.save_as(), settle(window)
    window.close_job(), settle(window)
    runtime = tmp_path / "runtime"
    (runtime / "farbe").mkdir(parents=True, mode=0o777)
    (runtime / "farbe").chmod(0o777)
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(runtime))
    window.open_path(path), settle(window)
    assert window.session.path == path and "not yours alone" in window.check_bar.shown_text


@pytest.mark.long
def test_who_goes_by_keys_sees_where_they_are(window: MainWindow) -> None:
    canvas = bed(window)
    window.rail.buttons[Station.BED].setFocus()
    before = canvas.grab().toImage()
    canvas.setFocus(Qt.FocusReason.TabFocusReason)
    framed = canvas.grab().toImage()
    assert framed != before
    window.rail.buttons[Station.BED].setFocus()
    canvas.setFocus(Qt.FocusReason.MouseFocusReason)
    assert canvas.grab().toImage() == before


def test_the_look_follows_the_desktop(qapp: QApplication) -> None:
    def desktop(scheme: Qt.ColorScheme) -> Any:
        return SimpleNamespace(styleHints=lambda: SimpleNamespace(colorScheme=lambda: scheme))

    dark, light = desktop(Qt.ColorScheme.Dark), desktop(Qt.ColorScheme.Light)
    assert theme.desktop_accent(qapp) is None
    assert theme.theme_for(dark, Look.FOLLOW) is DARK and theme.theme_for(dark, Look.LIGHT) is LIGHT
    assert theme.theme_for(light, Look.FOLLOW) is LIGHT
    yellow = QColor("#f5e663")
    assert theme.theme_for(dark, Look.FOLLOW, yellow).accent == "#f5e663"
    # On light ground it could not be told.
    assert theme.theme_for(light, Look.FOLLOW, yellow) is LIGHT
    assert theme.theme_for(dark, Look.CONTRAST, yellow) is CONTRAST
