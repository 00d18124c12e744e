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

from farbe.folders import queue_folder
from farbe.said import say

if TYPE_CHECKING:
    from farbe.files.store import ArtStore
    from farbe.queue.store import Entry, Queue

app = typer.Typer(no_args_is_help=True, help=say("The queue: add, hold, release, print, repeat."))
Numbers = Annotated[list[int], typer.Argument(metavar="NUMBER...", help=say("As the list says."))]
Number = Annotated[int, typer.Argument(metavar="NUMBER", help=say("As the list says."))]


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
    held: Annotated[
        bool, typer.Option("--held", help=say("Hold it until it is released."))
    ] = False,
) -> None:
    """Put a job at the end; its number."""
    from farbe.files.jobfile import open_job
    from farbe.queue.work import add_job

    with _store() as store:
        typer.echo(add_job(_queue(), open_job(job, store), store, held=held))


@app.command("list")
def list_command(
    past: Annotated[
        bool, typer.Option("--past", help=say("What was printed or cancelled."))
    ] = False,
    as_json: Annotated[bool, typer.Option("--json", help=say("As JSON."))] = False,
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

    note = (
        say(", nested with {nest}", nest=entry.nest)
        if entry.nest and entry.nest != entry.number
        else ""
    )
    note += f" ({entry.note})" if entry.note else ""
    return say(
        "{entry}  {state}  {entry_2}, {pieces} pieces, {seconds}{note}",
        entry=f"{entry.number:4d}",
        state=f"{entry.state.words:9s}",
        entry_2=entry.name,
        pieces=entry.pieces,
        seconds=duration(entry.seconds),
        note=note,
    )


@app.command()
def hold(numbers: Numbers) -> None:
    """Keep jobs from being printed."""
    queue = _queue()
    queue.each(numbers, queue.hold)


@app.command()
def release(numbers: Numbers) -> None:
    """Let jobs be printed when their turn comes."""
    queue = _queue()
    queue.each(numbers, queue.release)


@app.command()
def cancel(numbers: Numbers) -> None:
    """Never print jobs; what prints is stopped, what was handed over is taken back."""
    from farbe.queue.work import cancel as never

    queue = _queue()
    queue.each(numbers, lambda number: never(queue, number))


@app.command()
def remove(numbers: Numbers) -> None:
    """Forget jobs and their files."""
    queue = _queue()
    queue.each(numbers, queue.remove)


@app.command()
def up(numbers: Numbers) -> None:
    """Print jobs before the one that is now before them."""
    _queue().move(numbers, True)


@app.command()
def down(numbers: Numbers) -> None:
    """Print jobs after the one that is now behind them."""
    _queue().move(numbers, False)


@app.command()
def note(number: Number, words: Annotated[str, typer.Argument(metavar="WORDS")]) -> None:
    """Write a note beside a job."""
    _queue().remark(number, words)


@app.command()
def printed(
    number: Number,
    failed: Annotated[
        str, typer.Option("--failed", metavar="PIECES", help=say("Those that failed, as 3,7-9."))
    ] = "",
    all_failed: Annotated[
        bool, typer.Option("--all-failed", help=say("None is any good."))
    ] = False,
) -> None:
    """Say what came of a job that was handed over."""
    from farbe.queue.pieces import pieces_of

    if all_failed:
        _queue().said_failed(number)
    else:
        _queue().said_printed(number, pieces_of(failed))


@app.command()
def again(
    number: Number,
    pieces: Annotated[
        str,
        typer.Option("--pieces", metavar="PIECES", help=say("As 3,7-9; else those that failed.")),
    ] = "",
    side_b: Annotated[
        bool, typer.Option("--side-b", help=say("Side B alone, on the film with side A."))
    ] = False,
) -> None:
    """Put pieces that failed at the end once more; the number."""
    from farbe.queue.pieces import pieces_of
    from farbe.queue.work import print_again

    with _store() as store:
        typer.echo(print_again(_queue(), number, store, pieces_of(pieces), second_only=side_b))


@app.command()
def anew(number: Number) -> None:
    """Let a job that was stopped begin with its first step, on fresh pieces."""
    _queue().begin_anew(number)


@app.command()
def sweep(
    days: Annotated[
        float, typer.Option(help=say("Hand-offs stay so long after their end."))
    ] = 30.0,
) -> None:
    """Remove hand-offs of jobs that came to their end long ago; the jobs stay."""
    from farbe.queue.sweep import sweep as clear

    typer.echo(say("{clear} hand-offs removed.", clear=clear(_queue(), days)))


@app.command()
def nest(
    numbers: Annotated[list[int], typer.Argument(metavar="NUMBER...", help=say("Two at least."))],
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
        typer.Option(
            "-o", "--output", metavar="JOB.farbe", help=say("To change it: write its job.")
        ),
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
        int | None, typer.Argument(metavar="NUMBER", help=say("The next one, if not given."))
    ] = None,
    every: Annotated[bool, typer.Option("--every", help=say("All that wait, one by one."))] = False,
) -> None:
    """Print on the printer's test press, started if it is off; or hand over to its folder."""
    from farbe.queue.lanes import line_to
    from farbe.queue.work import carry_out

    queue = _queue()
    with _store() as store:
        while True:
            entry = queue.next_waiting() if number is None else queue.entry(number)
            if entry is None:
                typer.echo(say("Nothing waits."))
                return
            carry_out(
                queue, entry.number, line_to, store,
                step_done=lambda _, step: typer.echo(f"{step.text}: {step.detail}"),
            )  # fmt: skip
            done = queue.entry(entry.number)
            typer.echo(say("{entry} is {state}.", entry=entry.name, state=done.state.words))
            if not every or number is not None:
                return
