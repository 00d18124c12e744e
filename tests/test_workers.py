"""Results of work come back on the window's thread, when it has its turn."""

from __future__ import annotations

from concurrent.futures import Future
from typing import Any

import pytest

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
