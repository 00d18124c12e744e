"""How much of each ink is sent: the curves of the job's condition, and the limits of both."""

from __future__ import annotations

from farbe.layout.faced import Faced
from farbe.model.layer import Layer
from farbe.separate.inkwork import InkLimits
from farbe.separate.sent import Levels, sent_levels


def ink_limits(job: Faced) -> InkLimits:
    """The most process ink: what the job says, or its condition if that is less.

    Parameters
    ----------
    job : as one of its faces has it
    """
    conversion, condition = job.conversion, job.condition
    if condition is None:
        return InkLimits(conversion.total, conversion.each)
    c, m, y, k = (min(pair) for pair in zip(conversion.each, condition.each, strict=True))
    return InkLimits(min(conversion.total, condition.total), (c, m, y, k))


def layer_curves(job: Faced, layer: Layer) -> tuple[Levels | None, ...]:
    """The curve of each ink that a layer is printed with, where the condition has one.

    Parameters
    ----------
    job : as one of its faces has it
    layer : any of its stack

    Returns
    -------
    uint8 (256,) for each of the layer's plates, or None; empty without any.
    """
    condition = job.condition
    if condition is None or not condition.curves:
        return ()
    curves = [condition.curve(ink.name) for ink in job.printer.inks_of(layer.kind, layer.ink)]
    return tuple(None if curve is None else sent_levels(curve) for curve in curves)
