"""``farbe press ...``: the test press."""

import json
from pathlib import Path
from typing import Annotated, Any

import typer

from farbe.folders import press_folder, press_folders
from farbe.layout.figures import decimal
from farbe.model.base import BadInput
from farbe.said import say

Printer = Annotated[
    str, typer.Option("--printer", metavar="NAME", help=say("Whose press; else the one that runs."))
]
app = typer.Typer(
    no_args_is_help=True, help=say("The test press: print hand-offs, look at its state.")
)


@app.command(
    "print", help=say("Print a hand-off on a press of its own and write the picture of its bed.")
)
def print_command(
    folder: Annotated[Path, typer.Argument(metavar="DIR", help=say("A hand-off folder."))],
    picture: Annotated[Path, typer.Option(metavar="X.png", help=say("The bed after the print."))],
) -> None:
    from farbe.press.client import Press, print_hand_off

    if picture.suffix.lower() != ".png":
        raise BadInput(say("{picture} should end in .png.", picture=picture.name))
    with Press() as press:
        for line in print_hand_off(press, folder, picture):
            typer.echo(line)


@app.command(
    help=say("Start the press that the window and the queue print on; it stays when they end.")
)
def start(
    pace: Annotated[
        float, typer.Option(help=say("Times faster than a real press; 0 as fast as it can."))
    ] = 60.0,
    printer: Printer = "",
) -> None:
    from farbe.press.client import press_of

    with press_of(_folder(printer), pace=pace) as press:
        press.ask(do="pace", pace=pace)
    typer.echo(say("The press runs."))


def _folder(printer: str) -> Path:
    """The spool of a printer's press; if none is named, of the only one that runs, else of the
    flatbed's."""
    from farbe.plan.printers import FLATBED

    if printer:
        return press_folder(printer)
    running = [folder for folder in press_folders() if _runs(folder)]
    return running[0] if len(running) == 1 else press_folder(FLATBED.name)


def _runs(folder: Path) -> bool:
    from farbe.press.client import PressLine

    try:
        PressLine(folder).close()
    except BadInput:
        return False
    return True


def _ask(printer: str, **request: Any) -> dict[str, Any]:
    from farbe.press.client import PressLine

    with PressLine(_folder(printer)) as press:
        return press.ask(**request)


@app.command(help=say("Whether the press is ready, and its inks."))
def status(
    as_json: Annotated[bool, typer.Option("--json", help=say("All figures as JSON."))] = False,
    printer: Printer = "",
) -> None:
    found = _ask(printer, do="status")
    if as_json:
        typer.echo(json.dumps(found, indent=1))
        return
    typer.echo(say("ready") if found["ready"] else say("not ready: {why}", why=found["why"]))
    typer.echo(
        say(
            "heads at {temperature} °C, {job} on the bed",
            temperature=f"{found['temperature']:g}",
            job=found["job"] or say("no job"),
        )
    )
    for ink, ml in found["ink_ml"].items():
        typer.echo(
            say(
                "{ink}: {ml} of {full} ml",
                ink=ink,
                ml=decimal(ml, 1),
                full=f"{found['full_ml']:g}",
            )
        )


@app.command(help=say("Set or clear a fault, to see what happens then."))
def fault(
    name: Annotated[str, typer.Argument(help=say("As 'cover open' or 'media out'."))],
    clear: Annotated[bool, typer.Option("--clear", help=say("End it."))] = False,
    printer: Printer = "",
) -> None:
    _ask(printer, do="fault", name=name, on=not clear)


@app.command(help=say("Fill the tanks."))
def fill(
    ink: Annotated[str | None, typer.Argument(help=say("One ink; all, if not given."))] = None,
    ml: Annotated[float | None, typer.Option(help=say("To so many ml instead of full."))] = None,
    printer: Printer = "",
) -> None:
    _ask(printer, do="fill", ink=ink, **({} if ml is None else {"ml": ml}))


@app.command(help=say("A picture of the bed or of a piece."))
def picture(
    output: Annotated[Path, typer.Option("-o", "--output", metavar="X.png")],
    of: Annotated[str, typer.Option(help=say("bed, piece, turned or pressed"))] = "bed",
    number: Annotated[int, typer.Option(help=say("Which piece, from 0."))] = 0,
    garment: Annotated[
        int | None, typer.Option(help=say("Pressed onto which garment of the order, from 0."))
    ] = None,
    printer: Printer = "",
) -> None:
    _ask(printer, do="picture", path=str(output.absolute()), of=of, number=number, garment=garment)


@app.command(
    help=say("Move film that was turned over, by hand, where its line is not found; then go on.")
)
def move(
    x: Annotated[float, typer.Argument(help=say("Millimetres to the right."))],
    y: Annotated[float, typer.Argument(help=say("Millimetres away."))],
    printer: Printer = "",
) -> None:
    _ask(printer, do="move", x=x, y=y)


@app.command(
    help=say(
        "Print a chart, or a job with a control strip, on a press of its own and read it with a "
        "simulated device."
    )
)
def measure(
    folder: Annotated[
        Path, typer.Argument(metavar="DIR", help=say("The hand-off of the chart or job."))
    ],
    output: Annotated[
        Path, typer.Option("-o", "--output", metavar="X.txt", help=say("Readings, as CGATS text."))
    ],
    machine: Annotated[
        int, typer.Option(help=say("Which machine: 0 is nominal, others have inks of their own."))
    ] = 0,
    drift: Annotated[float, typer.Option(help=say("How far it has gone, 0 to 1."))] = 0.0,
    lit: Annotated[bool, typer.Option("--lit", help=say("By light from behind."))] = False,
    spectral: Annotated[
        bool, typer.Option("--spectral", help=say("Spectra instead of L*a*b*."))
    ] = False,
) -> None:
    from farbe.atomic import whole_file
    from farbe.files.placed import STRIP_FILE
    from farbe.files.reference import read_reference
    from farbe.press.client import Press
    from farbe.testprint.charts import (
        read_on_press,
        read_strip_on_press,
        readings_text,
        reference_in,
    )

    reference = reference_in(folder)
    of_job = reference.name == STRIP_FILE
    if of_job and lit:
        raise BadInput(say("A strip of a job is read by day; leave out --lit."))
    chart = read_reference(reference)
    with Press() as press:
        press.ask(do="become", machine=machine, drift=drift)
        if of_job:
            found = read_strip_on_press(press, folder, chart)
        else:
            (found,) = read_on_press(press, folder, chart, by_lamp=(lit,))
    with whole_file(output) as file:
        file.write(readings_text(found, spectral=spectral).encode("ascii"))
    typer.echo(say("{count} patches were read.", count=len(chart.spots)))


@app.command("machine", help=say("Be another machine, whose inks are not the nominal ones."))
def machine_command(
    number: Annotated[int, typer.Argument(help=say("Which; 0 is nominal."))],
    drift: Annotated[float, typer.Option(help=say("How far it has gone, 0 to 1."))] = 0.0,
    printer: Printer = "",
) -> None:
    _ask(printer, do="become", machine=number, drift=drift)


@app.command(help=say("Stop what prints in the middle; it can go on later."))
def halt(printer: Printer = "") -> None:
    _ask(printer, do="stop")


@app.command(help=say("Switch the press off; its inks and what lies on its bed are remembered."))
def off(printer: Printer = "") -> None:
    _ask(printer, do="quit")
