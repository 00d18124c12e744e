"""Whatever hands do at the window: nothing breaks, and all is saved, undone and done again."""

from __future__ import annotations

import random
import sys
import traceback
from pathlib import Path
from types import TracebackType

import pytest
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QColorDialog,
    QDialog,
    QFileDialog,
    QInputDialog,
    QMenu,
    QMessageBox,
)

from anyhands import Hands, files
from farbe.desk.app import settle
from farbe.desk.window import MainWindow
from farbe.files.jobfile import open_job, save_job
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.samples.jobs import SAMPLES

ACTS = 40


@pytest.fixture
def dialogs(monkeypatch: pytest.MonkeyPatch) -> None:
    """What asks for files gets none; what asks for words, figures and colours gets some."""
    for name, answer in (
        ("getOpenFileName", ("", "")), ("getSaveFileName", ("", "")),
        ("getOpenFileNames", ([], "")), ("getExistingDirectory", ""),
    ):  # fmt: skip
        monkeypatch.setattr(QFileDialog, name, lambda *_, answer=answer, **__: answer)
    for name, taken in (
        ("getText", ("Some name", True)), ("getItem", ("", False)), ("getInt", (3, True)),
        ("getDouble", (3.0, True)),
    ):  # fmt: skip
        monkeypatch.setattr(QInputDialog, name, lambda *_, taken=taken, **__: taken)
    monkeypatch.setattr(QColorDialog, "getColor", lambda *_, **__: QColor("#336699"))
    monkeypatch.setattr(QMenu, "exec", lambda *_: None)
    monkeypatch.setattr(QMessageBox, "about", lambda *_: None)


@pytest.fixture
def faults(window: MainWindow, monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """What nobody foresaw, here and in workers."""
    found: list[str] = []

    def told(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        found.append("".join(traceback.format_exception(kind, error, trace)))

    monkeypatch.setattr(sys, "excepthook", told)
    window.workers.broke.connect(lambda mishap: found.append(mishap.report))
    return found


@pytest.mark.long
@pytest.mark.parametrize("name", ["jar-lids", "apron-gang", "mead-bottles", "shop-window"])
def test_any_hands(
    name: str, window: MainWindow, tmp_path: Path, request: pytest.FixtureRequest,
    monkeypatch: pytest.MonkeyPatch, dialogs: None, faults: list[str],
) -> None:  # fmt: skip
    """With ``--hypothesis-profile=anew`` they do what they never did."""
    anew = request.config.getoption("hypothesis_profile") == "anew"
    seed = random.randrange(10**6) if anew else 3
    store, session = window.session.store, window.session
    session.take(SAMPLES[name](store), saved=True), settle(window)
    first = session.first
    hands = Hands(window, seed, files(tmp_path / "dropped"))
    monkeypatch.setattr(QDialog, "exec", lambda dialog: hands.execute(dialog))

    def told() -> str:
        return "\n".join([f"seed {seed}", *hands.did, *faults])

    for _ in range(ACTS):
        hands.do()
        assert not faults, told()
    try:
        settle(window)
    except BadInput as error:
        pytest.fail(f"{error}\n{told()}")
    assert not faults, told()
    last = session.first
    assert first is not None and last is not None, told()
    is_whole(window, first, last, tmp_path)
    assert not faults, told()


def is_whole(window: MainWindow, first: Faced, last: Faced, folder: Path) -> None:
    """What came of it is saved and opened, undone to the beginning, and done again."""
    session, path = window.session, folder / "any.farbe"
    save_job(last.job, session.store, path)
    assert open_job(path, session.store) == last.job
    steps = 0
    while session.undo_name:
        session.undo()
        steps += 1
    assert session.first == first
    settle(window)
    # Nothing that follows of itself is another thing than it was.
    assert session.first == first
    for _ in range(steps):
        session.redo()
    assert session.first == last
    settle(window)
    assert session.first == last
