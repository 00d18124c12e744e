"""The Bed and Piece stations in the real window: what differs from pocket to pocket."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QMessageBox, QPushButton

from conftest import small_art
from farbe.desk.app import settle
from farbe.desk.fields import LinesField, NumberField, TextField
from farbe.desk.form import FoldHead
from farbe.desk.results import Results
from farbe.desk.stations.bed.canvas import ARTWORK_MIME, BedCanvas
from farbe.desk.stations.bed.rulers import Rulers
from farbe.desk.stations.bed.station import BedInspector
from farbe.desk.stations.bed.tray import Card, Tray
from farbe.desk.stations.piece.canvas import PieceCanvas
from farbe.desk.theme import CONTRAST, DARK, LIGHT, use_theme
from farbe.desk.window import MainWindow
from farbe.edits import bed as bed_edits
from farbe.edits.stack import with_choke, with_layer
from farbe.files.jobfile import open_job
from farbe.layout.bedframe import to_bed
from farbe.layout.faced import Faced
from farbe.layout.figures import Units, use_decimal_point, use_units
from farbe.layout.laid import allotted
from farbe.layout.pockets import pitch
from farbe.model.jig import Corner, Datum
from farbe.model.job import Job
from farbe.model.piece import Reader
from farbe.model.printer import LayerKind
from farbe.model.treatment import Choke
from farbe.plan.stations import Station
from farbe.samples.jobs import SAMPLES
from hands import Painted, field, grabbed, job_line_text, now, type_into


def parts(window: MainWindow) -> tuple[BedInspector, BedCanvas, Tray]:
    window.visit(Station.BED)
    settle(window)
    view = window.bench.views[Station.BED]
    form, canvas, tray = view.inspector, view.picture, view.under
    assert (
        isinstance(form, BedInspector) and isinstance(canvas, BedCanvas) and isinstance(tray, Tray)
    )
    return form, canvas, tray


def dropped(canvas: BedCanvas, spot: QPoint, data: QMimeData) -> None:
    event = QDropEvent(
        QPointF(spot), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )  # fmt: skip
    canvas.dropEvent(event)


@pytest.mark.long
def test_a_second_artwork_comes_with_a_quantity(window: MainWindow, tmp_path: Path) -> None:
    form, canvas, tray = parts(window)
    file = small_art(tmp_path / "other.png", 48, 48)
    before = grabbed(canvas)
    spot = canvas.at(canvas.pockets[6].x, canvas.pockets[6].y).toPoint()
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(file))])
    dropped(canvas, spot, data)
    settle(window)
    arts = now(window).artworks
    assert [art.quantity for art in arts] == [None, 1]
    assert allotted(now(window)).prints[7].artwork == arts[1]
    cards = tray.findChildren(NumberField)
    assert [card.text() for card in cards] == ["11", "1"]
    type_into(cards[1], "20")
    settle(window)
    codes = {check.code for check in window.results.findings.checks}  # type: ignore[union-attr]
    assert "pockets-missing" in codes
    type_into(cards[1], "4")
    rest = [b for b in tray.findChildren(QPushButton) if b.text() == "the rest"]
    rest[1].click()
    assert [art.quantity for art in now(window).artworks] == [8, None]
    data = QMimeData()
    data.setData(ARTWORK_MIME, arts[0].digest.encode())
    last = canvas.pockets[11]
    dropped(canvas, canvas.at(last.x, last.y).toPoint(), data)
    assert allotted(now(window)).prints[12].artwork == now(window).artworks[0]
    settle(window)
    assert np.abs(grabbed(canvas) - before).mean() > 0.5
    canvas.choose(12)
    assert form.pocket.thing.state == "set apart"
    type_into(field(window, Station.BED, "Pocket turn"), "45")
    change = next(c for c in now(window).changes if c.pocket == 12)
    assert change.rotation == 45 and change.artwork == arts[0].digest
    next(b for b in form.findChildren(QPushButton) if b.text() == "Print as all do").click()
    assert [c.pocket for c in now(window).changes] == [7]
    canvas.choose(3)
    assert field(window, Station.BED, "Pocket turn").text() == "0"


@pytest.mark.long
def test_cards_are_painted_anew_only_where_they_are_others(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    # Finer pictures of them come at some time or other.
    monkeypatch.setattr(Results, "look_closer", lambda *_: None)
    _, _, tray = parts(window)
    card = tray.findChild(Card)
    assert isinstance(card, Card)
    painted = Painted(window, tray=tray, card=card).order
    type_into(field(window, Station.BED, "Gap across"), "4.5")
    settle(window)
    assert set(painted) == {"turn"}
    window.session.edit("Rows", lambda job: job.replace(jig=job.jig.replace(rows=2)))
    settle(window)
    assert set(painted) == {"turn", "tray", "card"} and "of 8 pockets print" in tray._said


@pytest.mark.long
def test_pockets_look_after_any_edit_as_if_drawn_anew(window: MainWindow) -> None:
    """Pictures of what is printed, of words and of whole pockets are kept while they are right."""
    tags = Faced(SAMPLES["name-tags"](window.session.store))
    window.session.take(tags.replace(jig=tags.jig.replace(columns=2, rows=2)).job)
    _, canvas, _ = parts(window)

    def first_text(job: Faced, **fields: object) -> Faced:
        return job.replace(texts=(job.texts[0].replace(**fields), *job.texts[1:]))

    def inks(job: Faced) -> Faced:
        shown = tuple(ink.replace(shown="#c02080") for ink in job.printer.inks)
        return job.replace(printer=job.printer.replace(inks=shown))

    changes: list[Callable[[Faced], Faced]] = [
        lambda j: j.replace(marks=j.marks.replace(trim=True)),
        lambda j: j.replace(marks=j.marks.replace(frame=True, line=0.6)),
        lambda j: j.replace(guide=j.guide.replace(distance=1.5)),
        lambda j: first_text(j, size=j.texts[0].size * 0.8),
        lambda j: j.replace(bleed=1.0),
        lambda j: j.replace(stack=tuple(
            with_choke(la, 0.3) if la.kind is LayerKind.WHITE else la for la in j.stack)),
        lambda j: j.replace(placing=j.placing.replace(offset_x=1.0)),
        lambda j: first_text(j, ink=j.printer.inks[0].name),
        inks,
        lambda j: j.replace(jig=j.jig.replace(turned=180)),
        lambda j: j.replace(
            piece=j.piece.replace(surface=j.piece.surface.replace(colour="#205030"))),
    ]  # fmt: skip
    seen, changed = grabbed(canvas), 0
    for number, change in enumerate(changes):
        if number == len(changes) // 2:
            canvas.zoom(1.7, QPointF(canvas.rect().center()))
        window.session.edit(f"Change {number}", change)
        settle(window)
        kept = grabbed(canvas)
        changed += int((kept != seen).any())
        canvas.switch_outlines(), canvas.switch_outlines()
        seen = grabbed(canvas)
        assert np.array_equal(kept, seen), number
    # Not every edit is seen in pockets.
    assert changed > 0.6 * len(changes)


@pytest.mark.long
def test_rulers_are_drawn_once_for_each_view(
    window: MainWindow, qapp: QApplication, monkeypatch: pytest.MonkeyPatch
) -> None:
    """They show what they would if they were drawn anew, however the view came about."""
    _, canvas, _ = parts(window)
    drawn = list[float]()
    draw = Rulers._draw_along
    monkeypatch.setattr(
        Rulers, "_draw_along", lambda self, *more: (drawn.append(canvas.scale), draw(self, *more))
    )

    def by_datum(corner: Corner) -> Callable[[Faced], Faced]:
        return lambda j: j.replace(jig=j.jig.replace(datum=Datum(corner=corner)))

    middle = QPointF(canvas.rect().center())
    views: list[Callable[[], object]] = [
        lambda: canvas.zoom(1.7, middle),
        canvas.fit,
        lambda: canvas.resize(canvas.width() - 40, canvas.height()),
        lambda: window.session.edit("Datum", by_datum(Corner.FAR_RIGHT)),
        lambda: window.session.edit("Datum", by_datum(Corner.NEAR_RIGHT)),
        lambda: use_units(Units.INCHES),
        lambda: canvas.zoom(4.0, middle),
        lambda: use_decimal_point(","),
        lambda: use_theme(qapp, DARK),
        lambda: use_theme(qapp, CONTRAST),
        lambda: use_theme(qapp, DARK, 1.25),
    ]
    seen = grabbed(canvas)
    try:
        for number, view in enumerate(views):
            view(), settle(window), grabbed(canvas)
            drawn.clear()
            window.session.edit("Gap", lambda j, n=number: j.replace(  # type: ignore[misc]
                jig=j.jig.replace(gap_x=4 + n / 8)))  # fmt: skip
            settle(window)
            kept = grabbed(canvas)
            assert not drawn and not np.array_equal(kept, seen), number
            canvas._rulers = Rulers(canvas)
            seen = grabbed(canvas)
            assert drawn and np.array_equal(kept, seen), number
    finally:
        use_theme(qapp, LIGHT)


def test_names_from_a_table(window: MainWindow, tmp_path: Path) -> None:
    form, canvas, _ = parts(window)
    (tmp_path / "names.csv").write_text("name,size\nAda,3\nBo,4\n", encoding="utf-8")
    (tmp_path / "bad.csv").write_text('name\n"Ada\n', encoding="utf-8")
    before = grabbed(canvas)
    form.text.take_table(tmp_path / "names.csv")
    settle(window)
    form.text.add()
    assert now(window).texts[0].text == "{name}"
    type_into(field(window, Station.BED, "Text height"), "5")
    type_into(field(window, Station.BED, "Text size"), "4")
    settle(window)
    prints = allotted(now(window)).prints
    assert [prints[n].texts[0].text for n in (1, 2)] == ["Ada", "Bo"] and not prints[3].texts
    canvas.update()
    assert np.abs(grabbed(canvas) - before).mean() > 0.05
    kept = now(window)
    form.text.take_table(tmp_path / "bad.csv")
    settle(window)
    assert "quote" in window.check_bar.shown_text and now(window) == kept
    (tmp_path / "font.ttf").write_bytes(b"nothing")
    form.text.take_font(tmp_path / "font.ttf")
    assert "not a font" in window.check_bar.shown_text and now(window) == kept


def test_what_is_typed_is_entered_before_a_key_does_something_with_it(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """It is saved, stays on its side, and is asked about: a key does not leave the field."""
    path, held = tmp_path / "tokens.farbe", Qt.KeyboardModifier.ControlModifier
    choked = with_layer(now(window), "White", lambda layer: with_choke(layer, 0.1))
    window.session.take(bed_edits.both_sides(choked, True).job, path, saved=True)
    window.visit(Station.LAYERS), settle(window)
    window.activateWindow()
    typed = field(window, Station.LAYERS, "Choke")

    def type_there(text: str) -> None:
        typed.setFocus(), typed.selectAll()
        QTest.keyClicks(typed, text)
        assert typed.hasFocus() and typed.isModified()

    def chokes(job: Job) -> list[float]:
        whites = (layer for face in job.faces for layer in face.stack if layer.name == "White")
        return [t.by for layer in whites for t in layer.treatments if isinstance(t, Choke)]

    type_there("0.2")
    QTest.keyClick(typed, Qt.Key.Key_S, held), settle(window)
    assert chokes(now(window).job) == [0.2, 0.1] and typed.hasFocus()
    assert not window.session.unsaved
    assert chokes(open_job(path, window.session.store)) == [0.2, 0.1]
    type_there("0.3")
    QTest.keyClick(typed, Qt.Key.Key_B, held), settle(window)
    assert window.session.other_side and typed.text().startswith("0.1")
    asked: list[list[float]] = []
    may_leave = window.files.may_leave
    monkeypatch.setattr(window.files, "may_leave", lambda: asked.append(chokes(now(window).job)))
    type_there("0.4")
    window.close()
    assert asked == [[0.3, 0.4]]
    monkeypatch.setattr(window.files, "may_leave", may_leave)


def test_what_cannot_be_entered_is_not_said_to_be_saved(window: MainWindow, tmp_path: Path) -> None:
    """The file stays as it was, and why is told each time, until it is mended or taken back."""
    path, held = tmp_path / "tokens.farbe", Qt.KeyboardModifier.ControlModifier
    window.session.take(now(window).job, path, saved=True)
    window.session.edit("Job name", lambda job: job.replace(name="Tokens for Quince"))
    window.visit(Station.LAYERS), settle(window)
    window.activateWindow()
    typed = field(window, Station.LAYERS, "Choke")
    kept = typed.text()
    typed.setFocus(), typed.selectAll()
    QTest.keyClicks(typed, "0.1 or so")
    for key_at in (typed, typed, window):
        window.check_bar.say(""), key_at.setFocus()
        QTest.keyClick(key_at, Qt.Key.Key_S, held), settle(window)
        assert "0.1 or so" in window.check_bar.shown_text and typed.hasFocus()
        assert window.session.unsaved and not path.exists() and typed.text() == "0.1 or so"
    QTest.keyClick(typed, Qt.Key.Key_Escape)
    assert typed.text() == kept
    QTest.keyClick(typed, Qt.Key.Key_S, held), settle(window)
    assert not window.session.unsaved
    assert open_job(path, window.session.store).name == "Tokens for Quince"
    # Of another job the field shows what that has.
    QTest.keyClicks(typed, "more"), QTest.keyClick(typed, Qt.Key.Key_Return)
    assert typed.property("refused") and typed.text().endswith("more")
    window.session.take(open_job(path, window.session.store), path, saved=True), settle(window)
    assert typed.hasFocus() and typed.text() == kept and not typed.property("refused")


def test_words_that_are_refused_stay_to_be_mended(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """They are not lost, and the window does not close on a file that lacks them."""
    path, words = tmp_path / "tags.farbe", "Quince " * 80
    window.session.take(SAMPLES["name-tags"](window.session.store), path, saved=True)
    form, _, _ = parts(window)
    window.activateWindow()
    window.session.edit("Job name", lambda job: job.replace(name="Tags for Quince"))
    QApplication.clipboard().setText(words)
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Save)
    for kind, name, most in ((TextField, "Jig name", "80"), (LinesField, "Text", "500")):
        typed = next(one for one in form.findChildren(kind) if one.accessibleName() == name)
        shown = typed.text if isinstance(typed, QLineEdit) else typed.toPlainText
        kept = shown()
        window.bench.reveal(Station.BED, typed), settle(window)  # type: ignore[union-attr]
        typed.setFocus(), typed.selectAll(), typed.paste()
        for _ in range(2):
            window.check_bar.say("")
            window.close(), settle(window)
            assert window.isVisible() and window.session.unsaved and not path.exists()
            assert most in window.check_bar.shown_text and typed.hasFocus()
            assert typed.property("refused") and shown() == words
        QTest.keyClick(typed, Qt.Key.Key_Escape)
        assert shown() == kept and not typed.property("refused")
    # A step that cannot be is told; the figure stays as it is, and holds up nothing.
    typed = field(window, Station.BED, "Columns")
    type_into(typed, "1"), typed.setFocus(), window.check_bar.say("")
    QTest.keyClick(typed, Qt.Key.Key_Down)
    assert "columns" in window.check_bar.shown_text.casefold()
    assert typed.text() == "1" and not typed.property("refused")
    QTest.keyClick(typed, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier), settle(window)
    assert not window.session.unsaved and path.exists()


def test_the_other_side_is_edited_by_itself(window: MainWindow) -> None:
    form, _, _ = parts(window)
    window.session.edit("Reader", lambda j: j.replace(reader=Reader.THROUGH))
    assert not form.sides._what.isVisibleTo(form)
    from farbe.edits.bed import both_sides

    assert not window.session.edit("Both sides", lambda j: both_sides(j, True))
    assert "read from its faces" in window.check_bar.shown_text
    window.session.edit("Reader", lambda j: j.replace(reader=Reader.FACE))
    window.session.edit("Both sides", lambda j: both_sides(j, True))
    assert "both sides" in job_line_text(window)
    window.switch_side()
    settle(window)
    assert "the other side" in job_line_text(window)
    type_into(field(window, Station.BED, "Artwork turned"), "90")
    whole = window.session.first
    assert whole is not None and whole.other is not None
    assert whole.placing.rotation == 0 and whole.other.placing.rotation == 90
    window.switch_side()
    # What is undone and done again is looked at; what is of both sides turns nothing over.
    for act, turned in ((window.session.undo, 0), (window.session.redo, 90)):
        act()
        assert window.session.other_side
        assert window.session.first.other.placing.rotation == turned  # type: ignore[union-attr]
        window.switch_side()
    window.session.undo(), window.switch_side()
    window.session.edit("Name", lambda j: j.replace(name="Turned"))
    window.session.undo()
    assert not window.session.other_side and now(window) == window.session.first
    window.session.edit("One side", lambda j: both_sides(j, False))
    assert not window.session.other_side


@pytest.mark.long
def test_measured_pockets_are_typed(window: MainWindow, tmp_path: Path) -> None:
    form, canvas, _ = parts(window)
    table = form.measured._table
    for number in (1, 4, 9, 12):
        canvas.choose(number)
        form.measured.add()
    settle(window)
    for row in range(4):
        x = float(table.item(row, 1).text())  # type: ignore[union-attr]
        table.item(row, 1).setText(f"{x}+0.5")  # type: ignore[union-attr]
    settle(window)
    assert "Moved +0.50, +0.00 mm" in form.measured._words.text()
    table.item(0, 2).setText("far")  # type: ignore[union-attr]
    assert "not a figure" in window.check_bar.shown_text
    notes = {check.code for check in window.results.findings.checks}  # type: ignore[union-attr]
    assert "corrected" in notes
    (tmp_path / "m.csv").write_text("pocket,x,y\n99,1,2\n", encoding="utf-8")
    form.measured.take_file(tmp_path / "m.csv")
    settle(window)
    assert "Pocket 99" in form.measured._words.text()


@pytest.mark.long
def test_dragging_snaps_and_measuring_takes_corners(window: MainWindow) -> None:
    _, canvas, _ = parts(window)
    job = now(window)
    window.session.edit("Move", lambda j: j.replace(jig=j.jig.replace(first_x=1.9, first_y=2.7)))
    settle(window)
    spot = canvas.at(canvas.pockets[0].x, canvas.pockets[0].y).toPoint()
    # The board begins at 0; 1.6 mm to the left is near enough to snap.
    canvas.loosen_jig(True)
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=spot)
    QTest.mouseMove(canvas, spot - QPoint(round(1.0 * canvas.scale), 0))
    QTest.mouseMove(canvas, spot - QPoint(round(1.6 * canvas.scale), 0))
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=spot)
    assert now(window).jig.first_x == 0
    QTest.keyClick(canvas, Qt.Key.Key_M)
    assert canvas.measuring
    one, two = canvas.pockets[0], canvas.pockets[1]
    start = canvas.at(one.x, one.y).toPoint() + QPoint(2, -1)
    end = canvas.at(two.x, two.y).toPoint() + QPoint(-2, 2)
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(canvas, end)
    assert canvas._measured is not None
    across = canvas._measured[1].x() - canvas._measured[0].x()
    assert across == pytest.approx(pitch(job.jig, job.piece.shape).across)
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=end)
    QTest.keyClick(canvas, Qt.Key.Key_Escape)
    assert not canvas.measuring


@pytest.mark.long
def test_pitch_and_gap_are_one(window: MainWindow) -> None:
    parts(window)
    type_into(field(window, Station.BED, "Pitch across"), "20")
    assert now(window).jig.gap_x == pytest.approx(20 - 11.3)
    window.session.edit(
        "Stagger", lambda j: j.replace(jig=j.jig.replace(pattern="staggered", gap_x=1))
    )
    type_into(field(window, Station.BED, "Pitch along"), "15")
    assert pitch(now(window).jig, now(window).piece.shape).along == pytest.approx(15)
    kept = now(window)
    type_into(field(window, Station.BED, "Pitch along"), "2")
    assert "over each other" in window.check_bar.shown_text and now(window) == kept


def test_the_piece_is_dragged_by_its_edges(window: MainWindow) -> None:
    window.visit(Station.PIECE)
    settle(window)
    canvas = window.bench.views[Station.PIECE].picture
    assert isinstance(canvas, PieceCanvas)
    edge = canvas.at(11.3 / 2, 0).toPoint()
    there = canvas.at(8, 0).toPoint()
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=edge)
    QTest.mouseMove(canvas, (edge + there) / 2)
    QTest.mouseMove(canvas, there)
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=there)
    assert now(window).piece.shape.width == 16
    assert window.session.undo_name == "Drag the width"
    window.session.undo()
    assert now(window).piece.shape.width == 11.3


@pytest.mark.long
def test_what_is_sought_is_chosen_and_unfolded(window: MainWindow) -> None:
    """A value is found wherever it is; its thing is chosen, its group is opened."""
    form, _, _ = parts(window)
    kerf = field(window, Station.BED, "Kerf")
    assert not kerf.isVisibleTo(form) and form.offers(kerf)
    assert window.bench is not None
    window.bench.reveal(Station.BED, kerf)
    assert kerf.isVisibleTo(form) and form.current is form.guide.thing and kerf.hasFocus()
    for thing in form.things:
        form.choose(thing)
        inner = thing.page.widget()
        for head in inner.findChildren(FoldHead):
            head.setChecked(True)
        assert inner.minimumSizeHint().width() <= thing.page.viewport().width()


@pytest.mark.long
def test_what_is_clicked_in_the_picture_is_chosen(window: MainWindow) -> None:
    """A pocket, then what is in it; the board between pockets, the bed around the board."""
    form, canvas, _ = parts(window)
    third = canvas.pockets[2]

    def click(x: float, y: float) -> str:
        spot = canvas.at(x, y).toPoint()
        QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=spot)
        return form.current.name

    assert click(third.x, third.y) == "Pocket" and canvas.chosen == 3
    assert form.pocket._title.text() == "Pocket 3"
    assert click(third.x, third.y) == "Artwork"
    form.text.add(), settle(window)
    box = now(window).texts[0]
    assert click(third.x + box.x, third.y + box.y) == "Text"
    first, second = canvas.pockets[:2]
    assert click((first.x + second.x) / 2, first.y) == "Jig"
    job = now(window)
    assert click(job.printer.bed_width - 1, job.printer.bed_height - 1) == "Board and datum"
    bed_edits.add_keep_out(window.session, circle=True)
    canvas.choose(1, keep_out=0)
    pin = canvas.keep_out_at
    keep = now(window).jig.keep_outs[0]
    x, y = to_bed(now(window).jig.datum, now(window).printer, keep.x, keep.y)
    assert pin(QPointF(x, y)) == 0 and click(x, y) == "Keep-outs"
    assert "1" in form.keep_outs.thing.state


@pytest.mark.long
def test_pictures_are_as_fine_as_they_are_shown(window: MainWindow) -> None:
    """Zoomed in, a pocket has the pixels of the screen, and agrees with its coarse picture."""
    window.session.take(SAMPLES["jar-lids"](window.session.store)), settle(window)
    _, canvas, _ = parts(window)
    coarse = next(iter(window.results.stamps.values()))
    middle = canvas.at(canvas.pockets[0].x, canvas.pockets[0].y)
    for _ in range(6):
        canvas.zoom(1.7, middle)
    window.repaint(), settle(window)
    QTest.qWait(200), settle(window)
    (fine,) = window.results.stamps.values()
    finest = min(canvas.scale, now(window).printer.dpi_x / 25.4)
    assert fine.per_mm >= 0.85 * finest > coarse.per_mm
    by = fine.look.shape[0] / coarse.look.shape[0]
    rows = (np.arange(coarse.look.shape[0]) * by).astype(int)
    columns = np.arange(coarse.look.shape[1]) * fine.look.shape[1] / coarse.look.shape[1]
    same = fine.look[rows][:, columns.astype(int)].astype(int) - coarse.look.astype(int)
    assert np.abs(same).mean() < 6
    # They stay where an edit changes nothing that prints, and are made anew where it does.
    drawn: list[object] = []
    window.results.stamps_changed.connect(lambda: drawn.append(None))
    window.session.edit("Gap", lambda j: j.replace(jig=j.jig.replace(gap_x=j.jig.gap_x + 0.5)))
    settle(window)
    assert list(window.results.stamps.values()) == [fine] and not drawn
    window.session.edit("Turn", lambda j: j.replace(placing=j.placing.replace(rotation=30.0)))
    settle(window)
    assert fine not in window.results.stamps.values() and drawn
