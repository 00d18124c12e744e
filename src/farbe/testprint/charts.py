"""Charts written with their reference, and read off the test press by a simulated device."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from farbe.files.placed import STRIP_FILE
from farbe.files.reference import Reference, write_reference
from farbe.files.ticket import read_ticket
from farbe.measure.choose import chart_patches
from farbe.measure.readings import Readings
from farbe.measure.strip import strip_patches
from farbe.model.piece import Material, Reader, Surface
from farbe.model.printer import LayerKind, Printer
from farbe.model.receiver import Receiver
from farbe.press.client import (
    PressLine,
    print_first_side,
    read_of_press,
    read_strip,
)
from farbe.press.device import as_cgats
from farbe.render.raster import Report, unwatched
from farbe.said import say
from farbe.testprint.measured import Manner, MeasuredChart, measured_chart
from farbe.testprint.write import Setting, write_test_print

#: Name of the reference in a chart's hand-off.
REFERENCE = "chart.reference.txt"


@dataclass(frozen=True)
class ChartWishes:
    """What chart is wanted.

    Attributes
    ----------
    surface, reader : what it is printed on, and from which side it is read
    colours : besides the ramps; 0 is a control strip
    white : hits of white behind them; None is one hit where the printer has white and the
        surface needs it
    manner : how it is read
    film : it is printed on film
    seed : another number mixes it otherwise
    """

    surface: Surface
    reader: Reader
    colours: int = 500
    white: int | None = None
    manner: Manner = Manner.BY_HAND
    film: bool = False
    seed: int = 1

    def hits(self, printer: Printer) -> int:
        """Hits of white behind the colours.

        Parameters
        ----------
        printer : that prints it
        """
        if self.white is not None:
            return self.white
        return int(bool(printer.inks_of(LayerKind.WHITE)))


def write_chart(
    wishes: ChartWishes,
    printer: Printer,
    receiver: Receiver,
    profile: bytes,
    folder: Path,
    *,
    report: Report = unwatched,
) -> MeasuredChart:
    """Write a chart's hand-off, with its reference in it.

    Parameters
    ----------
    wishes : what chart
    printer, receiver : that print it
    profile : the printer's CMYK profile, ICC bytes
    folder : of the new hand-off
    report : is told how far it is

    Raises
    ------
    BadInput
        If the bed is too small for it, or the folder cannot be written to.
    """
    white = wishes.hits(printer)
    patches = (
        chart_patches(
            printer, colours=wishes.colours, white=white, reader=wishes.reader, seed=wishes.seed
        )
        if wishes.colours
        else strip_patches(printer, white)
    )
    chart = measured_chart(
        patches, printer, receiver, wishes.surface, wishes.reader, profile, white=white,
        manner=wishes.manner, film=wishes.film,
    )  # fmt: skip
    setting = Setting.of_measured(chart, printer, film=wishes.film)
    write_test_print(chart.chart, printer, receiver, folder, setting=setting, report=report)
    write_reference(chart.reference, folder / REFERENCE)
    return chart


def reference_in(folder: Path) -> Path:
    """The reference in a hand-off: a chart's, or that of a job's own strip.

    Parameters
    ----------
    folder : the hand-off

    Returns
    -------
    Its path; the chart's where there is neither.
    """
    of_job = folder / STRIP_FILE
    chart = folder / REFERENCE
    return of_job if of_job.exists() and not chart.exists() else chart


def chart_words(chart: MeasuredChart) -> str:
    """What a chart is, in one line.

    Parameters
    ----------
    chart : that was written
    """
    reference = chart.reference
    return say(
        "chart {chart}: {patches} patches in rows of {columns}, {wide} × {high} mm",
        chart=reference.chart, patches=len(reference.spots), columns=reference.columns,
        wide=f"{chart.width:.0f}", high=f"{chart.height:.0f}",
    )  # fmt: skip


def lets_through(surface: Surface) -> bool:
    """Whether a surface can be read by light from behind.

    Parameters
    ----------
    surface : that a chart is printed on
    """
    return surface.material in (Material.CLEAR, Material.TRANSLUCENT)


def read_on_press(
    press: PressLine, folder: Path, reference: Reference, *, by_lamp: Sequence[bool] = (False,)
) -> list[Readings]:
    """Print a chart on the test press and read it with the simulated device.

    Parameters
    ----------
    press : on the line
    folder : the chart's hand-off
    reference : of it
    by_lamp : each way it is read: by light from behind, or by day

    Returns
    -------
    Readings of each way.
    """
    print_first_side(press, folder)
    spots = [(spot.x, spot.y) for spot in reference.spots]
    names = tuple(spot.name for spot in reference.spots)
    return [
        Readings(
            say("test device, by light from behind") if lit else say("test device"), names,
            read_of_press(press, spots, reference.reader.value, lit=lit),
        )
        for lit in by_lamp
    ]  # fmt: skip


def read_strip_on_press(press: PressLine, folder: Path, reference: Reference) -> Readings:
    """Print a job's hand-off on the test press and read its strip with the simulated device.

    Parameters
    ----------
    press : on the line
    folder : the hand-off of a job with a control strip
    reference : of the strip
    """
    print_first_side(press, folder)
    spots = [(spot.x, spot.y) for spot in reference.spots]
    read = read_strip(press, read_ticket(folder), spots, reference.reader.value, lit=False)
    return Readings(say("test device"), tuple(spot.name for spot in reference.spots), read)


def readings_text(readings: Readings, *, spectral: bool) -> str:
    """Readings of the simulated device as text by CGATS.17.

    Parameters
    ----------
    readings : of a chart
    spectral : spectra instead of L*a*b*
    """
    return as_cgats(readings.names, readings.xyz, spectral=spectral)
