"""The loupe: what lies at one place of the piece, in words."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF

from farbe.colour.lab import difference, lab_of_light
from farbe.desk.stations.layers.platestrip import list_plates
from farbe.follows.looking import Scene
from farbe.layout.figures import bare_length, decimal, measure
from farbe.model.printer import LayerKind
from farbe.optics.inks import InkSet
from farbe.optics.light import linear_table
from farbe.optics.look import opacity
from farbe.said import say

NOWHERE = say("Point at the piece to read its inks.")
#: Millilitres on a square metre of an ink that the printer does not list.
USUAL_LAYDOWN = 8.0


def values_at(scene: Scene | None, place: QPointF) -> str:
    """Each ink's percent at a place of the piece, the film, how far it hides, and the colours."""
    pixel = scene.part.pixel_at(place.x(), place.y()) if scene is not None else None
    if scene is None or pixel is None:
        return NOWHERE
    part, (y, x) = scene.part, pixel
    rows, build = [], 0.0
    machine = part.job.machine
    laydown = {ink.name.casefold(): machine.laid(ink) for ink in machine.inks}
    for layer, _, name, _, plate in list_plates(part):
        rows.append(f"{name}  {plate[y, x] / 2.55:.0f} %")
        ink = layer.ink or (name if layer.kind is LayerKind.COLOUR else layer.kind.value)
        build += plate[y, x] / 255 * layer.hits * laydown.get(ink.casefold(), USUAL_LAYDOWN)
    if not rows:
        return NOWHERE
    # A millilitre on a square metre is a micrometre.
    rows.append(
        say(
            "film {build} µm, hides {hidden} %",
            build=f"{build:.0f}",
            hidden=f"{hiding_at(scene, x, y) * 100:.0f}",
        )
    )
    art, view = part.artwork[y, x], scene.wanted.view
    gain = view.gain(scene.seen) if view.lit else None
    lab = lab_of_light(np.clip(scene.seen.light_at(y, x, view.lit, gain), 0.0, 1.0))
    shown = " ".join(decimal(figure, 1) for figure in lab.tolist())
    if art[3] >= 128:
        far = float(difference(lab, lab_of_light(linear_table()[art[:3]])))
        rows.append(
            say("seen as L*a*b* {shown}, ΔE00 {far} from the artwork", shown=shown,
                far=decimal(far, 1))
        )  # fmt: skip
    else:
        rows.append(say("seen as L*a*b* {shown}, no artwork here", shown=shown))
    return say(
        "{x}, {y} from the middle\n", x=bare_length(place.x(), 1), y=measure(place.y(), 1)
    ) + "\n".join(rows)


def hiding_at(scene: Scene, x: int, y: int) -> float:
    """Contrast ratio of all layers at one pixel."""
    part = scene.part
    inks = InkSet.of(part.job.printer, part.job.condition)
    spot = [plate[y : y + 1, x : x + 1] for plate in part.plates]
    return float(opacity(part.layers, spot, part.profile, inks)[0, 0])
