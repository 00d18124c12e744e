"""Results of work come back on the window's thread, when it has its turn."""

from __future__ import annotations

import gc
import os
import threading
import time
import weakref
from concurrent.futures import Future
from contextlib import ExitStack
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QCoreApplication, QEvent, QEventLoop, QTimer
from PySide6.QtWidgets import QWidget

from farbe.desk import results
from farbe.desk import window as window_module
from farbe.desk.app import settle
from farbe.desk.tidying import Tidying
from farbe.desk.turns import PaintTurns
from farbe.desk.window import MainWindow
from farbe.desk.workers import Workers
from farbe.follows import findings as found
from farbe.follows.preview import preview_of
from farbe.model.base import BadInput
from farbe.plan.stations import Station
from farbe.sidebyside import WORKERS, in_order, task
from hands import Painted


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


def test_what_follows_from_an_edit_is_done_once_it_is_drawn(qtbot: Any) -> None:
    """Also where the drawing was asked for by another event, as edits do; the newest alone."""

    class Picture(QWidget):
        def paintEvent(self, _: object) -> None:
            time.sleep(0.05)
            order.append("drawn")

    order: list[str] = []
    workers, picture = Workers(), Picture()
    qtbot.addWidget(picture)
    picture.show()
    qtbot.waitUntil(lambda: bool(order))
    order.clear()

    def again() -> None:
        order.append("follows")
        # What follows from that waits until it is drawn as well.
        picture.update()
        workers.once_drawn("then", lambda: order.append("then"))

    def edit() -> None:
        picture.update()
        workers.once_drawn("follows", lambda: order.append("the older"))
        workers.once_drawn("follows", again)
        assert workers.busy()

    QTimer.singleShot(0, edit)
    qtbot.waitUntil(lambda: bool(order) and not workers.busy())
    assert order == ["drawn", "follows", "drawn", "then"]
    workers.close()


def test_what_is_about_to_be_painted_is_painted_by_itself(qtbot: Any) -> None:
    """Results that come meanwhile are handed back after it, in their order, until more is."""
    paints, shown = [True], list[str]()
    workers = Workers(paints=lambda: bool(paints))

    def show(result: str) -> None:
        shown.append(result)
        paints.extend([True] * (result == "first"))

    for result in ("first", "second", "third"):
        workers.in_turn("picture", lambda _, result=result: result, show)
    qtbot.waitUntil(lambda: len(workers._held) == 3)
    assert not shown and workers.busy()
    workers.receive_held()
    assert not shown
    paints.clear()
    workers.receive_held()
    assert shown == ["first"] and workers.busy()
    # What comes now waits behind those that came before.
    workers.in_turn("picture", lambda _: "fourth", show)
    paints.clear()
    qtbot.waitUntil(lambda: len(workers._held) == 3)
    workers.receive_held()
    assert shown == ["first", "second", "third", "fourth"] and not workers.busy()
    workers.close()


def test_a_window_hands_back_what_waited_for_its_painting(window: MainWindow) -> None:
    """A picture that comes while values are to be painted is painted in a turn of its own."""
    window.visit(Station.LAYERS), settle(window)
    turns = next(one for one in window.children() if isinstance(one, PaintTurns))
    view = window.bench.views[Station.LAYERS]  # type: ignore[union-attr]
    painted = Painted(window, picture=view.picture, values=view.inspector)

    def both() -> None:
        view.inspector.update()
        # What is drawn is asked for in one turn and drawn in the next.
        QCoreApplication.sendPostedEvents(window, QEvent.Type.UpdateRequest)
        assert turns.waiting
        task = window.workers.start("more", lambda _: 0, lambda _: view.picture.update())
        assert task.made.wait(5)

    QTimer.singleShot(0, both)
    settle(window)
    order = [one for one in painted.order if one != "turn"]
    assert order.index("values") < order.index("picture")
    assert "turn" in painted.order[painted.order.index("values") : painted.order.index("picture")]


def test_work_stands_back_behind_the_window(qtbot: Any) -> None:
    workers, behind = Workers(), list[int]()
    workers.start(
        "sum",
        lambda _: os.getpriority(os.PRIO_PROCESS, threading.get_native_id()),
        behind.append,
    )
    qtbot.waitUntil(lambda: bool(behind))
    assert behind[0] > os.getpriority(os.PRIO_PROCESS, 0)
    workers.close()


def test_what_goes_on_ends_before_the_newest_begins(qtbot: Any) -> None:
    """However fast it is asked for, something is shown; what waits for rest begins after all."""
    workers, shown = Workers(), list[object]()

    def ask(number: int) -> None:
        def work(_: object) -> int:
            time.sleep(0.02)
            if number == 2:
                raise BadInput("no such film")
            return number

        workers.in_step("picture", work, shown.append, at_rest=lambda: shown.append("rest"))

    workers.failed.connect(shown.append)
    for number in (1, 9, 9, 2):
        ask(number)
    qtbot.waitUntil(lambda: not workers.busy())
    assert shown == [1, "rest", "no such film"]
    ask(3)
    ask(4)
    workers.cancel("picture")
    ask(5)
    qtbot.waitUntil(lambda: not workers.busy())
    assert shown[3:] == ["rest", 5]
    workers.close()


def test_what_is_nearly_there_is_waited_for(qtbot: Any) -> None:
    """No longer than is said, and whatever becomes of it; who asks is told in a turn of its own."""
    workers, shown, go = Workers(), list[object](), threading.Event()

    def ask(work: Any) -> float:
        workers.in_step("picture", work, shown.append, at_rest=lambda: None)
        began = time.perf_counter()
        workers.linger("picture", 5.0 if work is not slow else 0.01)
        return time.perf_counter() - began

    def slow(_: object) -> str:
        go.wait(10.0)
        return "slow"

    def failing(_: object) -> str:
        raise BadInput("no such film")

    workers.failed.connect(shown.append)
    for work, told in ((lambda _: "quick", "quick"), (failing, "no such film")):
        assert ask(work) < 4.0
        assert told not in shown
        qtbot.waitUntil(lambda: not workers.busy())
        assert told in shown
    assert ask(slow) >= 0.01
    assert workers.busy("picture")
    go.set()
    qtbot.waitUntil(lambda: "slow" in shown)
    workers.linger("picture", 5.0)
    workers.close()


def test_work_asks_before_the_window_goes_on(qtbot: Any) -> None:
    """However much the window does, and no later than is said where nobody can be asked."""
    workers, order, go = Workers(), list[str](), threading.Event()

    def asks(report: Any) -> str:
        order.append("asks")
        report(0.0)
        go.wait(10.0)
        return "answered"

    workers.in_step("picture", asks, order.append, at_rest=lambda: None)
    began = time.perf_counter()
    workers.linger("picture", 5.0, until_asked=True)
    order.append("goes on")
    assert time.perf_counter() - began < 4.0
    # Of what goes on and of nothing it is not waited for.
    workers.linger("picture", 5.0, until_asked=True)
    workers.linger("nothing", 5.0, until_asked=True)
    assert time.perf_counter() - began < 4.0
    go.set()
    qtbot.waitUntil(lambda: not workers.busy())
    assert order == ["asks", "goes on", "answered"]
    go.clear()
    workers.in_step("picture", lambda _: go.wait(10.0), order.append, at_rest=lambda: None)
    began = time.perf_counter()
    workers.linger("picture", 0.01, until_asked=True)
    assert 0.01 <= time.perf_counter() - began < 4.0 and workers.busy("picture")
    go.set()
    qtbot.waitUntil(lambda: not workers.busy())

    def refused(_: object) -> None:
        raise BadInput("no such film")

    # What ends before it asks is not waited for.
    workers.in_step("picture", refused, order.append, at_rest=lambda: None)
    began = time.perf_counter()
    workers.linger("picture", 5.0, until_asked=True)
    assert time.perf_counter() - began < 4.0
    workers.close()


@pytest.mark.long
def test_the_picture_follows_edits_that_come_faster_than_it_is_made(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Coarse ones do; the fine one and the findings are of the last edit."""
    asked = results.ask

    def slow(work: Any, *args: Any, **more: Any) -> Any:
        if work is preview_of:
            time.sleep(0.05)
        return asked(work, *args, **more)

    monkeypatch.setattr(results, "ask", slow)
    shown: list[bool] = []
    window.results.preview_changed.connect(lambda: shown.append(window.results.preview.coarse))
    for number in range(30):
        by = 0.01 * number
        window.session.edit("Bleed", lambda j, by=by: j.replace(bleed=by), joins=True)
        waited = QEventLoop()
        QTimer.singleShot(10, waited.quit)
        waited.exec()
    assert len(shown) >= 3 and all(shown)
    settle(window)
    preview, findings = window.results.preview, window.results.findings
    assert preview is not None and not preview.coarse and preview.job.bleed == 0.29
    assert findings is not None and findings.exact and findings.job == window.session.job


@pytest.mark.long
def test_a_picture_may_come_before_its_edit_is_drawn(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch, qtbot: Any
) -> None:
    """It is shown, with what it is of; all else follows once the window has drawn."""
    window.visit(Station.LAYERS)
    settle(window)
    once, late = window.workers.once_drawn, list[Any]()

    def later(key: str, act: Any) -> None:
        if key == "results":
            late.append(act)
        else:
            once(key, act)

    for by, plates_change in ((0.4, True), (0.4, False)):
        before = window.results.preview
        with monkeypatch.context() as patch:
            patch.setattr(window.workers, "once_drawn", later)
            window.session.edit("Edit", lambda j, by=by: j.replace(bleed=by, name=j.name + "+"))
            if plates_change:
                qtbot.waitUntil(lambda: window.results.preview.job.bleed == 0.4)
                qtbot.waitUntil(lambda: not window.results.preview.coarse)
        findings = window.results.findings
        assert findings is not None and findings.job is not window.session.job
        late.pop()()
        settle(window)
        preview, findings, job = window.results.preview, window.results.findings, window.session.job
        assert preview is not None and preview.job.name == job.name and not preview.coarse
        assert findings is not None and findings.exact and findings.job is job
        same = [one is other for one, other in zip(preview.plates, before.plates, strict=True)]
        assert all(same) is not plates_change


def test_tasks_that_share_the_processors_work_on_one_part_each() -> None:
    """Alone a task takes both; what comes out and its order are the same."""

    def at_once(tasks: int) -> int:
        now, most = list[int](), list[int]()

        def part(number: int) -> int:
            now.append(number)
            most.append(len(now))
            time.sleep(0.01)
            now.remove(number)
            return number

        with ExitStack() as others:
            for _ in range(tasks):
                others.enter_context(task())
            assert list(in_order(part, range(12))) == list(range(12))
        return max(most)

    assert (at_once(1), at_once(2), at_once(1)) == (WORKERS, 1, WORKERS)


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
    monkeypatch.setattr(results, "ask", lambda work, *of, **more: work(*of, **more))
    monkeypatch.setattr(found, "estimate", lambda *_, **__: broken(None))
    window.session.edit("Job name", lambda job: job.replace(name="Other"))
    settle(window), window.check_bar.say("")
    findings = window.results.findings
    assert findings is not None and findings.job.name == "Other"
    assert [c.code for c in findings.checks][-1] == "estimate-failed" and len(findings.checks) > 1


def test_memory_is_looked_through_in_pauses_and_not_between_edits(
    window: MainWindow, qtbot: Any
) -> None:
    """To look through all that stands takes longer than a window may wait."""

    class Ring:
        def __init__(self) -> None:
            self.itself = self

    before = gc.get_threshold()
    tidying = Tidying(window.session, window.workers)
    try:
        ring = Ring()
        gone = weakref.ref(ring)
        gc.collect()
        # What has outlasted a look at everything is found by none at what is new.
        del ring
        gc.collect(1)
        assert gone() is not None and gc.get_threshold()[2] > 100
        tidying.pause.setInterval(1)
        going_on = threading.Event()
        window.workers.start("long", lambda _: going_on.wait(10), lambda _: None)
        window.session.edit("Name", lambda job: job.replace(name="Lids, again"))
        with qtbot.waitSignal(tidying.pause.timeout):
            pass
        assert gone() is not None, "work goes on"
        going_on.set()
        qtbot.waitUntil(lambda: gone() is None)
    finally:
        gc.set_threshold(*before)
        gc.unfreeze()
