"""From a list to a plan: what is new is planned, what is begun stays."""

from __future__ import annotations

import uuid
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from farbe.atomic import make_folder
from farbe.files.jobfile import SUFFIX, save_job
from farbe.files.store import ArtStore
from farbe.model.base import BadInput
from farbe.orders.columns import matched, remember
from farbe.orders.filling import (
    Filled,
    Item,
    Refilled,
    Wanted,
    boards,
    content_of,
    films,
    free_items,
    in_print_order,
    refilled,
)
from farbe.orders.listfile import ListOfRows, mended, read_list
from farbe.orders.making import fits_on_film, likely_on_film, made_load, refuse_too_large
from farbe.orders.order import Order, Refused
from farbe.orders.plan import Load, LoadState, Plan, read_plan, write_plan
from farbe.orders.product import Product, Products, products_for
from farbe.orders.rows import ArtShelf, Sorted, orders_of
from farbe.orders.states import with_states
from farbe.orders.tracking import refreshed
from farbe.owners import owner_of
from farbe.queue.states import State
from farbe.queue.store import Queue
from farbe.render.raster import Report, unwatched
from farbe.said import say

#: Of a plan's folder: its job files, and the lock of whoever changes it.
JOBS, LOCK = "loads", ".plan.lock"
#: Letters of products' names in that of a load.
_NAME = 56


@contextmanager
def alone(folder: Path) -> Iterator[None]:
    """Work on a plan that nobody else changes meanwhile.

    Parameters
    ----------
    folder : of the plan, made if it is not there

    Raises
    ------
    BadInput
        If another Farbe changes it, or it cannot be made.
    """
    make_folder(folder)
    owner = owner_of(folder / LOCK)
    if owner is None:
        raise BadInput(
            say("The plan in {folder} is being changed by another Farbe; wait until it is done.",
                folder=folder)
        )  # fmt: skip
    try:
        yield
    finally:
        owner.let_go()


@dataclass(frozen=True)
class Workshop:
    """What a plan is made with.

    Attributes
    ----------
    folder : of the plan
    products : by name
    shelf : of the orders' artwork
    store : of files
    queue : that has loads of it; None if there is none
    """

    folder: Path
    products: Products
    shelf: ArtShelf
    store: ArtStore
    queue: Queue | None = None


def workshop_for(
    list_path: Path, folder: Path, store: ArtStore, queue: Queue | None = None
) -> Workshop:
    """What the plan of a list is made with.

    Parameters
    ----------
    list_path : of the list
    folder : of the plan
    store : into which files go
    queue : that has loads of it
    """
    shelf = ArtShelf(list_path.parent, store)
    return Workshop(folder, products_for(list_path, store), shelf, store, queue)


def plan_list(
    list_path: Path,
    folder: Path,
    store: ArtStore,
    *,
    queue: Queue | None = None,
    stated: Mapping[str, str] | None = None,
    until: date | None = None,
    report: Report = unwatched,
) -> Plan:
    """Read a list and plan what it asks for; the plan is written with its job files.

    Orders are known by their numbers: those of earlier lists stay, changed ones are planned anew
    as far as they were not begun, and the same list again changes nothing.

    Parameters
    ----------
    list_path : of the list
    folder : of the plan
    store : into which files go
    queue : that has loads of the plan
    stated : the list's columns by the fields that they say; remembered for lists like it
    until : orders that are due later wait
    report : told the share that is done, 0 to 1

    Raises
    ------
    BadInput
        If the list cannot be read as a whole, or the plan cannot be written.
    Cancelled
        If ``report`` does; the plan is as it was.
    """
    rows = read_list(list_path)
    columns = matched(rows.columns, stated, name=rows.name)
    if stated:
        remember(rows.columns, stated)
    with alone(folder):
        old = read_plan(folder) or Plan(key=uuid.uuid4().hex[:12])
        shop = workshop_for(list_path, folder, store, queue)
        if old.mends:
            fixed = {mend.was: dict(mend.fields) for mend in old.mends}
            rows = ListOfRows(rows.name, rows.columns, mended(rows.rows, fixed))
        found = orders_of(rows, columns, shop.products, shop.shelf,
                          lambda done: report(0.6 * done))  # fmt: skip
        if queue is not None:
            old = refreshed(old, queue)
        plan = old.replace(source=str(list_path.absolute()))
        return replanned(with_orders(plan, found), shop, until=until,
                         report=lambda done: report(0.6 + 0.4 * done))  # fmt: skip


def with_orders(plan: Plan, found: Sorted) -> Plan:
    """A plan with the orders of a list, as far as they may change.

    Parameters
    ----------
    plan : as it was
    found : what the list asks for
    """
    old = {order.number: order for order in plan.orders}
    fixed = Counter(number for load in plan.loads if load.stays for number, _ in load.pieces)
    refused, remarks = list(found.refused), list(found.remarks)
    orders: dict[str, Order] = dict(old)
    for new in found.orders:
        before = old.get(new.number)
        if before is None:
            orders[new.number] = new
            continue
        orders[new.number] = _changed(before, new, fixed[new.number], refused, remarks)
    here = dict.fromkeys(order.number for order in found.orders)
    others = [number for number in orders if number not in here]
    return plan.replace(
        orders=tuple(orders[number] for number in (*others, *here)),
        refused=tuple(refused), remarks=tuple(remarks),
    )  # fmt: skip


def _changed(
    before: Order, new: Order, begun: int, refused: list[Refused], remarks: list[str]
) -> Order:
    """An order as the list has it now, if it is not too late for that."""
    kept = new.replace(packed=before.packed, state=before.state)
    if not begun:
        return kept
    if new.cancelled and not before.cancelled:
        remarks.append(
            say("Order {number} is cancelled, and {count} of its pieces are begun or locked.",
                number=new.number, count=begun)
        )  # fmt: skip
        return kept
    if new.asked != before.asked and before.quantity <= begun:
        refused.append(
            Refused(line=new.line, order=new.number, reason=say(
                "Order {number} is begun or locked as it was; give what is new a number of its "
                "own.", number=new.number,
            ))
        )  # fmt: skip
        return before
    if new.asked != before.asked:
        remarks.append(
            say("Order {number} changed, and {count} of its pieces are begun or locked as it was.",
                number=new.number, count=begun)
        )  # fmt: skip
    if new.quantity < begun:
        remarks.append(
            say("Order {number} asks for {quantity} pieces, and {count} are begun or locked.",
                number=new.number, quantity=new.quantity, count=begun)
        )  # fmt: skip
    return kept


def replanned(
    plan: Plan, shop: Workshop, *, until: date | None = None, report: Report = unwatched
) -> Plan:
    """Plan all that is not begun, as far as something of it changed; write the plan.

    Parameters
    ----------
    plan : whose folder is this one's alone
    shop : what it is made with
    until : orders that are due later wait
    report : told the share that is done, 0 to 1

    Raises
    ------
    BadInput
        If a job file or the plan cannot be written.
    Cancelled
        If ``report`` does; the plan is as it was.
    """
    plan, found = _without_begun(plan, shop, until)
    made, plan = _made(plan, found.wanted, found.kept, shop, report)
    due = {order.number: order.by for order in plan.orders}
    by = {
        load.number: min(due.get(place.order, date.max) for place in load.places)
        for load in (*found.kept, *made)
    }
    plan = plan.with_loads(in_print_order(found.kept, made, by))
    plan = with_states(plan)
    write_plan(plan, shop.folder)
    for load in found.gone:
        (shop.folder / load.job).unlink(missing_ok=True)
    return plan


def _without_begun(plan: Plan, shop: Workshop, until: date | None) -> tuple[Plan, Refilled]:
    """What is to be planned anew; loads that go are out of the queue, or prove to be begun."""
    while True:
        if shop.queue is not None:
            plan = refreshed(plan, shop.queue)
        products, plan = _of_orders(plan, shop.products)
        taken = frozenset(key for load in plan.loads if load.stays for key in load.pieces)
        orders = [order for order in plan.orders if order.number in products]
        by_name = {order.product: products[order.number] for order in orders}
        plan, free = _that_fit(plan, free_items(orders, by_name, taken, until=until), shop)
        found = refilled(plan.loads, free, lambda items: _filled(items, shop))
        if not _withdrawn(found.gone, shop.queue):
            return plan, found


def _withdrawn(loads: Sequence[Load], queue: Queue | None) -> bool:
    """Take loads out of the queue; whether one of them was begun meanwhile."""
    for load in loads:
        if load.state is not LoadState.QUEUED or queue is None:
            continue
        try:
            queue.withdraw(load.entry)
        except BadInput:
            if (
                queue.entry(load.entry).state in (State.WAITING, State.HELD)
                and not queue.entry(load.entry).step
            ):
                raise
            return True
    return False


def _of_orders(plan: Plan, products: Products) -> tuple[dict[str, Product], Plan]:
    """The product of each order; orders whose product is kept no more are told."""
    found: dict[str, Product] = {}
    remarks = list(plan.remarks)
    for order in plan.orders:
        product = products.named(order.product)
        if product is not None:
            found[order.number] = product
        elif not order.cancelled and not order.packed:
            remarks.append(
                say("Order {number} waits: there is no product {product} any more.",
                    number=order.number, product=order.product)
            )  # fmt: skip
    return found, plan.replace(remarks=tuple(dict.fromkeys(remarks)))


def _that_fit(
    plan: Plan, free: dict[str, list[Item]], shop: Workshop
) -> tuple[Plan, dict[str, list[Item]]]:
    """Without orders whose artwork is gone, or larger than a sheet of their film."""
    refused = list(plan.refused)
    told: dict[str, str] = {}
    left: dict[str, list[Item]] = {}
    known: dict[tuple[object, ...], str] = {}
    for group, items in free.items():
        for item in items:
            order = item.order
            looks = (group, *order.asked)
            if looks not in known:
                known[looks] = _why_not(item, shop)
            if known[looks]:
                told[order.number] = known[looks]
            else:
                left.setdefault(group, []).append(item)
    lines = {order.number: order.line for order in plan.orders}
    refused += [
        Refused(line=lines[number], order=number, reason=reason) for number, reason in told.items()
    ]
    orders = tuple(order for order in plan.orders if order.number not in told or _begun(
        plan, order.number
    ))  # fmt: skip
    return plan.replace(orders=orders, refused=tuple(dict.fromkeys(refused))), left


def _begun(plan: Plan, number: str) -> bool:
    return any(place.order == number for load in plan.loads if load.stays for place in load.places)


def _why_not(item: Item, shop: Workshop) -> str:
    try:
        if item.order.artwork:
            found = shop.shelf.artwork(item.order.artwork)
            if found.digest != item.order.digest:
                return say("The file {name} is another one by now; read the list again.",
                           name=found.file_name)  # fmt: skip
        if item.product.on_film:
            refuse_too_large(item, shop.shelf)
    except BadInput as error:
        return str(error)
    return ""


def _filled(items: Sequence[Item], shop: Workshop) -> list[Filled]:
    """Pieces of a group on boards or sheets."""
    product = items[0].product
    if not product.on_film:
        return boards(items, len(product.pockets))
    return films(items, fits_on_film(shop.shelf), likely_on_film(items, shop.shelf))


def _made(
    plan: Plan,
    wanted: Sequence[Wanted],
    kept: Sequence[Load],
    shop: Workshop,
    report: Report,
) -> tuple[list[Load], Plan]:
    """Loads with their job files; numbers that were given are not given again."""
    serials: dict[str, int] = {}
    for load in kept:
        last = load.serial + len(load.places)
        serials[load.group] = max(serials.get(load.group, 0), last)
    made = []
    number = plan.next_load
    make_folder(shop.folder / JOBS)
    for at, one in enumerate(wanted):
        report(at / len(wanted))
        products = tuple(dict.fromkeys(item.order.product for item in one.items))
        name = f"{', '.join(products)[:_NAME]}, load {number}"
        serial = serials.get(one.group, 0)
        serials[one.group] = serial + len(one.items)
        filled = made_load(one.items, name, serial, shop.shelf, shop.store)
        path = f"{JOBS}/load-{number:04d}{SUFFIX}"
        save_job(filled.job, shop.store, shop.folder / path)
        made.append(
            Load(number=number, name=name, products=products, group=one.group, content=one.content,
                 job=path, places=filled.places, serial=serial)
        )  # fmt: skip
        number += 1
    report(1.0)
    return made, plan.replace(next_load=number)


def split_load(plan: Plan, number: int, count: int, shop: Workshop) -> Plan:
    """A plan with a load in two: its first pieces, and the others behind it; both are locked.

    Parameters
    ----------
    plan : whose folder is this one's alone
    number : of the load
    count : of pieces that stay in the first
    shop : what it is made with

    Raises
    ------
    BadInput
        If it is begun, or has not so many pieces.
    """
    load = plan.load(number)
    refuse_begun(load)
    if not 0 < count < len(load.places):
        raise BadInput(
            say("Load {number} has {pieces} pieces; split off fewer.",
                number=number, pieces=len(load.places))
        )  # fmt: skip
    products, _ = _of_orders(plan, shop.products)
    orders = {order.number: order for order in plan.orders}
    lacking = next((p.order for p in load.places if p.order not in products), None)
    if lacking is not None:
        raise BadInput(say("The product of order {number} is kept no more.", number=lacking))
    items = [Item(orders[p.order], p.piece, products[p.order]) for p in load.places]
    parts = (tuple(items[:count]), tuple(items[count:]))
    wanted = [Wanted(part, load.group, content_of(part)) for part in parts]
    others = [one for one in plan.loads if one.number != number]
    made, plan = _made(plan, wanted, others, shop, unwatched)
    locked = [one.replace(locked=True, held=load.held) for one in made]
    at = next(i for i, one in enumerate(plan.loads) if one.number == number)
    plan = plan.with_loads((*plan.loads[:at], *locked, *plan.loads[at + 1 :]))
    plan = with_states(plan)
    write_plan(plan, shop.folder)
    (shop.folder / load.job).unlink(missing_ok=True)
    return plan


def refuse_begun(load: Load) -> None:
    """Refuse to change a load that is no longer only planned.

    Parameters
    ----------
    load : that is to be changed

    Raises
    ------
    BadInput
        If it is in the queue, or further.
    """
    if load.state is not LoadState.PLANNED:
        raise BadInput(
            say("Load {number} is {state}; take it out of the queue first.",
                number=load.number, state=load.state.words)
        )  # fmt: skip


def moved_load(plan: Plan, number: int, before: int | None) -> Plan:
    """A plan with a load printed before another one, or last.

    Parameters
    ----------
    plan : that has both
    number : of the load
    before : number of the other; None is last
    """
    load = plan.load(number)
    if before is not None:
        plan.load(before)
    rest = [one for one in plan.loads if one.number != number]
    at = next((i for i, one in enumerate(rest) if one.number == before), len(rest))
    if before == number:
        return plan
    return plan.with_loads((*rest[:at], load, *rest[at:]))
