"""``farbe testprint KIND`` and ``farbe watch DIR``."""

import tempfile
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from farbe.model.base import BadInput
from farbe.said import say, shipped, spoken

if TYPE_CHECKING:
    from farbe.model.printer import Printer
    from farbe.testprint.chart import ChartKind

#: The kinds of test prints that are measured.
CHART, STRIP = "chart", "strip"


def testprint(
    kind: Annotated[
        str,
        typer.Argument(
            metavar="KIND",
            help=say(
                "inks, nozzles, greys, register, choke, white, ease, varnish, kerb, chart or strip."
            ),
        ),
    ],
    output: Annotated[
        Path,
        typer.Option(
            "-o", "--output", metavar="OUT", help=say("The hand-off's folder, or a recipe's file.")
        ),
    ],
    printer: Annotated[
        str | None, typer.Option(metavar="NAME|X.printer.json", help=say("For this printer."))
    ] = None,
    receiver: Annotated[
        Path | None, typer.Option(metavar="X.receiver.json", help=say("For this front end."))
    ] = None,
    reading: Annotated[
        float | None, typer.Option(help=say("What was read from the ladder; goes into a recipe."))
    ] = None,
    recipe: Annotated[
        str | None,
        typer.Option(metavar="NAME|X.recipe.json", help=say("The recipe that takes it.")),
    ] = None,
    mode: Annotated[
        str | None, typer.Option(metavar="NAME", help=say("A mode of the printer."))
    ] = None,
    colours: Annotated[int, typer.Option(help=say("Of a chart, besides its ramps."))] = 500,
    white: Annotated[
        int | None, typer.Option(metavar="HITS", help=say("White behind a chart's colours."))
    ] = None,
    surface: Annotated[
        str,
        typer.Option(
            metavar="clear|'[textile] #RRGGBB'", help=say("What a chart is printed on.")
        ),
    ] = "#ffffff",
    reader: Annotated[
        str, typer.Option(help=say("Who reads a chart: face, through or transfer."))
    ] = "face",
    strip: Annotated[
        bool, typer.Option("--strip", help=say("A chart for a strip reader; else by hand."))
    ] = False,
    film: Annotated[bool, typer.Option("--film", help=say("A chart on film."))] = False,
    seed: Annotated[int, typer.Option(help=say("Another number mixes a chart otherwise."))] = 1,
) -> None:  # fmt: skip
    """Write a test print; or put what was read from one into a recipe."""
    from farbe.art.profiles import shipped_profile
    from farbe.files.receiverfile import read_receiver
    from farbe.model.piece import Reader
    from farbe.plan.receivers import OPEN_PLATES
    from farbe.plan.words import choice, surface_of
    from farbe.testprint.chart import ChartKind
    from farbe.testprint.charts import ChartWishes, chart_words, write_chart
    from farbe.testprint.kinds import make_chart
    from farbe.testprint.measured import Manner
    from farbe.testprint.write import write_test_print

    on = _printer(printer, mode)
    if kind.casefold() in (CHART, STRIP):
        wishes = ChartWishes(
            surface_of(surface), choice(Reader, reader, shipped("reader")),
            colours if kind.casefold() == CHART else 0, white,
            Manner.STRIP if strip else Manner.BY_HAND, film, seed,
        )  # fmt: skip
        to = OPEN_PLATES if receiver is None else read_receiver(receiver)
        typer.echo(chart_words(write_chart(wishes, on, to, shipped_profile(), output)))
        return
    wanted = choice(ChartKind, kind, shipped("test print"))
    if reading is not None:
        _take_reading(wanted, reading, recipe, output)
        return
    to = OPEN_PLATES if receiver is None else read_receiver(receiver)
    ticket = write_test_print(make_chart(wanted, on, to, shipped_profile()), on, to, output)
    for file in ticket.runs[0].files:
        typer.echo(f"{file.name}: {', '.join(file.channels)}")


def _printer(name: str | None, mode: str | None) -> "Printer":
    """The printer of a name or a file, set to a mode."""
    from farbe.files.printerfile import printer_by
    from farbe.files.store import ArtStore
    from farbe.plan.printers import FLATBED

    with tempfile.TemporaryDirectory(prefix="farbe-test-") as folder:
        on = FLATBED if name is None else printer_by(name, ArtStore(Path(folder)))
    if mode is None:
        return on
    for one in on.modes:
        if mode.casefold() in (one.name.casefold(), spoken(one.name).casefold()):
            return on.in_mode(one)
    known = ", ".join(one.name for one in on.modes)
    raise BadInput(say("The printer has no mode {mode}; it has: {known}.", mode=mode, known=known))


def _take_reading(kind: "ChartKind", reading: float, name: str | None, output: Path) -> None:
    from farbe.files.recipefile import recipe_by, write_recipe
    from farbe.testprint.reading import with_reading

    if name is None:
        raise BadInput(say("A reading needs a recipe that takes it; name one with --recipe."))
    found = recipe_by(name)
    stack = with_reading(found.stack, kind, reading)
    write_recipe(found.replace(stack=stack), output)


def watch(
    folder: Annotated[Path, typer.Argument(metavar="DIR", help=say("Where artwork is dropped."))],
    output: Annotated[
        Path | None,
        typer.Option("-o", "--output", metavar="DIR", help=say("Where the hand-offs go.")),
    ] = None,
    recipe: Annotated[
        str | None, typer.Option(metavar="NAME|X.recipe.json", help=say("How it is made."))
    ] = None,
    job: Annotated[
        Path | None, typer.Option(metavar="JOB.farbe", help=say("A job to put the artwork into."))
    ] = None,
    queue: Annotated[
        bool, typer.Option("--queue", help=say("Put the jobs into the queue instead."))
    ] = False,
    once: Annotated[
        bool, typer.Option("--once", help=say("End when all that is there has been taken."))
    ] = False,
) -> None:
    """Make hand-offs of the artwork that is dropped into a folder, until it is ended."""
    from farbe.files.jobfile import open_job
    from farbe.files.recipefile import lent, recipe_by
    from farbe.files.store import ArtStore
    from farbe.folders import queue_folder
    from farbe.queue.store import Queue
    from farbe.queue.taking import by_job, by_recipe
    from farbe.queue.watch import QUIET, to_folder, to_queue
    from farbe.queue.watch import watch as look

    if (output is None) is not queue:
        raise BadInput(say("Say where the hand-offs go with -o, or --queue, but not both."))
    if (recipe is None) is (job is None):
        raise BadInput(say("Say how artwork is made: with --recipe or with --job."))
    with tempfile.TemporaryDirectory(prefix="farbe-") as scratch:
        store = ArtStore(Path(scratch))
        if job is not None:
            made = by_job(open_job(job, store), store)
        else:
            made = by_recipe(lent(recipe_by(str(recipe)), store), store)
        use = to_folder(output, store) if output else to_queue(Queue(queue_folder()), store)
        looks = 0
        for taken in look(folder, made, use, store):
            if taken is None:
                looks += 1
                if once and looks > QUIET + 1:
                    return
            else:
                word = say("failed: ") if taken.failed else say("waits: ") if taken.waits else ""
                typer.echo(f"{taken.name}: {word}{taken.made}" if taken.name else taken.made)
