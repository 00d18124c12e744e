"""The command line."""

import json
import os
import sys
import tempfile
from contextlib import suppress
from dataclasses import asdict
from pathlib import Path
from typing import Annotated, NoReturn

import typer
from typer.completion import completion_init  # type: ignore[attr-defined]
from typer.core import TyperGroup

from farbe import __version__
from farbe.commands import (
    conditioncommands,
    desktopcommand,
    newcommand,
    orderscommands,
    presscommands,
    queuecommands,
    testprintcommand,
)
from farbe.folders import log_file
from farbe.layout.figures import decimal, use_decimal_point
from farbe.memory import end_at_once, keep_freed
from farbe.mishap import guarded
from farbe.model.base import BadInput
from farbe.said import say

OK, STOPPED, BAD_INPUT, FAULT = 0, 1, 2, 3


class _JobOrCommand(TyperGroup):
    """``farbe JOB.farbe`` opens the job in the window."""

    def parse_args(self, ctx: typer.Context, args: list[str]) -> list[str]:  # type: ignore[override]
        if args and not args[0].startswith("-") and args[0] not in self.commands:
            args = ["open", *args]
        return super().parse_args(ctx, args)


app = typer.Typer(
    cls=_JobOrCommand,
    add_completion=False,
    no_args_is_help=False,
    pretty_exceptions_enable=False,
    help=say("White, varnish and colour separations and jigs for specialty printing."),
)


def fail(message: str) -> NoReturn:
    """Say what is wrong and leave with the status of bad input.

    Returns
    -------
    Nothing: it leaves the program.
    """
    typer.echo(f"farbe: {message}", err=True)
    raise typer.Exit(BAD_INPUT)


def main() -> None:
    """Entry point; bad input ends with one sentence and status 2."""
    keep_freed()
    end_at_once()
    # What stands between whole and tenths is a matter of the language.
    use_decimal_point(say("."))
    if "_FARBE_COMPLETE" in os.environ:
        completion_init()
    try:
        outcome = guarded(say("The command"), lambda: app(prog_name="farbe"))
    except BadInput as error:
        typer.echo(f"farbe: {error}", err=True)
        sys.exit(BAD_INPUT)
    if outcome.mishap is not None:
        report = log_file().with_name("report.txt")
        try:
            report.parent.mkdir(parents=True, exist_ok=True)
            report.write_text(outcome.mishap.report, encoding="utf-8")
            where = say("The report is in {report}.", report=report)
        except OSError as error:
            where = say(
                "No report could be kept in {parent} ({strerror}).",
                parent=report.parent,
                strerror=error.strerror,
            )
        typer.echo(f"farbe: {outcome.mishap.sentence} {where}", err=True)
        sys.exit(FAULT)


class _Progress:
    """A line of percent on a terminal; nothing when piped."""

    def __init__(self) -> None:
        self._shown = -1

    def __call__(self, done: float) -> None:
        percent = int(done * 100)
        if percent != self._shown and sys.stderr.isatty():
            self._shown = percent
            end = "\r" if percent < 100 else "\n"
            print(f"{percent:3d} %", end=end, file=sys.stderr, flush=True)


app.add_typer(presscommands.app, name="press")
app.add_typer(queuecommands.app, name="queue")
app.command(help=say("Write a test print; or put what was read from one into a recipe."))(
    testprintcommand.testprint
)
app.command(
    help=say("Teach a printer from readings of a chart: films, curves, limits and profile.")
)(conditioncommands.condition)
app.command(
    help=say("Make hand-offs of the artwork that is dropped into a folder, until it is ended.")
)(testprintcommand.watch)
app.command(
    help=say("Make a job from artwork; what is not stated is a guess until it is confirmed.")
)(newcommand.new)
app.command(help=say("Plan a list of orders: filled boards and films, due orders first."))(
    orderscommands.orders
)
app.add_typer(orderscommands.app, name="loads")
app.command(
    help=say("Put Farbe into the desktop's menu and give job files their icon; or take that away.")
)(desktopcommand.install_desktop)


def _to_be_opened(job: Path) -> Path:
    """What reads the artwork gets ready while the rest of the command is loaded."""
    from farbe.art.limited import HELPERS

    HELPERS.warm_up()
    return job


JobPath = Annotated[
    Path, typer.Argument(metavar="JOB.farbe", help=say("A job file."), callback=_to_be_opened)
]


def _say_version(wanted: bool) -> None:
    if wanted:
        typer.echo(f"farbe {__version__}")
        raise typer.Exit


@app.callback(invoke_without_command=True, help=say("Without a command, the window opens."))
def start(
    context: typer.Context,
    version: Annotated[
        bool,
        typer.Option("--version", help=say("Say which version this is."), is_eager=True,
                     callback=_say_version),
    ] = False,
) -> None:  # fmt: skip
    if context.invoked_subcommand is None:
        from farbe.desk.app import run_desk

        raise typer.Exit(run_desk())


@app.command("open", hidden=True, help=say("Open jobs, each in a window of its own, or artwork."))
def open_command(
    paths: Annotated[list[Path], typer.Argument(metavar="FILE...", help=say("Jobs or artwork."))],
) -> None:
    for path in paths:
        if not path.exists():
            fail(
                say(
                    "{path} is neither a command nor a file; farbe --help lists the commands.",
                    path=path,
                )
            )
    from farbe.desk.app import run_desk

    raise typer.Exit(run_desk(*paths))


@app.command(help=say("Open the window with the sample job."))
def demo(
    pictures: Annotated[
        Path | None,
        typer.Option(metavar="DIR", help=say("Write a picture of each station and leave.")),
    ] = None,
) -> None:
    from farbe.desk.app import run_demo

    raise typer.Exit(run_demo(pictures))


def _get_ready_to_read(art: Path) -> None:
    """Whatever reads the picture gets ready, or begins, while this process loads the rest."""
    from farbe.art import rowsapart
    from farbe.art.limited import HELPERS
    from farbe.art.pnghead import START, large_shape

    start = b""
    # What cannot be opened is said by what reads it; a pipe would be waited for.
    with suppress(OSError):
        if art.is_file():
            with art.open("rb") as file:
                start = file.read(START)
    shape = large_shape(start)
    if shape is None:
        HELPERS.warm_up()
    else:
        rowsapart.begin(art, shape)


@app.command(
    help=say(
        "Separate one artwork, without a bed, into plates: C M Y K White Varnish.\n\n"
        "Ends with status 1 if nothing tells what a plate of the file is for."
    )
)
def separate(
    art: Annotated[Path, typer.Argument(metavar="ART", help=say("A picture, a PDF, EPS or SVG."))],
    output: Annotated[
        Path, typer.Option("-o", "--output", metavar="OUT", help=say("A .tif or .pdf file."))
    ],
    recipe: Annotated[
        str | None, typer.Option(metavar="NAME", help=say("Surface, reader and stack."))
    ] = None,
    width: Annotated[float | None, typer.Option(metavar="MM", help=say("Printed width."))] = None,
    dpi: Annotated[
        str | None,
        typer.Option(metavar="X[xY]", help=say("Output resolution; the artwork's if not given.")),
    ] = None,
    choke: Annotated[
        float | None, typer.Option(metavar="MM", help=say("Choke of the white."))
    ] = None,
    least: Annotated[
        float | None,
        typer.Option(
            metavar="MM", help=say("Width that it leaves fine strokes at least; 0 spares none.")
        ),
    ] = None,
    surface: Annotated[
        str | None, typer.Option(metavar="clear|#RRGGBB", help=say("What is printed on."))
    ] = None,
    reader: Annotated[
        str | None, typer.Option(metavar="face|through|transfer", help=say("Who reads the print."))
    ] = None,
    varnish: Annotated[
        bool, typer.Option("--varnish", help=say("Varnish over the artwork's shape."))
    ] = False,
    profile: Annotated[
        Path | None, typer.Option(metavar="P.icc", help=say("The printer's CMYK profile."))
    ] = None,
    intent: Annotated[
        str,
        typer.Option(metavar="INTENT", help=say("perceptual, relative, saturation or absolute.")),
    ] = "relative",
    numbers: Annotated[
        str,
        typer.Option(metavar="convert|keep", help=say("Of CMYK that brings a profile of its own.")),
    ] = "convert",
    plate: Annotated[
        list[str] | None,
        typer.Option(
            metavar="NAME=MEANING",
            help=say("What a plate is for: white, varnish, colour, ink, cut or ignore."),
        ),
    ] = None,
    compression: Annotated[
        str, typer.Option(metavar="none|lzw|deflate|zstd", help=say("Of TIFF files."))
    ] = "lzw",
) -> None:
    _get_ready_to_read(art)
    from farbe.single import UNTOLD, PlatesWanted, separate_file

    wanted = PlatesWanted.parsed(
        recipe=recipe,
        width=width,
        dpi=dpi,
        choke=choke,
        least=least,
        surface=surface,
        reader=reader,
        varnish=varnish,
        profile=profile,
        intent=intent,
        numbers=numbers,
        compression=compression,
        plates=plate or (),
    )
    doubtful = False
    for line in separate_file(art, output, wanted, report=_Progress()):
        typer.echo(line)
        doubtful |= line.startswith(UNTOLD)
    if doubtful:
        raise typer.Exit(1)


@app.command(help=say("Write the hand-off of a job, unless a check stops it."))
def render(
    job: JobPath,
    output: Annotated[
        Path, typer.Option("-o", "--output", metavar="DIR", help=say("Folder of the hand-off."))
    ],
) -> None:
    from farbe.checks.stops import stops
    from farbe.files.handoff import hand_off_sheets
    from farbe.files.jobfile import open_job
    from farbe.files.store import ArtStore
    from farbe.render.onepass import one_pass

    with tempfile.TemporaryDirectory(prefix="farbe-") as scratch, one_pass():
        store = ArtStore(Path(scratch))
        opened = open_job(job, store)
        found = stops(opened, store)
        for check in found:
            typer.echo(say("stop: {check}", check=check.text), err=True)
        if found:
            raise typer.Exit(STOPPED)
        tickets = hand_off_sheets(opened, store, output, report=_Progress())
    for run in (run for ticket in tickets for run in ticket.runs):
        total = sum(run.ink_ml.values())
        names = ", ".join(file.name for file in run.files)
        typer.echo(
            say(
                "{run}: {names}, {width_px} × {height_px} px, {total} ml",
                run=run.name,
                names=names,
                width_px=run.width_px,
                height_px=run.height_px,
                total=decimal(total, 2),
            )
        )


@app.command(help=say("Check a job; status 1 when a check stops it."))
def check(
    job: JobPath,
    as_json: Annotated[bool, typer.Option("--json", help=say("A list for programs."))] = False,
) -> None:
    from farbe.checks.check import Facts
    from farbe.checks.rules import run_checks
    from farbe.checks.weight import Weight
    from farbe.files.jobfile import open_job
    from farbe.files.store import ArtStore
    from farbe.layout.faced import Faced

    with tempfile.TemporaryDirectory(prefix="farbe-") as scratch:
        store = ArtStore(Path(scratch))
        opened = open_job(job, store)
        found = run_checks(Facts(Faced(opened), store))
    if as_json:
        rows = [
            {
                "code": c.code,
                "weight": c.weight.value,
                "text": c.text,
                "station": c.station.value,
                "fix": c.fix.words if c.fix else None,
                "figure": None if c.figure is None else round(c.figure, 4),
                "unit": c.unit,
                "count": c.count,
                "about": c.about,
                "accepted": c.accepted,
                "places": [
                    {name: round(value, 3) for name, value in asdict(place).items()}
                    for place in c.places
                ],
            }
            for c in found
        ]
        typer.echo(json.dumps(rows, indent=1, ensure_ascii=False))
    else:
        for c in found:
            meant = say(" (accepted)") if c.accepted else ""
            typer.echo(f"{c.weight.words}: {c.text}{meant}")
    raise typer.Exit(STOPPED if any(c.weight is Weight.STOP for c in found) else OK)


@app.command("estimate", help=say("Ink, time, cost and price of an order."))
def estimate_command(
    job: JobPath,
    as_json: Annotated[bool, typer.Option("--json", help=say("All figures as JSON."))] = False,
    as_csv: Annotated[bool, typer.Option("--csv", help=say("All figures as CSV."))] = False,
) -> None:
    from farbe.estimate.report import estimate_report, report_csv
    from farbe.files.jobfile import open_job
    from farbe.files.store import ArtStore
    from farbe.layout.faced import Faced
    from farbe.plan.sentence import duration

    with tempfile.TemporaryDirectory(prefix="farbe-") as scratch:
        store = ArtStore(Path(scratch))
        found = estimate_report(Faced(open_job(job, store)), store)
    if as_json:
        typer.echo(json.dumps(found, indent=1, ensure_ascii=False))
    elif as_csv:
        typer.echo(report_csv(found), nl=False)
    else:
        for ink, ml in found["ink_ml"].items():
            typer.echo(say("{ink}: {ml} ml", ink=ink, ml=decimal(ml, 2)))
        typer.echo(
            say(
                "{count} pieces in {time}",
                count=found["pieces"],
                time=duration(found["seconds"]),
            )
        )
        cost = found["cost"]
        typer.echo(
            say(
                "cost {cost}, price {price}",
                cost=decimal(cost["total"], 2),
                price=decimal(cost["price"], 2),
            )
        )


@app.command(
    help=say("Write the predicted look of a job's piece, one of its plates, or a sheet to sign.")
)
def proof(
    job: JobPath,
    output: Annotated[
        Path,
        typer.Option(
            "-o",
            "--output",
            metavar="X.png|X.pdf",
            help=say("A picture, or the sheet for the customer."),
        ),
    ],
    reader: Annotated[
        str | None, typer.Option(metavar="face|through|transfer", help=say("Who looks at it."))
    ] = None,
    light: Annotated[
        str, typer.Option(metavar="day|behind", help=say("Where light comes from."))
    ] = "day",
    surface: Annotated[
        str | None, typer.Option(metavar="#RRGGBB|clear", help=say("Another surface to try."))
    ] = None,
    behind: Annotated[
        str | None, typer.Option(help=say("What is behind a clear piece, as 'a dark room'."))
    ] = None,
    plate: Annotated[
        str | None, typer.Option(metavar="NAME", help=say("One ink's plate alone, black on white."))
    ] = None,
    pixels: Annotated[
        int, typer.Option(min=16, max=8000, help=say("Pixels of the longer side."))
    ] = 1200,
) -> None:
    from farbe.files.jobfile import open_job
    from farbe.files.proofsheet import write_proof_sheet
    from farbe.files.store import ArtStore
    from farbe.layout.faced import Faced
    from farbe.optics.proof import proof_picture, write_png

    suffix = output.suffix.lower()
    if suffix not in (".png", ".pdf"):
        fail(say("{output} should end in .png or .pdf.", output=output.name))
    if light not in ("day", "behind"):
        fail(say("There is no light {light}; there are: day, behind.", light=light))
    with tempfile.TemporaryDirectory(prefix="farbe-") as scratch:
        store = ArtStore(Path(scratch))
        if suffix == ".pdf":
            write_proof_sheet(Faced(open_job(job, store)), store, output)
            return
        picture = proof_picture(
            Faced(open_job(job, store)), store, pixels=pixels, reader=reader, surface=surface,
            behind=behind,
            lit=1.0 if light == "behind" else 0.0, plate=plate,
        )  # fmt: skip
    write_png(picture, output)


@app.command(
    help=say("Write the cutting file of a job's jig or film, in millimetres: SVG, PDF or DXF.")
)
def guide(
    job: JobPath,
    output: Annotated[
        Path,
        typer.Option("-o", "--output", metavar="X.svg", help=say("A .svg, .pdf or .dxf file.")),
    ],
    back: Annotated[
        bool, typer.Option("--back", help=say("The pockets for side B of a two-sided job."))
    ] = False,
) -> None:
    from farbe.files.cutting import write_cutting_file
    from farbe.files.jobfile import open_job
    from farbe.files.store import ArtStore
    from farbe.layout.faced import Faced

    with tempfile.TemporaryDirectory(prefix="farbe-") as scratch:
        store = ArtStore(Path(scratch))
        opened = Faced(open_job(job, store))
        of = opened.other if back else opened
        if of is None:
            raise BadInput(say("{job} has no side B.", job=job.name))
        write_cutting_file(of, store, output)


@app.command(help=say("Lay a job's artworks on film, so that little of it is used."))
def gang(
    job: JobPath,
    output: Annotated[Path, typer.Option("-o", "--output", metavar="JOB.farbe")],
    width: Annotated[float | None, typer.Option(help=say("Width of the film in mm."))] = None,
    by: Annotated[str, typer.Option(help=say("rectangles or shapes."))] = "rectangles",
    gap: Annotated[float | None, typer.Option(help=say("Least distance in mm."))] = None,
) -> None:
    from farbe.files.jobfile import open_job, save_job
    from farbe.files.store import ArtStore
    from farbe.layout.faced import Faced
    from farbe.layout.rolls import film_length
    from farbe.model.roll import Packing, Roll
    from farbe.render.footprints import ganged

    ways = {"rectangles": Packing.BOXES, "shapes": Packing.SHAPES}
    if by not in ways:
        fail(say("{by} is no way to lay artworks; there are: {ways}.", by=by, ways=", ".join(ways)))
    with tempfile.TemporaryDirectory(prefix="farbe-") as scratch:
        store = ArtStore(Path(scratch))
        opened = Faced(open_job(job, store))
        wanted = {"width": width, "gap": gap}
        roll = (opened.roll or Roll()).replace(
            packing=ways[by], **{name: value for name, value in wanted.items() if value is not None}
        )
        made = ganged(opened.replace(medium=roll), store)
        save_job(made.job, store, output)
        count = len(made.roll.places) if made.roll is not None else 0
        typer.echo(
            say(
                "{count} artworks on {length} m of film",
                count=count,
                length=decimal(film_length(made) / 1000, 3),
            )
        )


@app.command(help=say("Write every sample job as a job file, and a morning's orders."))
def samples(
    folder: Annotated[Path, typer.Argument(metavar="DIR", help=say("Where the job files go."))],
) -> None:
    from farbe.files.store import ArtStore
    from farbe.samples.jobs import write_samples
    from farbe.samples.orders import write_morning

    with tempfile.TemporaryDirectory(prefix="farbe-") as scratch:
        store = ArtStore(Path(scratch))
        for path in (*write_samples(folder, store), *write_morning(folder, store)):
            typer.echo(str(path))
