"""What is read from a ladder becomes a value of a recipe or a job."""

from __future__ import annotations

import math

from farbe.model.base import BadInput
from farbe.model.layer import Layer
from farbe.model.printer import LayerKind
from farbe.model.treatment import Choke, Ease, Limit
from farbe.said import say
from farbe.testprint.chart import ChartKind

#: Kinds of which a figure is read, and what it is.
READINGS = {
    ChartKind.CHOKE: say("the first choke without a white rim, in mm"),
    ChartKind.WHITE: say("the least white that looks full, in percent"),
    ChartKind.EASE: say("the least white below black that neither cracks nor greys, in percent"),
    ChartKind.VARNISH: say("the hits of varnish that are high enough"),
}

#: The treatment that takes a reading, and its field.
_TAKES: dict[ChartKind, tuple[Choke | Limit | Ease, str]] = {
    ChartKind.CHOKE: (Choke(), "by"),
    ChartKind.WHITE: (Limit(), "percent"),
    ChartKind.EASE: (Ease(), "least"),
}


def with_reading(stack: tuple[Layer, ...], kind: ChartKind, value: float) -> tuple[Layer, ...]:
    """A stack with what was read from a ladder in every layer that it is about.

    Parameters
    ----------
    stack : from the substrate up
    kind : of the chart that was read
    value : what was read, in the chart's own unit

    Returns
    -------
    The stack with the treatment that follows.

    Raises
    ------
    BadInput
        If nothing is read from such a print, the figure cannot be, or no layer takes it.
    """
    if kind not in READINGS:
        known = ", ".join(one.words for one in READINGS)
        raise BadInput(
            say(
                "No figure is read from the test print {kind}; only from: {known}.",
                kind=kind.words,
                known=known,
            )
        )
    wanted = LayerKind.VARNISH if kind is ChartKind.VARNISH else LayerKind.WHITE
    if not any(layer.kind is wanted for layer in stack):
        raise BadInput(
            say("There is no layer of {wanted} that could take the reading.", wanted=wanted.words)
        )
    return tuple(_read(layer, kind, value) if layer.kind is wanted else layer for layer in stack)


def _read(layer: Layer, kind: ChartKind, value: float) -> Layer:
    if kind is ChartKind.VARNISH:
        return layer.replace(hits=round(value) if math.isfinite(value) else value)
    plain, field = _TAKES[kind]
    there = [type(one) is type(plain) for one in layer.treatments]
    if not any(there):
        fresh = plain.replace(**{field: value})
        return layer.replace(treatments=(*layer.treatments, fresh))
    first = there.index(True)
    changed = layer.treatments[first].replace(**{field: value}, on=True)
    return layer.replace(
        treatments=(*layer.treatments[:first], changed, *layer.treatments[first + 1 :])
    )
