"""Nothing is cut: every widget of every sample, in small windows, with large text, in any look."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtGui import QFontMetricsF
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractScrollArea,
    QApplication,
    QCheckBox,
    QComboBox,
    QLabel,
    QLineEdit,
    QPushButton,
    QWidget,
)

from conftest import listed, some
from farbe.desk.app import settle
from farbe.desk.fields import NumberField
from farbe.desk.form import ElidedButton, FoldHead
from farbe.desk.orders.window import open_orders
from farbe.desk.theme import CONTRAST, DARK, LIGHT, Theme, px, use_theme
from farbe.desk.window import MainWindow
from farbe.plan.stations import Station
from farbe.samples.jobs import SAMPLES

#: Windows in logical pixels and how much larger their text is: a small notebook with a panel, the
#: smallest that is promised, a screen of 1920 × 1080 at 200 % with a panel, and larger text.
SIZES = (
    (1366, 728, 1.0), (1100, 700, 1.0), (1280, 800, 1.25), (960, 508, 1.0), (1366, 728, 1.5),
)  # fmt: skip


def told_whole(widget: QWidget, words: str) -> bool:
    """Whether what does not fit can be read in full on hover."""
    return words.strip() in widget.toolTip()


def wide(widget: QWidget, words: str) -> float:
    metrics = QFontMetricsF(widget.font())
    return max((metrics.horizontalAdvance(line) for line in words.split("\n")), default=0.0)


def label_is_cut(label: QLabel) -> bool:
    words, room = label.text(), label.contentsRect()
    if label.wordWrap():
        need = label.heightForWidth(label.width())
        one = max((wide(label, word) for word in words.split()), default=0.0)
        return need > label.height() + 1 or one > room.width() + 1
    high = QFontMetricsF(label.font()).height() > label.height() + 1
    return wide(label, words) > room.width() + 1 or high


def words_and_room(widget: QWidget) -> tuple[str, float]:
    """What a widget says in one line, and the pixels that it has for it."""
    if isinstance(widget, QComboBox):
        return widget.currentText(), widget.width() - px(22) - 10
    if isinstance(widget, NumberField):
        margins = widget.textMargins()
        return widget.text(), widget.width() - margins.left() - margins.right() - 10
    if isinstance(widget, QLineEdit):
        # Its words are scrolled; what it says while it is empty is not.
        return "" if widget.text() else widget.placeholderText(), widget.width() - 10
    if isinstance(widget, FoldHead):
        return widget.text(), widget.width() - px(20)
    if isinstance(widget, QCheckBox):
        return widget.text(), widget.width() - 20
    if isinstance(widget, QPushButton):
        words = widget.text().replace("&", "")
        # With its padding, as it asks for itself.
        return words, widget.width() - (widget.sizeHint().width() - wide(widget, words))
    return (widget.text(), widget.width()) if isinstance(widget, QAbstractButton) else ("", 0)


def is_cut(widget: QWidget) -> str:
    """The words of a widget that do not fit it; nothing if they do, or are told on hover."""
    if isinstance(widget, QLabel):
        words, cut = widget.text(), label_is_cut(widget)
    elif isinstance(widget, ElidedButton):
        words, cut = widget.words, widget.text() != widget.words
    else:
        words, room = words_and_room(widget)
        high = QFontMetricsF(widget.font()).height() > widget.height()
        cut = wide(widget, words) > room + 1 or high
    return words if words and cut and not told_whole(widget, words) else ""


def is_covered(widget: QWidget) -> bool:
    """Whether a part of a widget lies beyond what holds it, where it cannot be scrolled to."""
    here, holder = QRect(widget.rect()), widget
    while (above := holder.parentWidget()) is not None and not holder.isWindow():
        here.translate(holder.pos())
        if isinstance(above.parentWidget(), QAbstractScrollArea):
            # What is too high is scrolled to; what is too wide only where there is a bar.
            area = above.parentWidget()
            bar = area.horizontalScrollBarPolicy()  # type: ignore[union-attr]
            return bar == Qt.ScrollBarPolicy.ScrollBarAlwaysOff and (
                here.left() < 0 or here.right() > above.width()
            )
        if not above.rect().contains(here):
            return True
        holder = above
    return False


def cut_words(window: QWidget) -> Iterator[str]:
    """All that is cut in a window as it is now."""
    for widget in window.findChildren(QWidget):
        if not widget.isVisible() or widget.width() == 0:
            continue
        if isinstance(widget, QLabel | QAbstractButton | QLineEdit | QComboBox):
            words = is_cut(widget)
            name = widget.accessibleName() or type(widget).__name__
            if words:
                yield f"{name}: {words!r} in {widget.width()} × {widget.height()}"
            elif is_covered(widget):
                yield f"{name} ({widget.parent()}) is covered"


def all_cut(window: MainWindow) -> list[str]:
    """What is cut at any station and thing of the open job."""
    found: list[str] = []
    for station in Station:
        window.visit(station), settle(window)
        assert window.bench is not None
        inspector = window.bench.views[station].inspector
        for thing in [thing for thing in inspector.things if thing.is_there]:
            inspector.choose(thing)
            for head in thing.page.findChildren(FoldHead):
                head.setChecked(True)
            settle(window)
            found += [f"{station.value}, {thing.name}: {words}" for words in cut_words(window)]
    return list(dict.fromkeys(found))


Size = tuple[int, int, float]


def cut_at(window: MainWindow, app: QApplication, sizes: tuple[Size, ...]) -> dict[Size, list[str]]:
    """What is cut of the open job at each size, where anything is."""
    cut = {}
    for width, height, scale in sizes:
        use_theme(app, LIGHT, scale)
        window.resize(width, height), settle(window)
        assert window.size() == QSize(width, height)
        cut[width, height, scale] = all_cut(window)
    return {size: words for size, words in cut.items() if words}


@pytest.fixture
def usual(qapp: QApplication) -> Iterator[QApplication]:
    yield qapp
    use_theme(qapp, LIGHT)


@pytest.mark.long
@pytest.mark.parametrize("sample", SAMPLES)
def test_nothing_is_cut(window: MainWindow, usual: QApplication, sample: str) -> None:
    """In the smallest window and with the largest text."""
    window.session.take(SAMPLES[sample](window.session.store)), settle(window)
    assert cut_at(window, usual, SIZES[-2:]) == {}


@pytest.mark.long
def test_nothing_is_cut_at_any_size(window: MainWindow, usual: QApplication) -> None:
    window.session.take(SAMPLES["jar-lids"](window.session.store)), settle(window)
    assert cut_at(window, usual, SIZES) == {}


@pytest.mark.long
@pytest.mark.parametrize("look", some([DARK, CONTRAST], DARK), ids=["dark", "contrast"])
def test_nothing_is_cut_in_other_looks(
    window: MainWindow, usual: QApplication, look: Theme
) -> None:
    use_theme(usual, look, 1.25)
    window.resize(1280, 800)
    assert all_cut(window) == []


@pytest.mark.long
def test_the_start_page_is_whole(window: MainWindow, usual: QApplication) -> None:
    window.close_job()
    for width, height, scale in SIZES:
        use_theme(usual, LIGHT, scale)
        window.resize(width, height), settle(window)
        assert list(cut_words(window)) == []


@pytest.mark.long
def test_the_orders_are_whole(window: MainWindow, usual: QApplication, shop: Path) -> None:
    orders = open_orders(window.plan, window.workers, window)
    window.plan.take_list(listed(shop, "1,Token,red.png,,14,", "2,Tokne,red.png,,1,"))
    settle(window)
    orders.load_table.selectRow(0)
    for bad in (False, True):
        orders.show_refused(bad)
        for width, height, scale in SIZES:
            use_theme(usual, LIGHT, scale)
            orders.resize(width, height), settle(window)
            assert list(cut_words(orders)) == [], (width, height, scale)
            assert orders.size() == QSize(width, height)
    orders.close()
