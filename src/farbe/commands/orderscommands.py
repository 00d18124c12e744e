"""``farbe orders LIST`` and ``farbe loads ...``: from a list of orders to filled boards."""

import json
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from farbe.folders import queue_folder
from farbe.model.base import BadInput
from farbe.said import say, say_count

if TYPE_CHECKING:
    from farbe.files.store import ArtStore
    from farbe.orders.plan import Plan
    from farbe.queue.store import Queue

#: Exit status of a list with rows that cannot be made.
SOME_REFUSED = 1
app = typer.Typer(no_args_is_help=True, help=say("The loads of a list of orders."))
Folder = Annotated[Path, typer.Argument(metavar="DIR", help=say("The folder of the plan."))]
Loads = Annotated[list[int], typer.Argument(metavar="LOAD...", help=say("As the list says."))]
Orders = Annotated[list[str], typer.Argument(metavar="ORDER...", help=say("Their numbers."))]


@contextmanager
def _store() -> Iterator["ArtStore"]:
    from farbe.art.limited import HELPERS
    from farbe.files.store import ArtStore

    HELPERS.warm_up()
    with tempfile.TemporaryDirectory(prefix="farbe-") as scratch:
        yield ArtStore(Path(scratch))


def _queue() -> "Queue":
    from farbe.queue.store import Queue

    return Queue(queue_folder())


def _stated(columns: list[str]) -> dict[str, str]:
    stated = {}
    for words in columns:
        field, sign, column = words.partition("=")
        if not sign:
            raise BadInput(say("“{words}” should be FIELD=COLUMN.", words=words))
        stated[field.strip()] = column.strip()
    return stated


def orders(
    listed: Annotated[
        Path, typer.Argument(metavar="LIST.csv|LIST.json", help=say("What customers want."))
    ],
    output: Annotated[
        Path, typer.Option("-o", "--output", metavar="DIR", help=say("The folder of the plan."))
    ],
    due: Annotated[
        str | None,
        typer.Option(metavar="DAY", help=say("What is due later waits; as 2026-12-31.")),
    ] = None,
    column: Annotated[
        list[str] | None,
        typer.Option(metavar="FIELD=COLUMN", help=say("Which column says what; remembered.")),
    ] = None,
    queue: Annotated[
        bool, typer.Option("--queue", help=say("Put the loads into the queue."))
    ] = False,
    prepare: Annotated[
        bool, typer.Option("--prepare", help=say("Write the hand-off of each load."))
    ] = False,
    scheduler: Annotated[
        str,
        typer.Option(metavar="ADDRESS", help=say("Prepare on the Dask cluster of a scheduler.")),
    ] = "",
    workers: Annotated[
        int | None,
        typer.Option(
            metavar="N",
            min=1,
            max=256,
            help=say("Prepare in so many processes; one a processor, if not given."),
        ),
    ] = None,
    as_json: Annotated[bool, typer.Option("--json", help=say("As JSON."))] = False,
) -> None:
    """Plan a list of orders: filled boards and films, due orders first."""
    from farbe.orders.dates import day_of
    from farbe.orders.planning import alone, plan_list
    from farbe.orders.tracking import put_in_queue

    with _store() as store:
        waiting = _queue()
        plan = plan_list(
            listed, output, store, queue=waiting, stated=_stated(column or []),
            until=day_of(due or "", None),
        )  # fmt: skip
        if queue:
            with alone(output):
                plan, refused = put_in_queue(plan, waiting, output, store)
            for reason in refused:
                typer.echo(f"farbe: {reason}", err=True)
        _tell(plan, as_json)
        if prepare or scheduler or workers:
            _prepare(plan, output, store, scheduler, workers)
    if plan.refused:
        raise typer.Exit(SOME_REFUSED)


def _tell(plan: "Plan", as_json: bool) -> None:
    if as_json:
        typer.echo(json.dumps(_told(plan), indent=1, ensure_ascii=False))
        return
    for refused in plan.refused:
        order = say("order {order}: ", order=refused.order) if refused.order else ""
        typer.echo(
            say("Line {line}, {order}{reason}", line=refused.line, order=order,
                reason=refused.reason), err=True,
        )  # fmt: skip
    for remark in plan.remarks:
        typer.echo(remark, err=True)
    for load in plan.loads:
        typer.echo(_load_line(plan, load.number))
    asked = [order for order in plan.orders if not order.cancelled]
    typer.echo(
        say("{orders} on {loads}.",
            orders=say_count(len(asked), "{count} order", "{count} orders"),
            loads=say_count(len(plan.loads), "{count} load", "{count} loads"))
    )  # fmt: skip


def _load_line(plan: "Plan", number: int) -> str:
    load = plan.load(number)
    marks = say(", locked") * load.locked + say(", held") * load.held
    return say(
        "{number}  {name}, {pieces}, {state}{marks}",
        number=f"{load.number:4d}",
        name=load.name,
        pieces=say_count(len(load.places), "{count} piece", "{count} pieces"),
        state=load.state.words,
        marks=marks,
    )


def _told(plan: "Plan") -> dict[str, object]:
    from farbe.orders.export import order_rows

    return {
        "orders": order_rows(plan),
        "loads": [load.model_dump(mode="json", exclude_none=True) for load in plan.loads],
        "refused": [one.model_dump(mode="json") for one in plan.refused],
        "remarks": list(plan.remarks),
    }


def _prepare(
    plan: "Plan", folder: Path, store: "ArtStore", scheduler: str, processes: int | None
) -> None:
    from farbe.orders.preparing import here_words, prepare_loads

    def report(done: float) -> None:
        if sys.stderr.isatty():
            print(f"{int(done * 100):3d} %", end="\r", file=sys.stderr, flush=True)

    found = prepare_loads(
        plan, folder, store, scheduler=scheduler, processes=processes, report=report
    )
    for made in found:
        typer.echo(made.refused or str(made.folder), err=bool(made.refused))
        if made.here:
            typer.echo(here_words(made), err=True)


def _known(folder: Path) -> "Plan":
    from farbe.orders.plan import read_plan

    found = read_plan(folder)
    if found is None:
        raise BadInput(say("There is no plan in {folder}.", folder=folder))
    return found


@contextmanager
def _changing(folder: Path) -> Iterator["tuple[Plan, Queue, ArtStore]"]:
    """A plan that nobody else changes, as far as the queue says."""
    from farbe.orders.planning import alone
    from farbe.orders.tracking import refreshed

    _known(folder)
    with _store() as store, alone(folder):
        queue = _queue()
        yield refreshed(_known(folder), queue), queue, store


def _write(plan: "Plan", folder: Path) -> None:
    from farbe.orders.plan import write_plan

    write_plan(plan, folder)


@app.command("list", help=say("Loads in the order in which they print, or orders."))
def list_command(
    folder: Folder,
    by_order: Annotated[bool, typer.Option("--orders", help=say("Orders, not loads."))] = False,
    as_json: Annotated[bool, typer.Option("--json", help=say("As JSON."))] = False,
) -> None:
    from farbe.orders.sheets import places_words
    from farbe.orders.tracking import refreshed

    plan = refreshed(_known(folder), _queue())
    if as_json:
        _tell(plan, True)
    elif by_order:
        where = places_words(plan)
        for order in plan.orders:
            typer.echo(
                say("{number}  {state}, {count} × {product}, {places}",
                    number=order.number, state=order.state.words, count=order.quantity,
                    product=order.product, places=where.get(order.number, ""))
            )  # fmt: skip
    else:
        for load in plan.loads:
            typer.echo(_load_line(plan, load.number))


@app.command(help=say("Take from the queue what became of loads; what failed is planned again."))
def refresh(folder: Folder) -> None:
    from farbe.orders.planning import replanned, workshop_for

    with _changing(folder) as (plan, queue, store):
        _tell(replanned(plan, workshop_for(Path(plan.source), folder, store, queue)), False)


@app.command(help=say("Put loads into the queue; all that are planned and not held."))
def queue(
    folder: Folder,
    loads: Annotated[
        list[int] | None, typer.Argument(metavar="LOAD...", help=say("As the list says."))
    ] = None,
) -> None:
    from farbe.orders.tracking import put_in_queue

    with _changing(folder) as (plan, waiting, store):
        plan, refused = put_in_queue(plan, waiting, folder, store, loads or ())
        _write(plan, folder)
    for load in plan.loads:
        typer.echo(_load_line(plan, load.number))
    for reason in refused:
        typer.echo(f"farbe: {reason}", err=True)
    if refused:
        raise typer.Exit(SOME_REFUSED)


@app.command(help=say("Take loads out of the queue again that nobody has begun."))
def withdraw(folder: Folder, loads: Loads) -> None:
    from farbe.orders.tracking import withdrawn

    with _changing(folder) as (plan, waiting, _):
        _write(withdrawn(plan, waiting, loads), folder)


@app.command(help=say("Keep loads as they are, whatever changes in the list."))
def lock(folder: Folder, loads: Loads) -> None:
    _set(folder, loads, locked=True)


@app.command(help=say("Let loads be planned anew when the list changes."))
def unlock(folder: Folder, loads: Loads) -> None:
    _set(folder, loads, locked=False)


@app.command(help=say("Keep loads from going into the queue."))
def hold(folder: Folder, loads: Loads) -> None:
    _set(folder, loads, held=True)


@app.command(help=say("Let loads go into the queue."))
def release(folder: Folder, loads: Loads) -> None:
    _set(folder, loads, held=False)


def _set(folder: Path, loads: list[int], **fields: bool) -> None:
    with _changing(folder) as (plan, _, _store_of):
        for number in loads:
            plan = plan.with_load(plan.load(number).replace(**fields))
        _write(plan, folder)


@app.command(help=say("Print a load before another one, or last."))
def move(
    folder: Folder,
    load: Annotated[int, typer.Argument(metavar="LOAD", help=say("As the list says."))],
    before: Annotated[
        int | None, typer.Option(metavar="LOAD", help=say("The other one; last, if not given."))
    ] = None,
) -> None:
    from farbe.orders.planning import moved_load

    with _changing(folder) as (plan, _, _store_of):
        _write(moved_load(plan, load, before), folder)


@app.command(help=say("Make two loads of one; both are locked."))
def split(
    folder: Folder,
    load: Annotated[int, typer.Argument(metavar="LOAD", help=say("As the list says."))],
    pieces: Annotated[
        int, typer.Argument(metavar="N", help=say("So many pieces stay in the first."))
    ],
) -> None:
    from farbe.orders.planning import split_load, workshop_for

    with _changing(folder) as (plan, waiting, store):
        split_load(plan, load, pieces, workshop_for(Path(plan.source), folder, store, waiting))


@app.command(help=say("Say that orders have left the bench."))
def packed(
    folder: Folder,
    numbers: Orders,
    back: Annotated[bool, typer.Option("--back", help=say("They are back on it."))] = False,
) -> None:
    from farbe.orders.tracking import with_packed

    with _changing(folder) as (plan, _, _store_of):
        _write(with_packed(plan, numbers, not back), folder)


@app.command(help=say("Write all orders with their states."))
def export(
    folder: Folder,
    output: Annotated[Path, typer.Option("-o", "--output", metavar="X.csv|X.json")],
) -> None:
    from farbe.orders.export import export_orders
    from farbe.orders.tracking import refreshed

    export_orders(refreshed(_known(folder), _queue()), output)


@app.command(help=say("Write run sheets with pick lists, and the packing list; their files."))
def sheets(
    folder: Folder,
    loads: Annotated[
        list[int] | None, typer.Argument(metavar="LOAD...", help=say("All, if none is given."))
    ] = None,
    labels: Annotated[
        bool, typer.Option("--labels", help=say("A label for each piece, too."))
    ] = False,
) -> None:
    from farbe.orders.sheets import FOLDER, PACKING, write_load_sheets, write_packing_list

    plan = _known(folder)
    with _store() as store:
        for load in [plan.load(number) for number in loads or ()] or plan.loads:
            for path in write_load_sheets(load, folder, store, labels=labels):
                typer.echo(str(path))
    path = folder / FOLDER / PACKING
    write_packing_list(plan, path)
    typer.echo(str(path))
