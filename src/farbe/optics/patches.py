"""Patches of a chart, and what they are predicted to look like."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from farbe.colour.lab import lab_of_light
from farbe.model.condition import Condition
from farbe.model.layer import BLACKOUT, COLOUR, VARNISH_OVER, WHITE_UNDER, Layer
from farbe.model.patch import Base, Patch, level_of
from farbe.model.piece import Reader, Surface
from farbe.model.printer import LayerKind, Printer
from farbe.optics.inks import InkSet
from farbe.optics.look import seen
from farbe.said import shipped

Floats = npt.NDArray[np.float64]
#: Hits of the white and of the black that lie behind other films to show how far they hide.
WHITE_BASE, BLACK_BASE = 4, 2
#: Hits of white and of blackout that a chart has at the most.
MOST_WHITE, MOST_BLACKOUT = 4, 2


@dataclass(frozen=True)
class ChartLayer:
    """A film of a chart as a layer, and how much of it each patch has."""

    layer: Layer
    levels: tuple[tuple[int, ...], ...]

    @property
    def printed(self) -> bool:
        """Whether any patch has some of it."""
        return any(any(row) for row in self.levels)


def chart_layers(patches: Sequence[Patch], printer: Printer, reader: Reader) -> list[ChartLayer]:
    """The films of a chart from the substrate up; those that no patch has are left out.

    Parameters
    ----------
    patches : of the chart
    printer : whose inks there are
    reader : from which side it is read
    """
    films = list(_from_the_eye(patches, printer))
    found = [film for film in films if film.printed]
    return found[::-1] if reader is Reader.FACE else found


def _from_the_eye(patches: Sequence[Patch], printer: Printer) -> list[ChartLayer]:
    def layer(plain: Layer, name: str, *, hits: int = 1, ink: str | None = None) -> Layer:
        return plain.replace(name=name, hits=hits, treatments=(), ink=ink)

    def solid(yes: bool) -> int:
        return 255 if yes else 0

    named = [ink.name for ink in printer.inks if ink.kind is LayerKind.NAMED]
    films = [
        (layer(VARNISH_OVER, shipped("Varnish")), [[solid(p.varnish) for p in patches]]),
        (
            layer(COLOUR, shipped("Colour")),
            [[level_of(p.inks[ink]) for p in patches] for ink in range(4)],
        ),
    ]
    for ink in named:
        amounts = [level_of(p.amount) if p.named == ink else 0 for p in patches]
        plain = Layer(kind=LayerKind.NAMED, name=ink, ink=ink)
        films.append((layer(plain, ink, ink=ink), [amounts]))
    for hit in range(1, max((p.white for p in patches), default=0) + 1):
        levels = [level_of(p.level) if p.white >= hit else 0 for p in patches]
        films.append((layer(WHITE_UNDER, f"{WHITE_UNDER.name} {hit}"), [levels]))
    for hit in range(1, max((p.blackout for p in patches), default=0) + 1):
        levels = [solid(p.blackout >= hit) for p in patches]
        films.append((layer(BLACKOUT, f"{BLACKOUT.name} {hit}"), [levels]))
    black = [solid(p.base is Base.BLACK) for p in patches]
    white = [solid(p.base is not Base.BARE) for p in patches]
    films.append((layer(BLACKOUT, shipped("Black behind"), hits=BLACK_BASE), [black]))
    films.append((layer(WHITE_UNDER, shipped("White behind"), hits=WHITE_BASE), [white]))
    return [ChartLayer(one, tuple(tuple(row) for row in rows)) for one, rows in films]


def predicted(
    patches: Sequence[Patch],
    printer: Printer,
    surface: Surface,
    reader: Reader,
    profile: bytes,
    *,
    condition: Condition | None = None,
    lit: bytes | None = None,
    by_lamp: bool = False,
    behind: Sequence[float] | None = None,
) -> Floats:
    """What patches are predicted to look like if they are sent as they are.

    Parameters
    ----------
    patches : of the chart
    printer : as it is set
    surface : that they are printed on
    reader : from which side they are read
    profile : the printer's CMYK profile, ICC bytes
    condition : what the printer was measured to do
    lit : profile of light from behind, ICC bytes
    by_lamp : by light from behind alone, of which a lamp gives 1
    behind : linear sRGB of what lies behind a clear piece; None is what usually does

    Returns
    -------
    CIE L*a*b* under D50, float64 (n, 3).
    """
    films = chart_layers(patches, printer, reader)
    if not films:
        films = [ChartLayer(WHITE_UNDER, ((0,) * len(patches),))]
    plates = [np.array([row], np.uint8) for film in films for row in film.levels]
    found = seen(
        tuple(film.layer for film in films), plates, reader=reader, surface=surface,
        profile=profile, inks=InkSet.of(printer, condition, lit),
        behind=None if behind is None else np.array(behind, np.float32),
    )  # fmt: skip
    light = found.through if by_lamp else found.day
    return lab_of_light(np.moveaxis(light[:, 0, :], 0, -1))
