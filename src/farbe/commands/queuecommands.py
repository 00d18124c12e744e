"""``farbe queue ...``: what waits for the printer, and what was printed."""

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


def _queue() -> "Queue":
    from farbe.queue.store import Queue

    return Queue(queue_folder())


@contextmanager
def _store() -> Iterator["ArtStore"]:
    from farbe.files.store import ArtStore

    with tempfile.TemporaryDirectory(prefix="farbe-") as scratch:
        yield ArtStore(Path(scratch))


@app.command(help=say("Put a job at the end, every load of it; the numbers."))
def add(
    job: Annotated[Path, typer.Argument(metavar="JOB.farbe")],
    held: Annotated[
        bool, typer.Option("--held", help=say("Hold it until it is released."))
    ] = False,
) -> None:
    from farbe.files.jobfile import open_job
    from farbe.layout.faced import Faced
    from farbe.layout.loads import loads_of
    from farbe.queue.work import add_job

    with _store() as store:
        for load in loads_of(Faced(open_job(job, store))):
            typer.echo(add_job(_queue(), load, store, held=held))


@app.command(
    "list", help=say("What waits, in the order in which it prints; or what is past, latest first.")
)
def list_command(
    past: Annotated[
        bool, typer.Option("--past", help=say("What was printed or cancelled."))
    ] = False,
    as_json: Annotated[bool, typer.Option("--json", help=say("As JSON."))] = False,
) -> None:
    from farbe.queue.store import OPEN, PAST

    entries = _queue().entries(PAST if past else OPEN)
    if as_json:
        typer.echo(json.dumps([asdict(entry) for entry in entries], indent=1, ensure_ascii=False))
        return
    for entry in entries:
        typer.echo(_line(entry))


def _line(entry: "Entry") -> str:
    from farbe.plan.sentence import duration

    note = (
        say(", nested with {nest}", nest=entry.nest)
        if entry.nest and entry.nest != entry.number
        else ""
    )
    note += f" ({entry.note})" if entry.note else ""
    return say(
        "{number}  {state}  {name}, {pieces} pieces, {seconds}{note}",
        number=f"{entry.number:4d}",
        state=f"{entry.state.words:9s}",
        name=entry.name,
        pieces=entry.pieces,
        seconds=duration(entry.seconds),
        note=note,
    )


@app.command(help=say("Keep jobs from being printed."))
def hold(numbers: Numbers) -> None:
    queue = _queue()
    queue.each(numbers, queue.hold)


@app.command(help=say("Let jobs be printed when their turn comes."))
def release(numbers: Numbers) -> None:
    queue = _queue()
    queue.each(numbers, queue.release)


@app.command(
    help=say("Never print jobs; what prints is stopped, what was handed over is taken back.")
)
def cancel(numbers: Numbers) -> None:
    from farbe.queue.work import cancel as never

    queue = _queue()
    queue.each(numbers, lambda number: never(queue, number))


@app.command(help=say("Forget jobs and their files."))
def remove(numbers: Numbers) -> None:
    queue = _queue()
    queue.each(numbers, queue.remove)


@app.command(help=say("Print jobs before the one that is now before them."))
def up(numbers: Numbers) -> None:
    _queue().move(numbers, True)


@app.command(help=say("Print jobs after the one that is now behind them."))
def down(numbers: Numbers) -> None:
    _queue().move(numbers, False)


@app.command(help=say("Write a note beside a job."))
def note(number: Number, words: Annotated[str, typer.Argument(metavar="WORDS")]) -> None:
    _queue().remark(number, words)


@app.command(help=say("Say what came of a job that was handed over."))
def printed(
    number: Number,
    failed: Annotated[
        str, typer.Option("--failed", metavar="PIECES", help=say("Those that failed, as 3,7-9."))
    ] = "",
    all_failed: Annotated[
        bool, typer.Option("--all-failed", help=say("None is any good."))
    ] = False,
) -> None:
    from farbe.queue.pieces import pieces_of

    if all_failed:
        _queue().said_failed(number)
    else:
        _queue().said_printed(number, pieces_of(failed))


@app.command(help=say("Put pieces that failed at the end once more; the number."))
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
    from farbe.queue.pieces import pieces_of
    from farbe.queue.work import print_again

    with _store() as store:
        typer.echo(print_again(_queue(), number, store, pieces_of(pieces), second_only=side_b))


@app.command(help=say("Let a job that was stopped begin with its first step, on fresh pieces."))
def anew(number: Number) -> None:
    _queue().begin_anew(number)


@app.command(help=say("Remove hand-offs of jobs that came to their end long ago; the jobs stay."))
def sweep(
    days: Annotated[
        float, typer.Option(help=say("Hand-offs stay so long after their end."))
    ] = 30.0,
) -> None:
    from farbe.queue.sweep import sweep as clear

    typer.echo(say("{count} hand-offs removed.", count=clear(_queue(), days)))


@app.command(help=say("Print jobs together on one board; the number of the one that leads."))
def nest(
    numbers: Annotated[list[int], typer.Argument(metavar="NUMBER...", help=say("Two at least."))],
) -> None:
    from farbe.queue.work import nest as together

    with _store() as store:
        typer.echo(together(_queue(), numbers, store))


@app.command("take-out", help=say("Print a job of a nest by itself again."))
def take_out(number: Number) -> None:
    _queue().take_out(number)


@app.command(help=say("Write a job's hand-off and do no more; its folder."))
def prepare(number: Number) -> None:
    from farbe.queue.work import prepare as write

    with _store() as store:
        typer.echo(write(_queue(), number, store))


@app.command(help=say("Put a copy of a job at the end; or write its job, to be changed."))
def repeat(
    number: Number,
    output: Annotated[
        Path | None,
        typer.Option(
            "-o", "--output", metavar="JOB.farbe", help=say("To change it: write its job.")
        ),
    ] = None,
) -> None:
    from farbe.files.jobfile import save_job
    from farbe.queue.work import job_of
    from farbe.queue.work import repeat as again

    queue = _queue()
    with _store() as store:
        if output is None:
            typer.echo(again(queue, number, store))
        else:
            save_job(job_of(queue, queue.entry(number), store), store, output)


@app.command(
    "print",
    help=say(
        "Print on the printer's test press, started if it is off; or hand over to its folder."
    ),
)
def print_command(
    number: Annotated[
        int | None, typer.Argument(metavar="NUMBER", help=say("The next one, if not given."))
    ] = None,
    every: Annotated[bool, typer.Option("--every", help=say("All that wait, one by one."))] = False,
) -> None:
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
