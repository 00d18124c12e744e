"""Results of work come back on the window's thread, when it has its turn."""

from __future__ import annotations

import os
import threading
import time
from concurrent.futures import Future
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QWidget

from farbe.desk import results
from farbe.desk import window as window_module
from farbe.desk.app import settle
from farbe.desk.window import MainWindow
from farbe.desk.workers import Workers


def test_work_that_is_done_at_once_still_comes_back_later(
    qtbot: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Whoever starts it is done with what it is doing before the result is there."""
    workers, order = Workers(), []

    def at_once(work: Any) -> Future[Any]:
        done: Future[Any] = Future()
        done.set_result(work())
        return done

    monkeypatch.setattr(workers._pool, "submit", at_once)
    workers.start("sum", lambda _: order.append("worked") or 42, order.append)
    order.append("started")
    qtbot.waitUntil(lambda: not workers.busy())
    assert order == ["worked", "started", 42]
    workers.close()


def test_only_the_newest_result_is_taken(qtbot: Any) -> None:
    workers, found = Workers(), []
    for number in range(20):
        workers.start("same", lambda _, number=number: number, found.append)
    qtbot.waitUntil(lambda: not workers.busy())
    assert found == [19]
    workers.close()


def test_work_waits_for_what_is_drawn_and_stands_back_behind_it(qtbot: Any) -> None:
    """Also where the drawing was asked for by another event, as edits do."""

    class Picture(QWidget):
        def paintEvent(self, _: object) -> None:
            time.sleep(0.05)
            order.append("drawn")

    def work(_: object) -> int:
        order.append("worked")
        return os.getpriority(os.PRIO_PROCESS, threading.get_native_id())

    order: list[str] = []
    workers, behind, picture = Workers(), list[int](), Picture()
    qtbot.addWidget(picture)
    picture.show()
    qtbot.waitUntil(lambda: bool(order))
    order.clear()

    def edit() -> None:
        picture.update()
        workers.start("sum", work, behind.append)

    QTimer.singleShot(0, edit)
    qtbot.waitUntil(lambda: bool(behind))
    assert order == ["drawn", "worked"]
    assert behind[0] > os.getpriority(os.PRIO_PROCESS, 0)
    workers.close()


def test_a_fault_of_our_own_is_said_and_can_be_reported(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """It is one sentence with a report; findings go on, and the next message takes its place."""

    def broken(_: object) -> None:
        raise ZeroDivisionError("no film")

    window.workers.start("broken", broken, lambda _: None, title="Measuring the film")
    settle(window)
    assert "Measuring the film failed through a fault of Farbe" in window.check_bar.shown_text
    report = window.check_bar._report
    assert report.isVisible() and "Traceback" not in window.check_bar.shown_text
    target = tmp_path / "report.txt"
    monkeypatch.setattr(window_module.QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    report.click()
    assert "ZeroDivisionError: no film" in target.read_text(encoding="utf-8")
    assert "report.txt" in window.check_bar.shown_text and not report.isVisible()
    # A check that fails is a finding among the others, with its own report.
    monkeypatch.setattr(results, "estimate", lambda *_: broken(None))
    window.session.edit("Job name", lambda job: job.replace(name="Other"))
    settle(window), window.check_bar.say("")
    findings = window.results.findings
    assert findings is not None and findings.job.name == "Other"
    assert [c.code for c in findings.checks][-1] == "estimate-failed" and len(findings.checks) > 1
