"""Orders and how far they are, for other programs."""

from __future__ import annotations

import csv
import io
import json
from pathlib import Path

from farbe.atomic import whole_file
from farbe.model.base import BadInput
from farbe.orders.plan import Plan
from farbe.said import say

COLUMNS = ("order", "product", "quantity", "due", "state", "loads", "note")


def order_rows(plan: Plan) -> list[dict[str, object]]:
    """What is told of each order.

    Parameters
    ----------
    plan : whose loads are as they are now

    Returns
    -------
    By :data:`COLUMNS`; ``loads`` are the numbers of those that have pieces of it.
    """
    loads: dict[str, list[int]] = {}
    for load in plan.loads:
        for number in dict.fromkeys(place.order for place in load.places):
            loads.setdefault(number, []).append(load.number)
    return [
        {
            "order": order.number, "product": order.product, "quantity": order.quantity,
            "due": order.due.isoformat() if order.due is not None else "",
            "state": order.state.value, "loads": loads.get(order.number, []), "note": order.note,
        }
        for order in plan.orders
    ]  # fmt: skip


def export_orders(plan: Plan, path: Path) -> None:
    """Write all orders with their states, as CSV or JSON.

    Parameters
    ----------
    plan : whose loads are as they are now
    path : ends with ``.csv`` or ``.json``

    Raises
    ------
    BadInput
        If it ends otherwise, or cannot be written.
    """
    rows = order_rows(plan)
    if path.suffix.lower() == ".json":
        told = json.dumps(rows, indent=1, ensure_ascii=False)
    elif path.suffix.lower() == ".csv":
        out = io.StringIO()
        writer = csv.DictWriter(out, COLUMNS, lineterminator="\n")
        writer.writeheader()
        for row in rows:
            numbers = row["loads"]
            joined = " ".join(map(str, numbers)) if isinstance(numbers, list) else ""
            writer.writerow(row | {"loads": joined})
        told = out.getvalue()
    else:
        raise BadInput(say("{output} should end in .csv or .json.", output=path.name))
    with whole_file(path) as file:
        file.write(told.encode("utf-8"))
