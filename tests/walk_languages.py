"""Walks all that a window shows in a language in which all that is said stands in brackets.

Run by ``test_languages.py`` in a process of its own.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QListWidget,
    QMenu,
    QTableView,
    QWidget,
)

from farbe.desk.app import settle
from farbe.desk.form import FoldHead
from farbe.desk.stations.piece.canvas import PieceCanvas
from farbe.desk.window import MainWindow
from farbe.model.piece import Rectangle
from farbe.plan.stations import Station
from farbe.samples.jobs import SAMPLES

#: What is the same in all languages: units, formats, keys, and names of inks in files.
KNOWN = re.compile(
    r"\b(mm|cm|ml|min|dpi|ppi|px|lpi|mm/s|h|in|m|TIFF?|PDF|JSON|CSV|ICC|CMYK|C M Y K|QR|ΔE|A4|"
    r"Letter|Farbe|English|Deutsch|Alt|Ctrl|Shift|Page (up|down)|PgUp|PgDown|Del|F\d+|[A-Z]|x|y)\b"
    r"|[\w-]+\.\w{3,4}\b|\b[A-Z0-9]{3}-[A-Z0-9]{3}\b"
)


def unsaid(words: str, data: set[str]) -> str:
    """What of some words stands in no bracket and is no value of the job."""
    left = words.replace("&", "")
    # What is told in full elsewhere ends in dots, without its bracket.
    while (shorter := re.sub(r"‹[^‹›]*›|‹.*…$", " ", left)) != left:
        left = shorter
    for one in sorted((one for one in data if len(one) > 5), key=len, reverse=True):
        left = left.replace(one, " ").replace(one.lower(), " ")
    left = KNOWN.sub(" ", left)
    for one in data:
        left = left.replace(one, " ").replace(one.lower(), " ")
    return words if re.search(r"[A-Za-z]{2}", left) else ""


#: What people name and write in a job; words of kinds and states are none of it.
WRITTEN = (
    "name",
    "file_name",
    "text",
    "columns",
    "rows",
    "label",
    "ink",
    "colour",
    "shown",
    "order",
)


def names(value: object, *, written: bool = False) -> Iterator[str]:
    """All words of a job that somebody wrote."""
    match value:
        case str() if written:
            yield value
        case dict():
            for key, one in value.items():
                yield from names(one, written=key in WRITTEN)
        case list() | tuple():
            for one in value:
                yield from names(one, written=written)


def shown(window: QWidget) -> Iterator[tuple[str, str]]:
    """All that is read or heard, and where."""
    for widget in window.findChildren(QWidget):
        where = type(widget).__name__
        yield where, widget.accessibleName()
        yield where, widget.accessibleDescription()
        yield where, widget.toolTip()
        match widget:
            case QLabel() | QAbstractButton():
                yield where, widget.text()
            case QComboBox():
                yield from ((where, widget.itemText(i)) for i in range(widget.count()))
            case QLineEdit():
                yield where, widget.placeholderText()
            case QListWidget():
                for row in range(widget.count()):
                    yield where, widget.item(row).text()
                    # With its state, as it is heard.
                    yield where, widget.item(row).toolTip()
            case QTableView():
                model = widget.model()
                for column in range(model.columnCount()):
                    yield where, str(model.headerData(column, Qt.Orientation.Horizontal) or "")
    for menu in window.findChildren(QMenu):
        # Some are filled when they are opened.
        menu.aboutToShow.emit()
        yield from (("QMenu", action.text()) for action in menu.actions())


def test_a_piece_is_dragged_by_its_edges(window: MainWindow) -> None:
    """What an edge is of does not hang on how that is called."""
    window.session.edit("Shape", lambda job: job.replace(
        piece=job.piece.replace(shape=Rectangle(width=20, height=12))
    ))  # fmt: skip
    window.visit(Station.PIECE), settle(window)
    assert window.bench is not None
    canvas = window.bench.views[Station.PIECE].picture
    assert isinstance(canvas, PieceCanvas)
    for x, y, to_x, to_y in ((10, 0, 13, 0), (0, 6, 0, 9), (0, None, 0, 5)):
        job = window.session.job
        assert job is not None
        # The side view hangs under the plan; its lower edge is the height's.
        bottom = canvas._side_top(job) - job.piece.height
        start = canvas.at(x, bottom if y is None else y)
        end = canvas.at(to_x, bottom - to_y if y is None else to_y)
        QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=start.toPoint())
        QTest.mouseMove(canvas, end.toPoint())
        QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=end.toPoint())
    made = window.session.job
    assert made is not None
    assert (made.piece.shape.width, made.piece.shape.height) == (26, 18)
    assert made.piece.height == job.piece.height + 5


@pytest.mark.parametrize("sample", list(SAMPLES))
def test_all_is_said(window: MainWindow, sample: str) -> None:
    window.session.take(SAMPLES[sample](window.session.store)), settle(window)
    job = window.session.first
    assert job is not None
    data = {"{job}", "{date}", "{code}"} | {
        one for one in names(job.job.model_dump(mode="json")) if len(one) > 1
    }
    found: dict[str, None] = {}
    for station in Station:
        window.visit(station), settle(window)
        assert window.bench is not None
        inspector = window.bench.views[station].inspector
        for thing in [thing for thing in inspector.things if thing.is_there]:
            inspector.choose(thing)
            for head in thing.page.findChildren(FoldHead):
                head.setChecked(True)
            QApplication.processEvents()
        for where, words in shown(window):
            if words and unsaid(words, data):
                found[f"{station.value}, {where}: {words!r}"] = None
    for check in window.ready().check_bar._checks:
        for words in (check.text, check.fix.words if check.fix else ""):
            if words and unsaid(words, data):
                found[f"{check.code}: {words!r}"] = None
    assert list(found) == []
