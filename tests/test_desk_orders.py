"""Orders through the window: lists, columns, mended rows, loads, queue, sheets."""

from __future__ import annotations

import threading
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QFileDialog, QInputDialog

from conftest import listed
from farbe.desk.app import settle
from farbe.desk.orders import plandesk
from farbe.desk.orders.columnsdialog import ColumnsDialog
from farbe.desk.orders.window import OrdersWindow, open_orders
from farbe.desk.window import MainWindow
from farbe.folders import queue_folder
from farbe.orders.order import OrderState
from farbe.orders.plan import LoadState, Plan, read_plan, write_plan
from farbe.queue.store import Queue
from hands import grabbed


def plan_of(window: MainWindow) -> Plan:
    assert window.plan.plan is not None
    return window.plan.plan


def press(window: MainWindow, orders: OrdersWindow, words: str) -> None:
    """Press a button over the loads, by what it is called when nothing is chosen."""
    assert orders.buttons[words].isEnabled(), words
    orders.buttons[words].click()
    settle(window)


@pytest.fixture
def orders(window: MainWindow, shop: Path) -> OrdersWindow:
    made = open_orders(window.plan, window.workers, window)
    rows = ["T-1,Token,red.png,,12,2026-12-02", "T-2,Token,blue.png,,5,2026-12-01",
            "T-3,Tokne,sky.png,,2,", "N-1,Token with a name,,Ada,3,2026-12-01"]  # fmt: skip
    window.plan.take_list(listed(shop, *rows))
    settle(window)
    return made


def test_a_list_is_planned_and_its_rows_are_mended(
    window: MainWindow, orders: OrdersWindow, shop: Path
) -> None:
    assert [len(load.places) for load in plan_of(window).loads] == [12, 3, 5]
    assert "3 orders on 3 loads. One row cannot be made." in orders.told.text()
    # Choosing a load shows its orders, and whose piece lies where.
    orders.load_table.selectRow(0)
    settle(window)
    assert [order.number for order in orders.orders.keys] == ["T-1", "T-2"]
    before = grabbed(orders.picture)
    orders.order_table.selectRow(1)
    assert (grabbed(orders.picture) != before).any()
    orders.load_table.clearSelection()
    orders.search.setText("ada")
    assert [order.number for order in orders.orders.keys] == ["N-1"]
    orders.search.clear()
    # The row that cannot be made is mended in place, and stays mended when the list comes again.
    orders.show_refused(True)
    assert "no product Tokne" in orders.refused.rows[0][1] and not orders.mend.isEnabled()
    index = orders.refused.index(0, orders._heads.index("product"))
    assert not orders.refused.flags(orders.refused.index(0, 1)) & Qt.ItemFlag.ItemIsEditable
    assert orders.refused.setData(index, "token", Qt.ItemDataRole.EditRole)
    orders.mend.click()
    settle(window)
    assert not plan_of(window).refused and plan_of(window).order("T-3").product == "Token"
    assert [len(load.places) for load in plan_of(window).loads] == [12, 3, 7]
    known = plan_of(window)
    orders.again.click()
    settle(window)
    assert plan_of(window) == known
    # Another window finds the plan that was looked at last.
    assert window.plan._preferences.plan_folder == window.plan.folder
    orders.close()


def test_another_plan_is_looked_at_while_one_is_changed(
    window: MainWindow, orders: OrdersWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What comes of the change is the first one's; its loads are not shown as the other's."""
    may, first = threading.Event(), window.plan.folder
    assert first is not None
    monkeypatch.setattr(plandesk, "write_plan", lambda *of: (may.wait(60), write_plan(*of)))
    orders.load_table.selectRow(0)
    orders.buttons["Lock"].click()
    seen: list[int] = []
    window.plan.seen.connect(lambda number, _: seen.append(number))
    window.plan.see(plan_of(window).loads[0])
    window.plan.open_folder(tmp_path / "another")
    assert window.plan.plan is None and not orders.loads.rows
    may.set(), settle(window)
    assert window.plan.plan is None and not seen
    changed = read_plan(first)
    assert changed is not None and changed.loads[0].locked
    window.plan.open_folder(first), settle(window)
    assert plan_of(window) == changed
    orders.close()


def test_loads_are_worked_on(
    window: MainWindow, orders: OrdersWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(QInputDialog, "getInt", lambda *_: (2, True))
    orders.load_table.selectRow(2)
    press(window, orders, "Split…")
    assert [(len(load.places), load.locked) for load in plan_of(window).loads] == [
        (12, False), (3, False), (2, True), (3, True),
    ]  # fmt: skip
    orders.load_table.clearSelection()
    orders.load_table.selectRow(1)
    press(window, orders, "↑")
    assert [len(load.places) for load in plan_of(window).loads][:2] == [3, 12]
    assert orders.chosen_loads()[0].number == plan_of(window).loads[0].number
    press(window, orders, "Lock")
    press(window, orders, "Hold")
    first = plan_of(window).loads[0]
    assert first.locked and first.held and orders.buttons["Lock"].text() == "Unlock"
    orders.load_table.clearSelection()
    press(window, orders, "Into the queue")
    queue = Queue(queue_folder())
    assert len(queue.entries()) == 3 and "3 loads are in the queue" in orders.told.text()
    assert [load.state for load in plan_of(window).loads][:2] == [
        LoadState.PLANNED, LoadState.QUEUED,
    ]  # fmt: skip
    orders.load_table.selectRow(1)
    press(window, orders, "Take back")
    assert len(queue.entries()) == 2
    # What is printed, and failed, is seen when the window is looked at.
    entry = plan_of(window).loads[2].entry
    queue.begin(entry)
    queue.finish(entry)
    queue.said_printed(entry, (1,))
    window.plan.look()
    settle(window)
    assert "1 failed" in orders.loads.rows[2][4]
    press(window, orders, "Plan anew")
    assert [len(load.places) for load in plan_of(window).loads if load.state is LoadState.PLANNED
            and not load.locked] == [12, 1]  # fmt: skip
    # An order that is printed whole is packed; others are not.
    orders.load_table.clearSelection()
    numbers = [order.number for order in orders.orders.keys]
    orders.order_table.selectRow(numbers.index("T-1"))
    orders.packed.click()
    settle(window)
    assert "pack what is printed" in orders.told.text()
    assert plan_of(window).order("T-1").state is not OrderState.PACKED
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "o.csv"), ""))
    orders.export.click()
    settle(window)
    assert (tmp_path / "o.csv").read_text().startswith("order,product")
    orders.close()


@pytest.mark.long
def test_loads_are_prepared_and_have_paper(window: MainWindow, orders: OrdersWindow) -> None:
    orders.load_table.selectRow(1)
    press(window, orders, "Prepare")
    folder = window.plan.folder
    assert folder is not None
    assert len(list((folder / "hand-offs").glob("*/ticket.json"))) == 1
    assert "One load is prepared." in orders.told.text()
    orders.labels.setChecked(True)
    press(window, orders, "Sheets")
    assert len(list((folder / "sheets").glob("*.pdf"))) == 3
    press(window, orders, "Open its job")
    job = window.session.job
    assert job is not None and len(job.job.picks) == 3
    orders.close()


def test_columns_are_asked_for_and_products_kept(
    window: MainWindow, shop: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = open_orders(window.plan, window.workers, window)
    assert "No loads yet" in made.load_table.empty and made.picture.accessibleName()
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Shop token", True))
    window.files.keep_product()
    settle(window)
    asked: list[dict[str, str]] = []

    def answer(dialog: Any) -> int:
        assert not dialog.go.isEnabled()
        dialog.boxes["order"].setCurrentIndex(1)
        dialog.boxes["product"].setCurrentIndex(1)
        assert not dialog.go.isEnabled()
        dialog.boxes["product"].setCurrentIndex(2)
        assert dialog.go.isEnabled()
        asked.append(dialog.stated)
        return int(QDialog.DialogCode.Accepted)

    monkeypatch.setattr(ColumnsDialog, "exec", answer)
    path = listed(shop, "1,shop token", "2,Token", head="Ref,What")
    window.plan.take_list(path)
    settle(window)
    assert len(asked) == 1 and len(plan_of(window).orders) == 2
    # The second time nobody is asked.
    made.again.click()
    settle(window)
    assert len(asked) == 1
    made.close()
