"""Checks of codes that machines read."""

from __future__ import annotations

from collections.abc import Iterator

from shapely import affinity
from shapely.geometry import Polygon, box

from farbe.checks.check import Check, CheckPlace, Facts, rule
from farbe.checks.weight import Weight
from farbe.layout.codes import code_size
from farbe.layout.figures import measure
from farbe.layout.laid import allotted
from farbe.layout.outline import outline
from farbe.model.base import BadInput
from farbe.model.printer import LayerKind
from farbe.model.text import TextBox
from farbe.plan.stations import Station
from farbe.said import say

#: Smallest module in mm that hand-held readers take (ISO/IEC 15415 and 15416 grade by aperture).
LEAST = 0.25
#: And in the least stroke or gap that the printer holds.
STROKES = 3.0


def _codes(facts: Facts) -> Iterator[tuple[int, TextBox, tuple[TextBox, ...]]]:
    """Pockets with their codes, and all that is lettered there."""
    for pocket, what in allotted(facts.job).prints.items():
        for text in what.texts:
            if text.code is not None:
                yield pocket, text, what.texts


def _where(facts: Facts, pocket: int, text: TextBox) -> tuple[CheckPlace, ...]:
    left, bottom = text.x - text.width / 2, text.y - text.height / 2
    return (
        CheckPlace(pocket, left, bottom, text.width, text.height, text.x, text.y,
                   facts.job.number),
    )  # fmt: skip


def _area(text: TextBox) -> Polygon:
    there = box(-text.width / 2, -text.height / 2, text.width / 2, text.height / 2)
    return affinity.translate(affinity.rotate(there, text.rotation, origin=(0, 0)), text.x, text.y)


@rule("code-words")
def codes_can_be_told(facts: Facts) -> Iterator[Check]:
    """What a code is to say can be told by a code of its kind."""
    for pocket, text, _ in _codes(facts):
        try:
            code_size(text)
        except BadInput as error:
            yield Check(
                "code-words",
                Weight.STOP,
                say(
                    "Pocket {pocket}: {error} Choose another kind of code, or mend the text.",
                    pocket=pocket,
                    error=str(error),
                ),
                Station.BED,
                places=_where(facts, pocket, text),
            )
            return


@rule("code-fine")
def modules_are_large_enough(facts: Facts) -> Iterator[Check]:
    """Modules are as wide as readers and the printer need."""
    inks = [ink for ink in facts.job.machine.inks if ink.kind is not LayerKind.VARNISH]
    least = max([LEAST, *(STROKES * max(ink.stroke, ink.gap) for ink in inks)])
    found: list[tuple[float, int, TextBox]] = []
    for pocket, text, _ in _codes(facts):
        try:
            module = code_size(text).module
        except BadInput:
            continue
        if module < least - 1e-9:
            found.append((module, pocket, text))
    if found:
        module, pocket, text = min(found, key=lambda one: one[0])
        yield Check(
            "code-fine",
            Weight.CAUTION,
            say(
                "Pocket {pocket}: the modules of the code “{text}” are {module} wide; under "
                "{least} readers miss them. Make its box larger or its text shorter.",
                pocket=pocket,
                text=text.text,
                module=measure(round(module, 3), 3),
                least=measure(round(least, 3), 3),
            ),
            Station.BED,
            figure=least - module,
            unit="mm",
            count=len(found),
            places=_where(facts, pocket, text),
        )


@rule("code-quiet")
def quiet_zones_stay_free(facts: Facts) -> Iterator[Check]:
    """A code with its quiet zone lies on the piece, and nothing else is lettered in it."""
    piece = outline(facts.job.piece.shape)
    for pocket, text, beside in _codes(facts):
        own = _area(text)
        # Corners are judged by the box; round pieces cut off the first of it.
        off = own.difference(piece).area > 0.005 * own.area
        under = any(
            other is not text and own.intersection(_area(other)).area > 0.01 for other in beside
        )
        if off or under:
            yield Check(
                "code-quiet",
                Weight.CAUTION,
                say(
                    "Pocket {pocket}: the code “{text}” with its quiet zone does not lie on the "
                    "piece as a whole; move its box.",
                    pocket=pocket,
                    text=text.text,
                )
                if off
                else say(
                    "Pocket {pocket}: other lettering lies in the quiet zone of the code "
                    "“{text}”; move one of them.",
                    pocket=pocket,
                    text=text.text,
                ),
                Station.BED,
                places=_where(facts, pocket, text),
            )
            return
