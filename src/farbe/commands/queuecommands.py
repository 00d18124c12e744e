"""``farbe queue ...``: what waits for the printer, and what was printed."""

from __future__ import annotations

import json
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from farbe.folders import press_folder, queue_folder

if TYPE_CHECKING:
    from farbe.files.store import ArtStore
    from farbe.queue.store import Entry, Queue

app = typer.Typer(no_args_is_help=True, help="The queue: add, hold, release, print, repeat.")
Number = Annotated[int, typer.Argument(metavar="NUMBER", help="As the list says.")]


def _queue() -> Queue:
    from farbe.queue.store import Queue

    return Queue(queue_folder())


@contextmanager
def _store() -> Iterator[ArtStore]:
    from farbe.files.store import ArtStore

    with tempfile.TemporaryDirectory(prefix="farbe-") as scratch:
        yield ArtStore(Path(scratch))


@app.command()
def add(
    job: Annotated[Path, typer.Argument(metavar="JOB.farbe")],
    held: Annotated[bool, typer.Option("--held", help="Hold it until it is released.")] = False,
) -> None:
    """Put a job at the end; its number."""
    from farbe.files.jobfile import open_job
    from farbe.queue.work import add_job

    with _store() as store:
        typer.echo(add_job(_queue(), open_job(job, store), store, held=held))


@app.command("list")
def list_command(
    past: Annotated[bool, typer.Option("--past", help="What was printed or cancelled.")] = False,
    as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False,
) -> None:
    """What waits, in the order in which it prints; or what is past, latest first."""
    from farbe.queue.store import OPEN, PAST

    entries = _queue().entries(PAST if past else OPEN)
    if as_json:
        typer.echo(json.dumps([asdict(entry) for entry in entries], indent=1, ensure_ascii=False))
        return
    for entry in entries:
        typer.echo(_line(entry))


def _line(entry: Entry) -> str:
    from farbe.plan.sentence import duration

    note = f", nested with {entry.nest}" if entry.nest and entry.nest != entry.number else ""
    note += f" ({entry.note})" if entry.note else ""
    return (
        f"{entry.number:4d}  {entry.state.value:9s}  {entry.name}, {entry.pieces} pieces,"
        f" {duration(entry.seconds)}{note}"
    )


@app.command()
def hold(number: Number) -> None:
    """Keep a job from being printed."""
    _queue().hold(number)


@app.command()
def release(number: Number) -> None:
    """Let a job be printed when its turn comes."""
    _queue().release(number)


@app.command()
def cancel(number: Number) -> None:
    """Never print a job."""
    _queue().cancel(number)


@app.command()
def remove(number: Number) -> None:
    """Forget a job and its files."""
    _queue().remove(number)


@app.command()
def up(number: Number) -> None:
    """Print a job before the one that is now before it."""
    _queue().move(number, True)


@app.command()
def down(number: Number) -> None:
    """Print a job after the one that is now behind it."""
    _queue().move(number, False)


@app.command()
def nest(
    numbers: Annotated[list[int], typer.Argument(metavar="NUMBER...", help="Two at least.")],
) -> None:
    """Print jobs together on one board; the number of the one that leads."""
    from farbe.queue.work import nest as together

    with _store() as store:
        typer.echo(together(_queue(), numbers, store))


@app.command("take-out")
def take_out(number: Number) -> None:
    """Print a job of a nest by itself again."""
    _queue().take_out(number)


@app.command()
def prepare(number: Number) -> None:
    """Write a job's hand-off and do no more; its folder."""
    from farbe.queue.work import prepare as write

    with _store() as store:
        typer.echo(write(_queue(), number, store))


@app.command()
def repeat(
    number: Number,
    output: Annotated[
        Path | None,
        typer.Option("-o", "--output", metavar="JOB.farbe", help="To change it: write its job."),
    ] = None,
) -> None:
    """Put a copy of a job at the end; or write its job, to be changed."""
    from farbe.files.jobfile import save_job
    from farbe.queue.work import job_of
    from farbe.queue.work import repeat as again

    queue = _queue()
    with _store() as store:
        if output is None:
            typer.echo(again(queue, number, store))
        else:
            save_job(job_of(queue, queue.entry(number), store), store, output)


@app.command("print")
def print_command(
    number: Annotated[
        int | None, typer.Argument(metavar="NUMBER", help="The next one, if not given.")
    ] = None,
    every: Annotated[bool, typer.Option("--every", help="All that wait, one by one.")] = False,
) -> None:
    """Print on the test press, which is started if it does not run."""
    from farbe.press.client import press_of
    from farbe.queue.work import print_entry

    queue = _queue()
    with _store() as store, press_of(press_folder()) as press:
        while True:
            entry = queue.next_waiting() if number is None else queue.entry(number)
            if entry is None:
                typer.echo("Nothing waits.")
                return
            print_entry(
                queue, entry.number, press, store,
                step_done=lambda _, step: typer.echo(f"{step.text}: {step.detail}"),
            )  # fmt: skip
            typer.echo(f"{entry.name} is done.")
            if not every or number is not None:
                return
