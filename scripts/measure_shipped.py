"""Measure how true predictions are for the printers that ship: on the test press, nominal.

    python scripts/measure_shipped.py

Prints a line for each kind of surface; they stand in ``farbe/plan/printers.py``.
"""

from __future__ import annotations

import tempfile
from pathlib import Path

from farbe.art.profiles import shipped_profile
from farbe.colour.lab import lab_of_xyz
from farbe.measure.choose import chart_patches
from farbe.measure.films import Measured, fitted_films, ground_of
from farbe.measure.teach import trueness
from farbe.model.piece import Material, Reader, Surface
from farbe.model.receiver import FileFormat
from farbe.optics.patches import predicted
from farbe.plan.printers import FLATBED
from farbe.plan.receivers import OPEN_PLATES
from farbe.press.device import APERTURE, read_spots
from farbe.press.machine import TestPress
from farbe.testprint.measured import measured_chart
from farbe.testprint.write import Setting, write_test_print

#: What is printed on, who reads it, the picture that shows it, and hits of white.
KINDS = (
    (Surface(colour="#262a2e"), Reader.FACE, "piece", 2),
    (Surface(material=Material.CLEAR), Reader.THROUGH, "turned", 2),
    (Surface(material=Material.TEXTILE, colour="#23262e"), Reader.TRANSFER, "pressed", 2),
    (Surface(material=Material.TRANSLUCENT, colour="#e8e6e0"), Reader.FACE, "piece", 1),
)


def main() -> None:
    printer = FLATBED.replace(dpi_x=127, dpi_y=127, modes=(), bed_height=400, conditions=())
    receiver = OPEN_PLATES.replace(formats=(FileFormat.TIFF,))
    for surface, reader, of, white in KINDS:
        patches = chart_patches(printer, colours=500, white=white, reader=reader)
        chart = measured_chart(
            patches, printer, receiver, surface, reader, shipped_profile(), white=white
        )
        with tempfile.TemporaryDirectory() as folder:
            out = Path(folder) / "chart"
            setting = Setting.of_measured(chart, printer, film=False)
            write_test_print(chart.chart, printer, receiver, out, setting=setting)
            press = TestPress()
            press.take(out)
            press.place()
            press.print_run("artwork", lambda *_: None)
            spots = [(spot.x, spot.y) for spot in chart.reference.spots]
            lab = lab_of_xyz(read_spots(press.spot_light(of, spots, APERTURE)))
        ground = ground_of(Measured(patches, lab), surface, reader)
        part = Measured(patches, lab).where(lambda p: p.is_colour and p.kept_out)
        films, left = fitted_films(Measured(patches, lab), printer, ground, reader)
        made = predicted(part.patches, printer, ground.surface, reader, shipped_profile(),
                         behind=ground.behind)  # fmt: skip
        print(surface.material, trueness(made, part.lab), *films, left, sep="\n  ")


if __name__ == "__main__":
    main()
