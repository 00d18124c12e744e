"""What a check finds, and what checks look at."""

from __future__ import annotations

import functools
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

import numpy as np
import numpy.typing as npt

from farbe.art.artwork import MM_PER_INCH, Artwork, Space
from farbe.layout.faced import Faced
from farbe.layout.frame import sampling_grid
from farbe.layout.laid import allotted, first_print
from farbe.layout.prints import one_print
from farbe.model.layer import Layer
from farbe.model.medium import MediumValue
from farbe.model.printer import LayerKind
from farbe.plan.readers import own_layers
from farbe.plan.sentence import Station
from farbe.render.piece import Canvas, job_artwork, piece_separation, place
from farbe.render.sources import Sources
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid
from farbe.separate.place import PlacedArtwork

#: Different prints that are looked at one by one.
MOST_PRINTS = 40
_FINE = ("dots", "holes", "specks", "pinholes")


class Weight(StrEnum):
    STOP = "stop"
    CAUTION = "caution"
    NOTE = "note"


@dataclass(frozen=True)
class Fix:
    """What would mend a finding: its words, and the mended job from a job."""

    words: str
    mend: Callable[[Faced], Faced]


@dataclass(frozen=True)
class Check:
    """One finding; ``code`` names it for scripts."""

    code: str
    weight: Weight
    text: str
    station: Station
    fix: Fix | None = None


@dataclass(frozen=True, eq=False)
class Facts:
    """A job and what is worked out from it once for all checks.

    What is said of the artwork is about the job's first one; see :meth:`each_print`.
    """

    job: Faced
    sources: Sources

    def each_print(self) -> Iterator[Facts]:
        """The job as if all pockets printed the same, for all that they print, without texts.

        Of very many, only the first are looked at.
        """
        plain = dict.fromkeys(what.plain for what in allotted(self.job).prints.values())
        for what in list(plain)[:MOST_PRINTS] or [first_print(self.job)]:
            yield Facts(one_print(self.job, what), self.sources)

    @cached_property
    def artwork(self) -> Artwork | None:
        return job_artwork(self.job, self.sources)

    @cached_property
    def placed(self) -> PlacedArtwork:
        """The artwork on the sampling grid."""
        return place(self.job, self.artwork, Canvas.of(self.job, self.grid))

    @cached_property
    def grid(self) -> Grid:
        return sampling_grid(self.job)

    @cached_property
    def pixel_area(self) -> float:
        """Square mm of a sampled pixel."""
        return MM_PER_INCH**2 / (self.grid.dpi_x * self.grid.dpi_y)

    @cached_property
    def artwork_alpha(self) -> Plate:
        return self.placed.alpha(0, self.placed.canvas[1])

    @cached_property
    def artwork_white(self) -> npt.NDArray[np.bool_]:
        """Where the artwork is there and white."""
        colours = self.placed.colours(0, self.placed.canvas[1])
        if self.placed.artwork.space is Space.CMYK:
            pale = colours.max(axis=2) <= 4
        else:
            pale = colours.min(axis=2) >= 250
        return np.asarray(pale & (self.artwork_alpha >= 128))

    def beyond(self, layer: Layer) -> tuple[float, float]:
        """Ink of a layer where there is no artwork: mm² of solid, and its share of the piece."""
        separation = piece_separation(
            self.job, self.sources, self.grid, layers=(layer,), as_read=True, placed=self.placed
        )
        height = separation.size[1]
        plate, shape = separation.plates(0, height)[0], separation.shape(0, height)
        area = float(plate[shape == 0].sum(dtype="int64")) / 255.0 * self.pixel_area
        whole = float((separation.size[0] * height) * self.pixel_area)
        return area, area / whole

    @cached_property
    def white_ink(self) -> Plate:
        """The most that any white layer lays down at each sampled pixel."""
        # Dots, holes and specks are finer than what is sampled here.
        layers = tuple(
            layer.replace(treatments=tuple(t for t in layer.treatments if t.kind not in _FINE))
            for layer in own_layers(self.job)
            if layer.kind is LayerKind.WHITE
        )
        result = np.zeros_like(self.artwork_alpha)
        if layers:
            separation = piece_separation(
                self.job, self.sources, self.grid, layers=layers, as_read=True, placed=self.placed
            )
            for plate in separation.plates(0, separation.size[1]):
                np.maximum(result, plate, out=result)
        return result


Rule = Callable[[Facts], Iterator[Check]]
RULES: list[Rule] = []
PRINT_RULES: list[Rule] = []


def rule(function: Rule) -> Rule:
    """Enter a check of the whole job in the registry."""
    RULES.append(function)
    return function


def rule_on(medium: type[MediumValue]) -> Callable[[Rule], Rule]:
    """Enter a check that is made only of jobs on one kind of medium."""

    def enter(function: Rule) -> Rule:
        def asked(facts: Facts) -> Iterator[Check]:
            if isinstance(facts.job.job.medium, medium):
                yield from function(facts)

        rule(functools.wraps(function)(asked))
        return function

    return enter


def print_rule(function: Rule) -> Rule:
    """Enter a check that is made on each different print; its fix is made on the whole job."""
    PRINT_RULES.append(function)
    return function
