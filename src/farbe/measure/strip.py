"""The control strip: a few patches that tell later whether the printer has drifted."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

import numpy as np

from farbe.colour.lab import difference
from farbe.files.reference import Reference
from farbe.measure.curves import looks_of
from farbe.measure.films import Measured, ground_of
from farbe.measure.match import matched
from farbe.measure.readings import Readings
from farbe.model.base import BadInput
from farbe.model.condition import Condition, Drift
from farbe.model.patch import STRIP_INKS, Base, Patch
from farbe.model.printer import LayerKind, Printer
from farbe.optics.patches import predicted
from farbe.said import say, spoken

#: Drifts of a condition that are kept.
MOST_DRIFTS = 500


def strip_patches(printer: Printer, white: int) -> tuple[Patch, ...]:
    """The patches of the strip: bare, white, each ink, their mixtures, and greys.

    Parameters
    ----------
    printer : whose inks are printed
    white : hits of white behind the colours
    """
    found = [Patch(), *(Patch(white=white) for _ in range(2 if white else 0))]
    found += [Patch(inks=(c, m, y, k), white=white) for c, m, y, k in STRIP_INKS]
    if printer.inks_of(LayerKind.WHITE):
        found += [Patch(white=hits, base=Base.BLACK) for hits in (1, 2)]
    return tuple(found)


def is_strip(reference: Reference) -> bool:
    """Whether a chart is a control strip: nothing of it is kept out to judge anything.

    Parameters
    ----------
    reference : of the chart
    """
    return not any(patch.kept_out for patch in reference.patches)


def fitting(reference: Reference, printer: Printer) -> Condition:
    """The condition of a printer that a strip belongs to.

    Parameters
    ----------
    reference : of the strip
    printer : that printed it

    Raises
    ------
    BadInput
        If the printer has none for its surface and mode.
    """
    mode = next((one for one in printer.modes if one.name == reference.mode), None)
    on = printer if mode is None else printer.in_mode(mode)
    found = on.condition(reference.surface.material)
    if found is None:
        raise BadInput(
            say("{printer} has no condition that the strip could belong to; take the readings of a "
                "chart first.", printer=spoken(printer.name))
        )  # fmt: skip
    return found


def with_drift(
    reference: Reference,
    readings: Sequence[Readings],
    printer: Printer,
    condition: Condition,
    profile: bytes,
    when: date,
) -> Condition:
    """A condition with how far a later strip is from what it says.

    Parameters
    ----------
    reference : of the strip
    readings : of it, at least one
    printer : that printed it
    condition : that it belongs to
    profile : of the condition, ICC bytes
    when : the day of the print

    Raises
    ------
    BadInput
        If the readings are of another chart.
    """
    found = matched(reference, readings)
    read = Measured(reference.patches, looks_of(found.xyz))
    ground = ground_of(read, reference.surface, reference.reader)
    part = read.where(lambda patch: patch != Patch())
    made = predicted(part.patches, printer, ground.surface, reference.reader, profile,
                     condition=condition, behind=ground.behind)  # fmt: skip
    far = difference(made, part.lab)
    drift = Drift(when=when, mean=round(float(np.mean(far)), 3), worst=round(float(far.max()), 3))
    earlier = [one for one in condition.drifts if one.when != when]
    drifts = sorted([*earlier, drift], key=lambda one: one.when)
    return condition.replace(drifts=tuple(drifts[-MOST_DRIFTS:]))
