"""Orders from a list: planned, printed on the test press, and planned anew where that failed."""

from __future__ import annotations

import csv
import json
import os
import random
import signal
import threading
import time
from collections import Counter
from collections.abc import Iterator, Mapping
from datetime import date
from hashlib import sha256
from itertools import cycle, pairwise
from pathlib import Path
from unittest.mock import Mock

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from typer.testing import CliRunner

from conftest import HEAD, PAINTS, listed, small_job
from farbe.cli import app
from farbe.files.jobfile import open_job, read_job
from farbe.files.picklist import pick_rows
from farbe.files.store import ArtStore
from farbe.layout.again import only_again
from farbe.layout.faced import Faced
from farbe.layout.laid import laid
from farbe.layout.rolls import sheets
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.model.roll import Roll
from farbe.model.text import Table, TextBox
from farbe.orders.export import export_orders
from farbe.orders.filling import Item, boards, content_of, films, free_items, refilled
from farbe.orders.listfile import read_list
from farbe.orders.order import Order, OrderState
from farbe.orders.plan import Load, LoadState, Placed, Plan, read_plan
from farbe.orders.planning import (
    moved_load,
    plan_list,
    replanned,
    split_load,
    workshop_for,
)
from farbe.orders.preparing import prepare_loads
from farbe.orders.product import FOLDER, Product, keep_product
from farbe.orders.sheets import write_load_sheets, write_packing_list
from farbe.orders.tracking import put_in_queue, refreshed, with_packed, withdrawn
from farbe.preparing import tasks
from farbe.preparing.hands import Lost, in_order
from farbe.press.client import Press
from farbe.press.machine import SCALE
from farbe.queue.store import Queue
from farbe.queue.work import print_again, print_entry
from farbe.render.footprints import ganged
from farbe.render.raster import Cancelled
from farbe.samples.orders import COUNT, write_morning


def pieces(plan: Plan) -> Counter[tuple[str, int]]:
    """How often each piece is on a load, but for what failed there."""
    return Counter(key for load in plan.loads for key in load.pieces)


def asked(plan: Plan) -> Counter[tuple[str, int]]:
    return Counter(
        (order.number, piece)
        for order in plan.orders
        if not order.cancelled
        for piece in range(1, order.quantity + 1)
    )


def plates_of(plan: Plan, folder: Path) -> list[bytes]:
    return [(folder / load.job).read_bytes() for load in plan.loads]


def test_a_list_becomes_loads_that_print_it(shop: Path, tmp_path: Path, store: ArtStore) -> None:
    rows = [f"T-{at},Token,{name}.png,,{3 + at},2026-12-0{6 - at}"
            for at, name in enumerate(PAINTS)]  # fmt: skip
    rows += [f"N-{at},token  WITH a name,,Ada {at},1," for at in range(4)]
    rows += [f"F-{at},Transfer,{name}.png,,5," for at, name in enumerate(PAINTS)]
    out = tmp_path / "out"
    plan = plan_list(listed(shop, *rows), out, store)
    assert not plan.refused
    assert pieces(plan) == asked(plan)
    told = json.loads((out / "plan.json").read_text())
    for load, said in zip(plan.loads, told["loads"], strict=True):
        job = Faced(open_job(out / said["job"], store))
        on_film = "Transfer" in load.products
        word = "place" if on_film else "pocket"
        assert all(set(place) == {"order", "piece", word} for place in said["places"])
        # What lies in the pocket is what the order of the pick list wants.
        orders = {order.number: order for order in plan.orders}
        by_number = {piece.shown: piece for piece in laid(job)}
        assert len(by_number) == len(said["places"])
        for row, place in zip(pick_rows(job), said["places"], strict=True):
            assert (row.number, row.order) == (place[word], place["order"])
            what, order = by_number[place[word]].what, orders[place["order"]]
            assert what is not None
            if order.artwork:
                assert what.artwork is not None and what.artwork.digest == order.digest
            assert [box.text for box in what.texts] == [words for _, words in order.texts]
    tokens = [load for load in plan.loads if load.products == ("Token",)]
    assert len(tokens) == -(-sum(3 + at for at in range(6)) // 12)
    # What is due first is on the first load.
    first = {place.order for place in tokens[0].places}
    assert {"T-5", "T-4"} >= first
    before = plates_of(plan, out)
    again = plan_list(shop / "list.csv", out, store)
    assert again == plan and plates_of(again, out) == before


@pytest.mark.long
@pytest.mark.parametrize(
    ("row", "told"),
    [
        ("X-1,Token,gone.png,,1,", "gone.png is not there"),
        ("X-1,Lantern,red.png,,1,", "no product Lantern; there are: Token, Token with"),
        ("X-1,Token,red.png,,0,", "asks for no pieces"),
        ("X-1,Token,red.png,,1000000000,", "20000 are the most"),
        ("X-1,Token,red.png,,1.000,", "no number of pieces"),
        ("X-1,Token,red.png,,two,", "no number of pieces"),
        ("X-1,Token,red.png,,1,03/04/2026", "may be two days"),
        ("X-1,Token,red.png,,1,31.2.2026", "no day of the calendar"),
        ("X-1,Token,red.png,,1,soon", "no day; write it as"),
        ("A-1,Token,red.png,,1,", "is on line 2 already"),
        (",Token,red.png,,1,", "no order number"),
        ("X-1,Token with a name,red.png,,1,", "needs its text text"),
        ("X-1,Token,list.csv,,1,", "list.csv"),
        ("X-1,Token,red.png", "3 fields where the first line names 6"),
    ],
)
def test_rows_that_cannot_be_made_are_told_and_others_go_on(
    shop: Path, tmp_path: Path, store: ArtStore, row: str, told: str
) -> None:
    path = listed(shop, "A-1,Token,red.png,,2,", row, "A-2,Token,blue.png,,1,4.12.2026")
    plan = plan_list(path, tmp_path / "out", store)
    (refused,) = plan.refused
    assert refused.line == 3 and told in refused.reason
    assert pieces(plan) == {("A-1", 1): 1, ("A-1", 2): 1, ("A-2", 1): 1}
    result = CliRunner().invoke(app, ["orders", str(path), "-o", str(tmp_path / "cli")])
    assert result.exit_code == 1 and "Line 3" in result.stderr


def test_lists_are_read_however_they_are_written(shop: Path, store: ArtStore) -> None:
    rows = ["A-1;Token;red.png;4;24/12/2026", "A-2;Token;blue.png;1;01/12/2026",
            "Ä-3;Token;own.png;;2026-12-24"]  # fmt: skip
    head = "Bestellnummer;Produkt;Datei;Menge;Termin"
    plans = []
    for encoding in ("utf-8", "utf-8-sig", "utf-16", "cp1252"):
        path = shop / f"{encoding}.csv"
        path.write_text("\r\n".join((head, *rows)), encoding=encoding)
        plans.append(plan_list(path, shop / f"out {encoding}", store).orders)
    orders = [
        {"order": 1, "product": "Token", "artwork": "red.png", "quantity": 2.0, "due": None},
        {"order": "2", "product": "Token with a name", "texts": {"text": "Bo"}},
    ]
    (shop / "list.json").write_text(json.dumps({"orders": orders}))
    made = plan_list(shop / "list.json", shop / "out json", store)
    assert [(one.number, one.quantity, one.texts) for one in made.orders] == [
        ("1", 2, ()), ("2", 1, (("text", "Bo"),)),
    ]  # fmt: skip
    assert all(found == plans[0] for found in plans)
    # One of the days can only begin with the day, and all of a column are written in one way.
    assert [order.due for order in plans[0]] == [
        date(2026, 12, 24), date(2026, 12, 1), date(2026, 12, 24),
    ]  # fmt: skip
    for name, words, told in (
        ("a.csv", "", "is empty"), ("b.json", "{", "no JSON"), ("c.json", '{"a": 1}', "no list"),
        ("d.csv", HEAD, "no orders"), ("e.csv", 'order,product\n"1,2', "quote is opened"),
        ("f.csv", "a,b\n1,2", "No column of f.csv is named order"),
        ("g.csv", "order,Order,product\n1,2,3", "two columns named"),
    ):  # fmt: skip
        (shop / name).write_text(words)
        with pytest.raises(BadInput, match=told):
            plan_list(shop / name, shop / "none", store)
    with pytest.raises(BadInput, match="cannot be read"):
        read_list(shop / "missing.csv")


def test_columns_are_matched_once(shop: Path, store: ArtStore) -> None:
    path = listed(shop, "1,Token,red.png", head="Ref,What,Pic")
    stated = {"order": "Ref", "product": "What", "artwork": "Pic"}
    first = plan_list(path, shop / "one", store, stated=stated)
    assert plan_list(path, shop / "two", store).orders == first.orders
    with pytest.raises(BadInput, match="no column Nix"):
        plan_list(path, shop / "two", store, stated={"order": "Nix"})


def test_changes_reach_what_is_not_begun_and_nothing_else(
    shop: Path, tmp_path: Path, store: ArtStore
) -> None:
    out, queue = tmp_path / "out", Queue(tmp_path / "queue")

    def planned(**change: str) -> Plan:
        rows = {f"T-{at:02d}": f"T-{at:02d},Token,{name}.png,,4,"
                for at, name in enumerate([*PAINTS] * 2)} | {
            "N-1": "N-1,Token with a name,,Ada,2,", "N-2": "N-2,Token with a name,,Bo,2,",
        }  # fmt: skip
        changed = {name.replace("_", "-"): row for name, row in change.items()}
        path = listed(shop, *(rows | changed).values(), head=HEAD + ",cancelled")
        path.write_text(
            "\n".join(line + "," * (6 - line.count(",")) for line in path.read_text().splitlines())
        )
        return plan_list(path, out, store, queue=queue)

    plan = planned()
    tokens, names = plan.loads[:4], plan.loads[4:]
    assert [load.products for load in plan.loads] == [("Token",)] * 4 + [("Token with a name",)]
    # A name that was mistyped: its load alone is made anew.
    changed = planned(N_1="N-1,Token with a name,,Eda,2,")
    assert changed.loads[:4] == tokens and changed.loads[4].number not in {
        load.number for load in names
    }
    # The first load is in the queue, and goes out of it when one of its orders changes.
    plan, refused = put_in_queue(changed, queue, out, store, [tokens[0].number])
    assert not refused and plan.loads[0].state is LoadState.QUEUED
    assert plan.loads[0].pieces == tokens[0].pieces
    plan = planned(T_00="T-00,Token,pink.png,,4,")
    assert queue.entries() == []
    assert {load.state for load in plan.loads} == {LoadState.PLANNED}
    # The second load is locked, and prints what it had; a cancelled order leaves the others.
    locked = next(load for load in plan.loads if ("T-03", 1) in load.pieces).replace(locked=True)
    plan = replanned(plan.with_load(locked), workshop_for(shop / "x", out, store))
    plan = planned(T_00="T-00,Token,pink.png,,4,", T_03="T-03,Token,sky.png,,4,",
                   T_11="T-11,Token,sky.png,,4,,yes")  # fmt: skip
    assert plan.load(locked.number) == locked
    assert [one.order for one in plan.refused] == ["T-03"]
    assert plan.order("T-03").artwork.endswith("yellow.png")
    assert plan.order("T-11").state is OrderState.CANCELLED
    assert pieces(plan) == asked(plan)


def test_loads_are_moved_split_held_and_taken_back(
    shop: Path, tmp_path: Path, store: ArtStore
) -> None:
    out, queue = tmp_path / "out", Queue(tmp_path / "queue")
    path = listed(shop, "A,Token,red.png,,20,", "B,Transfer,blue.png,,3,")
    plan = plan_list(path, out, store)
    one, two, three = (load.number for load in plan.loads)
    plan = moved_load(plan, three, one)
    assert [load.number for load in plan.loads] == [three, one, two]
    plan = split_load(plan, one, 5, workshop_for(path, out, store))
    assert [len(load.places) for load in plan.loads] == [3, 5, 7, 8]
    assert all(load.locked for load in plan.loads[1:3]) and pieces(plan) == asked(plan)
    assert not (out / "loads" / f"load-{one:04d}.farbe").exists()
    assert plan_list(path, out, store).loads == plan.loads
    plan = plan.with_load(plan.loads[0].replace(held=True))
    plan, _ = put_in_queue(plan, queue, out, store)
    assert [load.state for load in plan.loads] == [LoadState.PLANNED] + [LoadState.QUEUED] * 3
    # Killed before the plan was written, it finds its entries again and adds none twice.
    forgotten = read_plan(out)
    assert forgotten is not None
    cleared = forgotten.with_loads(
        load.replace(state=LoadState.PLANNED, token="", entry=0) for load in forgotten.loads
    )
    put_in_queue(cleared, queue, out, store)
    assert len(queue.entries()) == 3
    plan = withdrawn(plan, queue, [plan.loads[1].number])
    assert plan.loads[1].state is LoadState.PLANNED
    # An entry that somebody removed may be printed: it is planned again by those who know alone.
    gone = plan.loads[3]
    queue.remove(gone.entry)
    plan = refreshed(plan, queue)
    assert plan.load(gone.number).state is LoadState.HANDED
    plan = withdrawn(plan, queue, [gone.number])
    assert plan.load(gone.number).state is LoadState.PLANNED
    with pytest.raises(BadInput, match="take it out of the queue first"):
        split_load(plan, plan.loads[2].number, 1, workshop_for(path, out, store))


def colour_at(picture: np.ndarray, x: float, y: float, high: float) -> str:
    """Which of the paints is nearest in the middle of a pocket."""
    row, column = round((high - y) * SCALE), round(x * SCALE)
    found = picture[row - 3 : row + 4, column - 3 : column + 4].reshape(-1, 3).mean(axis=0)

    def off(colour: str) -> float:
        wanted = [int(colour[at : at + 2], 16) for at in (1, 3, 5)]
        return float(np.abs(found - wanted).sum())

    return min(PAINTS, key=lambda name: off(PAINTS[name]))


def test_every_order_lies_in_the_pocket_of_the_pick_list_and_failed_ones_come_again(
    shop: Path, tmp_path: Path, store: ArtStore
) -> None:
    chance = random.Random(5)
    rows = [f"P-{at},Token,{chance.choice([*PAINTS])}.png,,{chance.choice((1, 2, 3))},"
            for at in range(9)]  # fmt: skip
    out, queue = tmp_path / "out", Queue(tmp_path / "queue")
    path = listed(shop, *rows)
    plan = plan_list(path, out, store)
    plan, refused = put_in_queue(plan, queue, out, store)
    assert not refused
    seen: Counter[str] = Counter()

    def printed(press: Press, load: Load) -> None:
        print_entry(queue, load.entry, press, store)
        press.ask(do="picture", path=str(tmp_path / "bed.png"))
        bed = np.asarray(Image.open(tmp_path / "bed.png").convert("RGB"))
        job = Faced(read_job(out / load.job))
        at = {piece.shown: piece for piece in laid(job)}
        for place in load.places:
            art = Path(plan.order(place.order).artwork).stem
            assert colour_at(bed, at[place.number].x, at[place.number].y, 60) == art
            seen[place.order] += 1

    with Press() as press:
        for load in plan.loads:
            printed(press, load)
        first = plan.loads[0]
        lost = [place for place in first.places if place.number in (2, 7)]
        queue.said_printed(first.entry, (2, 7))
        for place in lost:
            seen[place.order] -= 1
        plan = replanned(refreshed(plan, queue), workshop_for(path, out, store, queue))
        assert plan.order(lost[0].order).state is OrderState.PLANNED
        assert plan.loads[0].lost == {2, 7}
        (more,) = [load for load in plan.loads if load.state is LoadState.PLANNED]
        assert more.pieces == {(place.order, place.piece) for place in lost}
        # The same list again changes nothing of what is printed.
        assert plan_list(path, out, store, queue=queue).loads == plan.loads
        plan, _ = put_in_queue(plan, queue, out, store)
        printed(press, plan.load(more.number))
    plan = refreshed(plan, queue)
    assert seen == Counter(number for number, _ in asked(plan).elements())
    assert {order.state for order in plan.orders} == {OrderState.PRINTED}
    plan = with_packed(plan, ["P-0"])
    export_orders(plan, tmp_path / "orders.csv")
    export_orders(plan, tmp_path / "orders.json")
    told = list(csv.DictReader((tmp_path / "orders.csv").open()))
    assert told[0]["order"] == "P-0" and told[0]["state"] == "packed"
    assert [one["state"] for one in json.loads((tmp_path / "orders.json").read_text())] == [
        one["state"] for one in told
    ]


def test_what_the_queue_prints_again_is_not_planned_again(
    shop: Path, tmp_path: Path, store: ArtStore
) -> None:
    out, queue = tmp_path / "out", Queue(tmp_path / "queue")
    path = listed(shop, "A,Token,red.png,,8,", "B,Transfer,blue.png,,6,", "C,Transfer,red.png,,6,")
    plan, _ = put_in_queue(plan_list(path, out, store), queue, out, store)
    for load in plan.loads:
        queue.begin(load.entry)
        queue.finish(load.entry)
        queue.said_printed(load.entry, (2, 3))
        again = print_again(queue, load.entry, store, (2,))
        job = read_job(queue.job_path(queue.entry(again).token))
        wanted = {place.number: place.order for place in load.places}
        assert [pick.order for pick in pick_rows(Faced(job))] == [wanted[2]]
    plan = refreshed(plan, queue)
    assert [(load.failed, load.again, set(load.lost)) for load in plan.loads] == [
        ((2, 3), (2,), {3})
    ] * len(plan.loads)
    assert pieces(plan)[plan.loads[0].places[2].order, plan.loads[0].places[2].piece] == 0


def test_words_go_with_their_artwork_from_sheet_to_sheet(
    job: Faced, store: ArtStore, shop: Path
) -> None:
    arts = tuple(store.add_artwork(shop / f"{name}.png").replace(quantity=1) for name in PAINTS)
    film = job.replace(
        artworks=arts, texts=(TextBox(text="{word}", width=8, height=2),),
        medium=Roll(width=30, side=2, lead=5, trail=5, gap=2, longest=40),
    )  # fmt: skip
    made = ganged(film, store)
    assert made.roll is not None
    names = {art.key: art.file_name for art in arts}
    words = tuple((names[place.artwork],) for place in made.roll.places)
    made = made.replace(table=Table(file_name="w", columns=("word",), rows=words))

    def fits(of: Job) -> int:
        found = [piece.what for piece in laid(Faced(of))]
        assert all(what and what.artwork for what in found)
        for what in found:
            assert what is not None and what.artwork is not None
            assert [box.text for box in what.texts] == [what.artwork.file_name]
        return len(found)

    assert len(sheets(made.job)) > 1
    assert sum(map(fits, sheets(made.job))) == len(PAINTS)
    assert fits(only_again(made.job, (2, 5))) == 2


class _Plain(Product):
    """A product of so many pockets, without a job behind it."""

    def __init__(self, name: str, count: int) -> None:
        object.__setattr__(self, "name", name)
        object.__setattr__(self, "__dict__", {
            "name": name, "on_film": False, "own_artwork": True, "group": name, "columns": (),
            "pockets": tuple(range(1, count + 1)),
        })  # fmt: skip


LISTS = st.lists(
    st.tuples(st.sampled_from(("a", "b", "c")), st.integers(1, 30),
              st.sampled_from((None, date(2026, 12, 1), date(2026, 12, 2)))), max_size=20,
)  # fmt: skip


@pytest.mark.long
@settings(max_examples=20)
@given(LISTS, LISTS, st.data())
def test_each_piece_is_once_on_few_boards_and_what_stays_stays(
    rows: list[tuple[str, int, date | None]],
    later: list[tuple[str, int, date | None]],
    data: st.DataObject,
) -> None:
    products = {name: _Plain(name, count) for name, count in (("a", 1), ("b", 7), ("c", 21))}

    def orders(of: list[tuple[str, int, date | None]]) -> list[Order]:
        return [Order(number=str(at), product=name, quantity=many, due=due)
                for at, (name, many, due) in enumerate(of)]  # fmt: skip

    def filled(items: list[Item]) -> list[tuple[Item, ...]]:
        return boards(items, len(items[0].product.pockets))

    def loads_of(loads: list[Load], of: list[Order]) -> list[Load]:
        taken = frozenset(key for load in loads if load.stays for key in load.pieces)
        found = refilled(loads, free_items(of, products, taken), filled)
        number = max((load.number for load in loads), default=0)
        return [*found.kept, *(
            Load(number=number + at, name="x", products=("x",), group=one.group, job="x",
                 content=one.content, places=tuple(
                     Placed(order=item.order.number, piece=item.piece, pocket=pocket)
                     for pocket, item in enumerate(one.items, start=1)))
            for at, one in enumerate(found.wanted, start=1)
        )]  # fmt: skip

    def keys(loads: list[Load]) -> Counter[tuple[str, int]]:
        return Counter(key for load in loads for key in load.pieces)

    first = orders(rows)
    made = loads_of([], first)
    wanted = Counter((o.number, n) for o in first for n in range(1, o.quantity + 1))
    assert keys(made) == wanted
    for name, product in products.items():
        count = sum(order.quantity for order in first if order.product == name)
        own = sum(load.group == name for load in made)
        assert own == -(-count // len(product.pockets))
    assert loads_of(made, first) == made
    # Some loads are locked, some printed with pieces that failed; then the list is another one.
    changed = []
    for load in made:
        fate = data.draw(st.sampled_from(("open", "locked", "printed")))
        lost = data.draw(st.sets(st.sampled_from([p.number for p in load.places])))
        changed.append({
            "open": load, "locked": load.replace(locked=True),
            "printed": load.replace(state=LoadState.PRINTED, failed=tuple(sorted(lost))),
        }[fate])  # fmt: skip
    second = orders(later)
    again = loads_of(changed, second)
    stay = [load for load in changed if load.stays]
    assert [load for load in again if load.stays] == stay
    begun = keys(stay)
    assert keys(again) == begun | Counter(
        (o.number, n) for o in second for n in range(1, o.quantity + 1)
    )


def test_sheets_of_film_take_as_much_as_they_hold() -> None:
    product = _Plain("film", 1)
    for sizes in ([3, 4, 5, 2, 6, 1, 7, 2, 2, 9], [10] * 5, [1] * 40, [10, 1, 1, 1]):
        items = [Item(Order(number=str(n), product="film", quantity=s), 1, product)
                 for n, s in enumerate(sizes)]  # fmt: skip

        def fits(some: object) -> bool:
            return sum(item.order.quantity for item in some) <= 10  # type: ignore[attr-defined]

        for guess in (1, 3, 50):
            found = films(items, fits, guess)
            assert [item for sheet in found for item in sheet] == items
            assert all(fits(sheet) for sheet in found)
            for sheet, after in pairwise(found):
                assert not fits((*sheet, after[0]))
    assert content_of(items) == content_of(items[::-1])


@pytest.mark.long
def test_paper_for_the_bench(shop: Path, tmp_path: Path, store: ArtStore) -> None:
    import pypdfium2

    out = tmp_path / "out"
    path = listed(shop, "Ł-7,Token with a name,red.png,Żofia,2,", "B-2,Token,blue.png,,30,")
    plan = plan_list(path, out, store)
    sheet, labels = write_load_sheets(plan.loads[0], out, store, labels=True)

    def words(of: Path) -> str:
        with pypdfium2.PdfDocument(of) as document:
            return "\n".join(page.get_textpage().get_text_range() for page in document)

    assert "Pick list" in words(sheet)
    for load in plan.loads[1:]:
        told = words(write_load_sheets(load, out, store)[0])
        assert told.count("B-2") == len(load.places)
    # What the plain fonts lack is drawn, and scanners read the code beside it.
    zxing = pytest.importorskip("zxingcpp")
    with pypdfium2.PdfDocument(labels) as document:
        picture = document[0].render(scale=4).to_numpy()
    assert {code.text for code in zxing.read_barcodes(picture)} == {"Ł-7"}
    assert write_packing_list(plan, tmp_path / "packing.pdf") == 2
    assert "30 × Token" in words(tmp_path / "packing.pdf")


def sums(folder: Path) -> Mapping[str, str]:
    return {
        path.relative_to(folder).as_posix(): sha256(path.read_bytes()).hexdigest()
        for path in sorted(folder.rglob("*"))
        if path.is_file()
    }


@pytest.fixture
def prepared(
    shop: Path, tmp_path: Path, store: ArtStore, monkeypatch: pytest.MonkeyPatch
) -> tuple[Plan, Path, Mapping[str, str]]:
    """A plan, and the hand-offs that this process alone makes of it."""
    monkeypatch.setenv("SOURCE_DATE_EPOCH", "1700000000")
    rows = [f"P-{at},Token with a name,{name}.png,Ada {at},3," for at, name in enumerate(PAINTS)]
    rows += [f"F-{at},Transfer,{name}.png,,3," for at, name in enumerate(PAINTS)]
    out = tmp_path / "out"
    plan = plan_list(listed(shop, *rows), out, store)
    made = list(prepare_loads(plan, out, store))
    assert [one.refused for one in made] == [""] * len(plan.loads)
    alone = sums(out / "hand-offs")
    (out / "hand-offs").rename(tmp_path / "alone")
    return plan, out, alone


@pytest.mark.long
def test_processes_make_the_same_bytes(
    prepared: tuple[Plan, Path, Mapping[str, str]], tmp_path: Path
) -> None:
    plan, out, alone = prepared
    made = list(prepare_loads(plan, out, ArtStore(tmp_path / "other"), processes=2))
    assert [one.here for one in made] == [0] * len(made)
    assert sums(out / "hand-offs") == alone


@pytest.fixture(params=(1, 2))
def cluster(request: pytest.FixtureRequest) -> Iterator[object]:
    distributed = pytest.importorskip("distributed")
    with distributed.LocalCluster(
        n_workers=request.param, threads_per_worker=1, processes=True, dashboard_address=None
    ) as made:
        yield made


@pytest.mark.long
def test_a_cluster_makes_the_same_bytes_though_a_worker_is_killed(
    prepared: tuple[Plan, Path, Mapping[str, str]], tmp_path: Path, cluster: object
) -> None:
    from farbe.survey import prints

    plan, out, alone = prepared
    # What this process saw already is not looked at again; forget it, so that workers look.
    monkey = pytest.MonkeyPatch()
    monkey.setattr(prints, "_KEPT", prints.Kept(6000))

    def kill() -> None:
        time.sleep(2.0)
        workers = cluster.workers.values()  # type: ignore[attr-defined]
        os.kill(next(iter(workers)).pid, signal.SIGKILL)

    thread = threading.Thread(target=kill)
    thread.start()
    address = cluster.scheduler_address  # type: ignore[attr-defined]
    try:
        made = list(prepare_loads(plan, out, ArtStore(tmp_path / "o"), scheduler=address))
        assert sums(out / "hand-offs") == alone
        assert all(one.here == 0 for one in made)
        # Another Farbe's bytes would be others: that is said, and nothing of it is taken.
        monkey.setattr(tasks, "made_by", lambda: "farbe of yesterday")
        monkey.setattr("farbe.preparing.job.made_by", lambda: "farbe of yesterday")
        (out / "hand-offs").rename(tmp_path / "first")
        found = list(prepare_loads(plan, out, ArtStore(tmp_path / "p"), scheduler=address))
        assert all("another Farbe" in one.refused for one in found)
    finally:
        monkey.undo()
        thread.join()


@pytest.mark.long
def test_a_scheduler_that_is_not_there_is_said(
    shop: Path, tmp_path: Path, store: ArtStore, monkeypatch: pytest.MonkeyPatch
) -> None:
    pytest.importorskip("distributed")
    monkeypatch.setattr("farbe.preparing.cluster.ANSWER", "1s")
    plan = plan_list(listed(shop, "A,Token,red.png,,1,"), tmp_path / "out", store)
    with pytest.raises(BadInput, match="does not answer"):
        list(prepare_loads(plan, tmp_path / "out", store, scheduler="tcp://127.0.0.1:9"))


@pytest.mark.long
def test_the_sample_morning_is_planned_by_the_command(tmp_path: Path, store: ArtStore) -> None:
    write_morning(tmp_path / "shop", store)
    out, run = tmp_path / "out", CliRunner()
    result = run.invoke(app, ["orders", str(tmp_path / "shop" / "morning.csv"), "-o", str(out)])
    assert result.exit_code == 0, result.stderr
    plan = json.loads((out / "plan.json").read_text())
    wanted = Counter[str]()
    for row in csv.DictReader((tmp_path / "shop" / "morning.csv").open()):
        wanted[row["order"]] += int(row["quantity"])
    found = Counter(place["order"] for load in plan["loads"] for place in load["places"])
    assert found == wanted and len(wanted) == COUNT
    for load in plan["loads"]:
        numbers = [place.get("pocket", place.get("place")) for place in load["places"]]
        assert len(set(numbers)) == len(numbers)
        assert len(read_job(out / load["job"]).picks) == len(numbers)
    for words in (["lock", "1"], ["hold", "2"], ["move", "3", "--before", "1"], ["split", "4", "9"],
                  ["list"], ["list", "--orders"], ["refresh"]):  # fmt: skip
        done = run.invoke(app, ["loads", words[0], str(out), *words[1:]])
        assert done.exit_code == 0, done.stderr
    lost = run.invoke(app, ["loads", "list", str(tmp_path)])
    assert isinstance(lost.exception, BadInput)


def test_a_list_that_changes_while_it_is_read_is_read_again(
    shop: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = listed(shop, "1,Token,,,1,")

    def slowly(of: Path) -> str:
        text = of.read_text()
        of.write_text(text + "2,Token,,,1,\n")
        return text

    monkeypatch.setattr("farbe.orders.listfile.file_text", slowly)
    with pytest.raises(BadInput, match="was changed while it was read"):
        read_list(path)


class Unreliable:
    """Workers that never answer, are gone, or lack what they are not sent, by turns."""

    ahead = 3

    def __init__(self, *answers: object) -> None:
        self._answers, self.brought = cycle(answers), 0

    def give(self, task: tasks.Task) -> Unreliable:
        return self

    def result(self, seconds: float) -> object:
        found = next(self._answers)
        if isinstance(found, Exception):
            raise found
        return found

    def drop(self) -> None: ...

    def close(self) -> None: ...

    def bring(self, pending: object, lacks: tasks.Lacks) -> None:
        self.brought += 1


@pytest.mark.parametrize(
    "answers", [(TimeoutError(),), (Lost(), TimeoutError()), (tasks.Lacks(("0" * 64,)),)]
)
def test_what_no_worker_does_is_done_here(
    job: Faced, store: ArtStore, monkeypatch: pytest.MonkeyPatch, answers: tuple[object, ...]
) -> None:
    monkeypatch.setattr("farbe.preparing.hands.SLOW", 0.05)
    told = store.add_bytes(job.job.model_dump_json().encode())
    named = tasks.made_by(), told, store.digests(job.job)
    part = tasks.StripsTask(*named, run=1, file=0, page=0, ranges=((0, 64), (128, 160)))
    here: list[None] = []
    hands = Unreliable(*answers)
    (made,) = in_order(hands, [part], store, lambda: None, lambda: here.append(None))
    (alone,) = (tasks.do_task(part, str(store.folder)),)
    assert len(here) == 1 and len(made) == 2
    assert [[strip.parts for strip in some] for some in made] == [
        [strip.parts for strip in some] for some in alone
    ]
    assert bool(hands.brought) is isinstance(answers[0], tasks.Lacks)
    # Who waits may end it.
    with pytest.raises(Cancelled):
        list(in_order(hands, [part], store, Mock(side_effect=Cancelled)))


def test_what_is_due_later_waits_and_what_is_cancelled_leaves_the_plan(
    shop: Path, tmp_path: Path, store: ArtStore
) -> None:
    path = listed(shop, "1,Token,red.png,,3,2026-12-01", "2,Token,red.png,,2,2026-12-09",
                  "3,Token,sky.png,,2,")  # fmt: skip
    out = tmp_path / "out"
    result = CliRunner().invoke(app, ["orders", str(path), "-o", str(out), "--due", "2026-12-02"])
    assert result.exit_code == 0, result.stderr
    plan = read_plan(out)
    assert plan is not None and {number for number, _ in pieces(plan)} == {"1"}
    assert [order.state for order in plan.orders] == [
        OrderState.PLANNED, OrderState.WAITING, OrderState.WAITING,
    ]  # fmt: skip
    before = sums(out)

    def cancelled(done: float) -> None:
        if done > 0.7:
            raise Cancelled

    with pytest.raises(Cancelled):
        plan_list(path, out, store, report=cancelled)
    assert (out / "plan.json").read_bytes() and read_plan(out) == plan
    assert {name: digest for name, digest in sums(out).items() if name in before} == before
    assert pieces(plan_list(path, out, store)) == asked(plan)


def test_files_that_change_and_words_without_artwork_are_told(
    shop: Path, tmp_path: Path, store: ArtStore
) -> None:
    text = TextBox(text="{text}", width=8, height=2)
    bare = small_job(store, shop / "own.png").replace(
        name="Words", artworks=(), texts=(text,), medium=Roll(width=78, longest=120)
    )
    keep_product(bare.job, store, shop / FOLDER)
    out = tmp_path / "out"
    path = listed(shop, "1,Words,,Ada,1,", "2,Token,red.png,,20,")
    plan = plan_list(path, out, store)
    assert [row.order for row in plan.refused] == ["1"] and "no artwork" in plan.refused[0].reason
    # Another picture under the name that was planned is never printed for it unseen.
    Image.new("RGB", (60, 60), "#123456").save(shop / "red.png", dpi=(127, 127))
    locked = plan.with_load(plan.loads[0].replace(locked=True))
    for _ in range(2):
        again = replanned(locked, workshop_for(path, out, store))
        assert sum("another one by now" in row.reason for row in again.refused) == 1
        assert [load.number for load in again.loads] == [plan.loads[0].number]
