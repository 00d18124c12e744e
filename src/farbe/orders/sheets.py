"""Paper for the bench: run sheets with pick lists, labels, and the packing list by order."""

from __future__ import annotations

import io
from collections.abc import Mapping
from pathlib import Path

from reportlab.pdfgen.canvas import Canvas

from farbe.atomic import make_folder, whole_file
from farbe.checks.check import Facts
from farbe.checks.rules import run_checks
from farbe.checks.weight import Weight
from farbe.estimate.estimate import estimate
from farbe.files.jobfile import open_job
from farbe.files.paper import Paper
from farbe.files.picklist import (
    BOLD,
    MM,
    draw_code,
    draw_words,
    small_pictures,
    write_labels,
)
from farbe.files.runsheet import write_run_sheet
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.orders.order import Order
from farbe.orders.plan import Load, Plan
from farbe.render.raster import Report, unwatched
from farbe.said import say

#: Of a plan's folder.
FOLDER, PACKING = "sheets", "packing-list.pdf"
_HIGH = 13 * MM
_LEFT = 16 * MM


def write_load_sheets(
    load: Load,
    folder: Path,
    store: ArtStore,
    *,
    labels: bool = False,
    paper: Paper = Paper.A4,
    report: Report = unwatched,
) -> tuple[Path, ...]:
    """Write the run sheet of a load, with its pick list, and labels for its pieces.

    Parameters
    ----------
    load : of the plan in the folder
    folder : of the plan
    store : into which its files go
    labels : one for each piece is wanted
    paper : on which they are printed
    report : told the share that is done, 0 to 1

    Returns
    -------
    The files.

    Raises
    ------
    BadInput
        If the job file is gone, or they cannot be written.
    """
    job = Faced(open_job(folder / load.job, store))
    pictures = small_pictures(job, store, lambda done: report(0.4 * done))
    found = run_checks(Facts(job, store))
    told = tuple((c.weight.words, c.text) for c in found if c.weight is not Weight.NOTE)
    make_folder(folder / FOLDER)
    stem = Path(load.job).stem
    paths = [folder / FOLDER / f"{stem}.pdf"]
    write_run_sheet(job, estimate(job, store), told, paths[0], paper, pictures=pictures)
    if labels:
        paths.append(folder / FOLDER / f"{stem}-labels.pdf")
        write_labels(job, pictures, paths[1], paper)
    report(1.0)
    return tuple(paths)


def places_words(plan: Plan) -> Mapping[str, str]:
    """In which loads and places the pieces of each order lie, by the orders' numbers.

    Parameters
    ----------
    plan : that has them
    """
    found: dict[str, list[str]] = {}
    for load in plan.loads:
        lost, numbers = load.lost, dict[str, list[int]]()
        for place in load.places:
            if place.number not in lost:
                numbers.setdefault(place.order, []).append(place.number)
        for order, own in numbers.items():
            told = ", ".join(str(number) for number in sorted(own))
            found.setdefault(order, []).append(
                say("load {load}: {places}", load=load.number, places=told)
            )
    return {order: "; ".join(words) for order, words in found.items()}


def write_packing_list(plan: Plan, path: Path, paper: Paper = Paper.A4) -> int:
    """Write which pieces go into which parcel: order by order, due ones first.

    Parameters
    ----------
    plan : whose orders are packed
    path : of the new PDF
    paper : on which it is printed

    Returns
    -------
    How many orders it has.

    Raises
    ------
    BadInput
        If it cannot be written.
    """
    out = io.BytesIO()
    page = Canvas(out, pagesize=paper.points, invariant=True)
    page.setTitle(say("Packing list"))
    wide, top = paper.points[0] - 2 * _LEFT, paper.points[1] - 20 * MM
    draw_words(page, _LEFT, top, say("Packing list"), 16, font=BOLD)
    y, where = top - _HIGH, places_words(plan)
    listed = sorted((one for one in plan.orders if not one.cancelled), key=lambda one: one.by)
    for order in listed:
        if y < 18 * MM:
            page.showPage()
            y = top
        _packed_row(page, y, wide, order, where.get(order.number, ""))
        y -= _HIGH
    page.save()
    with whole_file(path) as file:
        file.write(out.getvalue())
    return len(listed)


def _packed_row(page: Canvas, y: float, wide: float, order: Order, where: str) -> None:
    page.rect(_LEFT, y + 2 * MM, 3.2 * MM, 3.2 * MM)
    if order.packed:
        page.drawString(_LEFT + 0.7 * MM, y + 2.7 * MM, "x")
    left = _LEFT + 7 * MM
    draw_words(page, left, y + 3.4 * MM, order.number, 11, font=BOLD, wide=32 * MM)
    due = order.due.isoformat() if order.due is not None else say("no day")
    draw_words(page, left, y - 1 * MM, due, 8)
    texts = "; ".join(words for _, words in order.texts if words)
    what = say("{count} × {product}", count=order.quantity, product=order.product)
    side = _HIGH - 2 * MM
    room = wide - 7 * MM - 36 * MM - side - 2 * MM
    draw_words(page, left + 36 * MM, y + 3.4 * MM, f"{what}; {texts}" if texts else what, 9.5,
               wide=room)  # fmt: skip
    below = "; ".join(words for words in (where, order.note) if words)
    draw_words(page, left + 36 * MM, y - 1 * MM, below, 8, wide=room)
    draw_code(page, _LEFT + wide - side, y - 2.5 * MM, side, order.number)
