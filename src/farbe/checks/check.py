"""What a check finds, and what checks look at."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

import numpy as np
import numpy.typing as npt

from farbe.art.artwork import MM_PER_INCH, Artwork, Space
from farbe.estimate.estimate import sampling_grid
from farbe.model.job import Job
from farbe.model.printer import LayerKind
from farbe.plan.order import printing_layers
from farbe.plan.sentence import Station
from farbe.render.piece import piece_separation, place
from farbe.separate.choke import Plate
from farbe.separate.colour import Converter
from farbe.separate.grid import Grid


class Weight(StrEnum):
    STOP = "stop"
    CAUTION = "caution"
    NOTE = "note"


@dataclass(frozen=True)
class Fix:
    """What would mend a finding: its words and the job with it."""

    words: str
    job: Job


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
    """A job and its artwork, and what is worked out from them once for all checks."""

    job: Job
    artwork: Artwork | None
    profile: bytes
    converter: Converter | None = None

    @cached_property
    def grid(self) -> Grid:
        return sampling_grid(self.job)

    @cached_property
    def pixel_area(self) -> float:
        """Square mm of a sampled pixel."""
        return MM_PER_INCH**2 / (self.grid.dpi_x * self.grid.dpi_y)

    @cached_property
    def artwork_alpha(self) -> Plate:
        placed = place(self.job, self.artwork, self.grid)
        return placed.alpha(0, placed.canvas[1])

    @cached_property
    def artwork_white(self) -> npt.NDArray[np.bool_]:
        """Where the artwork is there and white."""
        placed = place(self.job, self.artwork, self.grid)
        colours = placed.colours(0, placed.canvas[1])
        if placed.artwork.space is Space.CMYK:
            pale = colours.max(axis=2) <= 4
        else:
            pale = colours.min(axis=2) >= 250
        return np.asarray(pale & (self.artwork_alpha >= 128))

    @cached_property
    def white_ink(self) -> Plate:
        """The most that any white layer lays down at each sampled pixel."""
        layers = tuple(
            layer for layer in printing_layers(self.job.stack) if layer.kind is LayerKind.WHITE
        )
        result = np.zeros_like(self.artwork_alpha)
        if layers:
            separation = piece_separation(
                self.job,
                self.artwork,
                self.profile,
                self.grid,
                layers=layers,
                as_read=True,
                converter=self.converter,
            )
            for plate in separation.plates(0, separation.size[1]):
                np.maximum(result, plate, out=result)
        return result


Rule = Callable[[Facts], Iterator[Check]]
RULES: list[Rule] = []


def rule(function: Rule) -> Rule:
    """Enter a check in the registry."""
    RULES.append(function)
    return function
