"""A look that is chosen while a job is open is that of a window that was opened in it."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication
from shiboken6 import delete

from conftest import some
from farbe.desk.app import settle
from farbe.desk.preferences import Preferences
from farbe.desk.theme import CONTRAST, DARK, LIGHT, use_theme
from farbe.desk.window import MainWindow
from farbe.plan.stations import Station
from farbe.samples.jobs import SAMPLES


@pytest.fixture
def app(qapp: QApplication) -> Iterator[QApplication]:
    yield qapp
    use_theme(qapp, LIGHT)


def seen(window: MainWindow) -> dict[Station, QImage]:
    """A window's stations, one after the other."""
    pictures = {}
    for station in Station:
        window.visit(station), settle(window)
        pictures[station] = window.grab().toImage()
    return pictures


LOOKS = {
    "jar-lids": (DARK, 1.0), "apron-gang": (CONTRAST, 1.25), "stall-sign": (CONTRAST, 1.0),
}  # fmt: skip


@pytest.mark.long
@pytest.mark.parametrize("sample", some(LOOKS, "jar-lids"))
def test_a_look_is_the_same_however_it_came(
    window: MainWindow, app: QApplication, sample: str
) -> None:
    look, scale = LOOKS[sample]
    first, job = window.session.job, SAMPLES[sample](window.session.store)
    assert first is not None
    window.session.take(job, saved=True)
    before = seen(window)
    use_theme(app, look, scale), settle(window)
    after = seen(window)
    window.hide()
    other = MainWindow(window.session.store, Preferences())
    other.resize(window.size()), other.show()
    # The film that is chosen stays chosen from job to job.
    other.session.take(first.job, saved=True), settle(other)
    other.session.take(job, saved=True)
    opened = seen(other)
    other.close(), delete(other)
    assert all(before[one] != after[one] for one in Station)
    assert [one for one in Station if after[one] != opened[one]] == []
