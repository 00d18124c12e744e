"""Checks of what is printed or cut around a piece, and of type: does it meet what is beside it?"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial

import numpy as np
from shapely import Polygon
from shapely.geometry import box
from shapely.geometry.base import BaseGeometry

from farbe.checks.check import Check, CheckPlace, Facts, Fix, rule
from farbe.checks.pocketrules import listed
from farbe.checks.weight import Weight
from farbe.kept import Kept
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.figures import measure
from farbe.layout.guide import guide_reach, guide_shape
from farbe.layout.laid import LaidPiece, allotted, laid, printed
from farbe.layout.lettering import in_one_line, set_box, type_size
from farbe.layout.near import meets
from farbe.layout.outline import outline
from farbe.model.jig import GuideStyle
from farbe.model.piece import Shape
from farbe.model.text import TextBox
from farbe.plan.stations import Station
from farbe.render.guide import FIGURES, STAND_OFF
from farbe.render.marks import marks_shape
from farbe.said import inside, say, say_count, spoken

#: Area in mm² that may be shared where things but touch.
TOUCH = 0.01
#: Height of a box, in heights of capitals in its middle, that holds accents and tails.
ROOM = 1.75
#: Share of a line of type that may lie outside its box for overshoot of round letters.
OVERSHOOT = 0.04


def _met(
    pieces: tuple[LaidPiece, ...],
    around: Callable[[LaidPiece], BaseGeometry],
    told: Callable[[LaidPiece], int] = lambda piece: 0,
) -> list[int]:
    """Numbers of pieces whose surroundings reach into another piece.

    Those of one form have the same surroundings, unless they are ``told`` apart.
    """
    shapes: dict[tuple[int, int], int] = {}
    made: list[BaseGeometry] = []
    kinds = []
    for piece in pieces:
        key = piece.form, told(piece)
        if key not in shapes:
            shapes[key] = len(made)
            made.append(around(piece))
        kinds.append(shapes[key])
    return [pieces[at].number for at in meets(pieces, made, kinds, TOUCH)]


def _figures_box(piece: LaidPiece) -> Polygon:
    """Where the guide prints a pocket's number, about as wide as its figures are."""
    job = piece.job
    width, height = piece.size
    off = guide_reach(job.guide) + STAND_OFF
    left, top = -width / 2 - off, height / 2 + off
    return box(left, top - FIGURES, left + 0.65 * FIGURES * len(str(piece.shown)), top)


def _numbers_off(job: Faced) -> Faced:
    return job.replace(guide=job.guide.replace(numbers=False))


def _marks_off(job: Faced) -> Faced:
    return job.replace(marks=job.marks.replace(trim=False))


@rule("kerb-on-neighbour", "number-on-neighbour", "marks-on-neighbour")
def surroundings_keep_off_neighbours(facts: Facts) -> Iterator[Check]:
    """Kerb, numbers and marks of a piece do not reach into the next one."""
    job = facts.job
    pieces = laid(job)
    if carrier_of(job).has_guide:
        met = _met(pieces, lambda piece: piece.around(guide_shape(piece.job.guide, piece.straight)))
        if met:
            yield _reaching(
                "kerb-on-neighbour",
                say("The kerb of") if job.guide.style is GuideStyle.KERB else say("The outline of"),
                met,
                "guide",
                None,
            )
        if job.guide.numbers:
            met = _met(pieces, _figures_box, lambda piece: len(str(piece.shown)))
            if met:
                yield _reaching("number-on-neighbour", say("The number of"), met, "gap",
                                Fix(say("No numbers"), _numbers_off))  # fmt: skip
    if job.marks.trim:
        met = _met(printed(job), lambda piece: piece.around(marks_shape(piece.of)))
        if met:
            yield _reaching("marks-on-neighbour", say("Trim marks of"), met, "gap",
                            Fix(say("No trim marks"), _marks_off))  # fmt: skip


def _reaching(
    code: str, what: str, met: list[int], why: str, fix: Fix | None,
    weight: Weight = Weight.CAUTION,
) -> Check:  # fmt: skip
    do = say("widen the gap") if why == "gap" else say("widen the gap or print a narrower one")
    return Check(
        code,
        weight,
        say_count(
            len(met),
            "{what} {pockets} reaches into the piece beside it; {do}.",
            "{what} {pockets} reach into the piece beside it; {do}.",
            what=what,
            pockets=inside(listed(tuple(met))),
            do=do,
        ),
        Station.BED,
        fix,
        figure=float(len(met)),
        unit="pockets",
    )


@dataclass(frozen=True)
class _Seen:
    """Type as it is set: its size in mm, whether it lies off its piece, or over its box."""

    size: float
    outside: bool
    tall: bool


#: Texts of thousands of pockets, which stay the same as their jig is edited.
_SEEN: Kept[tuple[TextBox, Shape], _Seen | None] = Kept(8000)


def _seen(text: TextBox, shape: Shape, font: bytes) -> _Seen | None:
    """What there is to say of a text; None of one without letters."""
    glyphs = set_box(text, font)
    if not glyphs:
        return None
    size = type_size(text, font).size
    ends = np.concatenate([ring for rings in glyphs for ring in rings])
    drawn = box(*ends.min(axis=0), *ends.max(axis=0))
    turn = math.radians(-text.rotation)
    back = np.array([[math.cos(turn), math.sin(turn)], [-math.sin(turn), math.cos(turn)]])
    up = ((ends - (text.x, text.y)) @ back)[:, 1]
    return _Seen(
        size=size,
        # Letters are judged by their box; round pieces cut off its corners first.
        outside=drawn.difference(outline(shape)).area > 0.02 * drawn.area,
        # On a curve letters leave their box by nature.
        tall=text.radius == 0 and bool(np.abs(up).max() > text.height / 2 + OVERSHOOT * size),
    )


@rule("text-small", "text-outside", "text-tall")
def type_can_be_read(facts: Facts) -> Iterator[Check]:
    """Type is large enough to be read, stays in its box and on its piece."""
    job, least = facts.job, facts.job.printer.least_type
    shape = job.piece.shape
    small: list[tuple[float, int, TextBox]] = []
    outside: list[tuple[int, TextBox]] = []
    tall: list[tuple[int, TextBox]] = []
    for pocket, what in allotted(job).prints.items():
        for text in (box_ for box_ in what.texts if box_.code is None):
            font = facts.sources.font(text)
            seen = _SEEN.get((text, shape), partial(_seen, text, shape, font))
            if seen is None:
                continue
            if seen.size < least - 1e-6:
                small.append((seen.size, pocket, text))
            if seen.outside:
                outside.append((pocket, text))
            if seen.tall:
                tall.append((pocket, text))
    if small:
        size, pocket, text = min(small, key=lambda one: one[0])
        yield Check(
            "text-small",
            Weight.CAUTION,
            say(
                "{who} {size} high; under {least} {printer} prints no type that can be read.",
                who=_who(len(small), pocket, text),
                size=measure(round(size, 2)),
                least=measure(least),
                printer=spoken(job.printer.name),
            ),
            Station.BED,
            figure=least - size,
            unit="mm",
            count=len(small),
            places=_where(small[:12], facts),
        )
    if outside:
        pocket, text = outside[0]
        yield Check(
            "text-outside",
            Weight.STOP,
            say(
                "{who} not wholly on the piece; move its box.", who=_who(len(outside), pocket, text)
            ),
            Station.BED,
            figure=float(len(outside)),
            unit="pockets",
            count=len(outside),
            places=_where([(0.0, *one) for one in outside[:12]], facts),
        )
    if tall:
        pocket, text = tall[0]
        yield Check(
            "text-tall",
            Weight.CAUTION,
            say(
                "{who} higher than its box: accents or tails reach over it; make the box "
                "higher or the type smaller.",
                who=_who(len(tall), pocket, text),
            ),
            Station.BED,
            Fix(say("Higher boxes"), _higher),
            figure=float(len(tall)),
            unit="pockets",
            count=len(tall),
            places=_where([(0.0, *one) for one in tall[:12]], facts),
        )


def _higher(job: Faced) -> Faced:
    """The job with room for accents and tails in its boxes of type, whose size stays."""
    texts = (
        text.replace(height=max(text.height, ROOM * min(text.size, text.height)),
                     size=min(text.size, text.height))
        for text in job.texts
    )  # fmt: skip
    return job.replace(texts=tuple(texts))


def _who(count: int, pocket: int, text: TextBox) -> str:
    said = in_one_line(text.text)
    if count == 1:
        return say("Pocket {pocket}: “{text}” is", pocket=pocket, text=said)
    return say(
        "Pocket {pocket}: “{text}” and {more} more are", pocket=pocket, text=said, more=count - 1
    )


def _where(found: list[tuple[float, int, TextBox]], facts: Facts) -> tuple[CheckPlace, ...]:
    return tuple(
        CheckPlace(pocket, text.x - text.width / 2, text.y - text.height / 2, text.width,
                   text.height, text.x, text.y, facts.job.number)
        for _, pocket, text in found
    )  # fmt: skip
