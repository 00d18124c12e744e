"""``farbe testprint chart``, ``farbe condition`` and measuring on the test press."""

import tempfile
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from farbe.model.base import BadInput
from farbe.said import say, shipped

if TYPE_CHECKING:
    from farbe.files.reference import Reference
    from farbe.files.store import ArtStore
    from farbe.measure.teach import Taught
    from farbe.model.condition import Trueness
    from farbe.model.printer import Printer


def condition(
    reference: Annotated[
        Path,
        typer.Argument(metavar="CHART", help=say("The chart's hand-off, or its reference file.")),
    ],
    readings: Annotated[
        list[Path],
        typer.Argument(metavar="READINGS...", help=say("CGATS, CxF or CSV; several are averaged.")),
    ],
    output: Annotated[
        Path,
        typer.Option("-o", "--output", metavar="OUT",
                     help=say("X.condition.json, or X.printer.json with the condition in it.")),
    ],
    printer: Annotated[
        str, typer.Option(metavar="NAME|X.printer.json", help=say("That printed the chart."))
    ],
    lit: Annotated[
        list[Path] | None,
        typer.Option(metavar="READINGS", help=say("Read by light from behind; more than one.")),
    ] = None,
    name: Annotated[str, typer.Option(help=say("Of the condition."))] = "",
    detail: Annotated[
        str, typer.Option(help=say("Of the profile: low, medium or high."))
    ] = "medium",
    keep_profile: Annotated[
        bool,
        typer.Option("--keep-profile", help=say("Make no profile; judge the one in use instead.")),
    ] = False,
    profile: Annotated[
        Path | None,
        typer.Option(metavar="X.icc", help=say("With --keep-profile: judge this one.")),
    ] = None,
    as_sent: Annotated[
        bool, typer.Option("--as-sent", help=say("Give the inks no curves."))
    ] = False,
    when: Annotated[
        str | None,
        typer.Option(metavar="YYYY-MM-DD", help=say("The day of the print; else today.")),
    ] = None,
) -> None:  # fmt: skip
    """Teach a printer from readings of a chart: films, curves, limits and profile."""
    from farbe.art.profiles import shipped_profile
    from farbe.files.printerfile import (
        CONDITION_SUFFIX,
        SUFFIX,
        printer_by,
        write_condition,
        write_printer,
    )
    from farbe.files.reference import read_reference
    from farbe.files.store import ArtStore
    from farbe.measure.profile import Detail
    from farbe.measure.readings import read_readings
    from farbe.measure.strip import is_strip
    from farbe.measure.teach import Wishes, taught
    from farbe.plan.words import choice
    from farbe.testprint.charts import reference_in

    if not output.name.endswith((SUFFIX, CONDITION_SUFFIX)):
        raise BadInput(
            say("{output} should end in {condition} or {printer}.", output=output.name,
                condition=CONDITION_SUFFIX, printer=SUFFIX)
        )  # fmt: skip
    found = read_reference(reference_in(reference) if reference.is_dir() else reference)
    with tempfile.TemporaryDirectory(prefix="farbe-condition-") as folder:
        store = ArtStore(Path(folder))
        on = printer_by(printer, store)
        if is_strip(found):
            _follow_drift(found, readings, on, store, _day(when), output)
            return
        before = on.condition(found.surface.material)
        in_use = None if before is None else before.profile
        if profile is not None:
            in_use = store.add_profile(profile)
        called = name or say("{surface}, {mode}", surface=found.surface.material.words,
                             mode=found.mode or say("any mode"))  # fmt: skip
        made = taught(
            found, [read_readings(path) for path in readings], on,
            shipped_profile() if in_use is None else store.profile_bytes(in_use),
            Wishes(
                called, _day(when), linear=not as_sent, profile=not keep_profile,
                detail=choice(Detail, detail, shipped("detail")), judged=in_use,
            ),
            lit=[read_readings(path) for path in lit or ()], before=before,
        )  # fmt: skip
        for icc in made.profiles.values():
            store.add_bytes(icc)
        if output.name.endswith(SUFFIX):
            write_printer(on.knowing(made.condition), store, output)
        else:
            write_condition(made.condition, store, output)
    for line in words_of(made):
        typer.echo(line)


def _follow_drift(
    chart: "Reference",
    paths: list[Path],
    printer: "Printer",
    store: "ArtStore",
    day: date,
    output: Path,
) -> None:
    """Tell how far a control strip is off, and write that down."""
    from farbe.art.profiles import shipped_profile
    from farbe.files.printerfile import SUFFIX, write_condition, write_printer
    from farbe.measure.readings import read_readings
    from farbe.measure.strip import fitting, with_drift

    belongs = fitting(chart, printer)
    profile = shipped_profile() if belongs.profile is None else store.profile_bytes(belongs.profile)
    read = [read_readings(path) for path in paths]
    made = with_drift(chart, read, printer, belongs, profile, day)
    if output.name.endswith(SUFFIX):
        write_printer(printer.knowing(made), store, output)
    else:
        write_condition(made, store, output)
    last = next(one for one in made.drifts if one.when == day)
    typer.echo(
        say("The strip is off by ΔE00 {mean} on the mean, {worst} at worst; {most} is allowed.",
            mean=f"{last.mean:.2f}", worst=f"{last.worst:.2f}", most=f"{made.most_drift:g}")
    )  # fmt: skip


def _day(text: str | None) -> date:
    if text is None:
        return date.today()
    try:
        return date.fromisoformat(text)
    except ValueError:
        raise BadInput(say("{text} is no day; write it as 2026-11-27.", text=text)) from None


def words_of(made: "Taught") -> list[str]:
    """What is said of a condition: how true it is, its films, its limits, what was found."""
    condition = made.condition
    lines = [*made.said, say("before: {true}", true=true_words(made.before))]
    if condition.trueness is not None:
        lines.append(say("now: {true}", true=true_words(condition.trueness)))
    for film in condition.films:
        reflected, through = sum(film.reflected) / 3, sum(film.through) / 3
        lines.append(
            say("{ink}: one hit reflects {reflected} %, lets {through} % through",
                ink=film.ink, reflected=f"{100 * reflected:.1f}", through=f"{100 * through:.1f}")
        )  # fmt: skip
    lines.append(
        say("process ink that is worth it: {total} % together, {each} % each",
            total=f"{condition.total:.0f}", each=", ".join(f"{one:.0f}" for one in condition.each))
    )  # fmt: skip
    lines.append(say("varnish: {gloss}", gloss=condition.gloss.words))
    return lines


def true_words(true: "Trueness") -> str:
    """How true predictions are, in words."""
    return say(
        "ΔE00 {mean} on the mean, {most} for 95 of 100, {worst} at worst, of {patches} patches",
        mean=f"{true.mean:.2f}", most=f"{true.most:.2f}", worst=f"{true.worst:.2f}",
        patches=true.patches,
    )  # fmt: skip
