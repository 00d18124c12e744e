"""What a check finds, and what checks look at."""

from __future__ import annotations

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
from farbe.mishap import Mishap, guarded
from farbe.model.base import BadInput
from farbe.model.layer import Layer
from farbe.model.medium import MediumValue
from farbe.model.printer import LayerKind
from farbe.plan.readers import own_layers
from farbe.plan.sentence import Station
from farbe.render.piece import job_artwork, piece_separation
from farbe.render.pieceframe import PieceFrame, place
from farbe.render.raster import Cancelled
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
    """One finding; ``code`` names it for scripts. ``mishap``: the check itself failed."""

    code: str
    weight: Weight
    text: str
    station: Station
    fix: Fix | None = None
    mishap: Mishap | None = None


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
        return place(self.job, self.artwork, PieceFrame.of(self.job, self.grid))

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


Ask = Callable[[Facts], Iterator[Check]]


@dataclass(frozen=True)
class Rule:
    """One check.

    Attributes
    ----------
    codes : of all that it can find
    on : the medium that it is made for; None for all
    each_print : it is made on each different print; a fix is made on the whole job
    ask : the findings about a job
    """

    codes: tuple[str, ...]
    on: type[MediumValue] | None
    each_print: bool
    ask: Ask

    @property
    def words(self) -> str:
        """What it looks at, as the beginning of a sentence."""
        about = (self.ask.__doc__ or "").strip().split("\n")[0].rstrip(".")
        return f"The check “{about}”"

    def made_of(self, job: Faced) -> bool:
        """Whether it is made of a job."""
        return self.on is None or isinstance(job.job.medium, self.on)


RULES: list[Rule] = []


def rule(
    *codes: str, on: type[MediumValue] | None = None, each_print: bool = False
) -> Callable[[Ask], Ask]:
    """Enter a check with the codes of what it can find; see :class:`Rule`. Used as a decorator.

    Raises
    ------
    TypeError
        If it names no code or one that another check has, or does not say what it looks at.
    """

    def enter(ask: Ask) -> Ask:
        if not codes:
            raise TypeError(f"the check {ask.__name__} names nothing that it can find")
        taken = {code for known in RULES for code in known.codes} & set(codes)
        if taken:
            raise TypeError(f"another check finds {min(taken)!r} already")
        if not ask.__doc__:
            raise TypeError(f"the check {ask.__name__} does not say what it looks at")
        RULES.append(Rule(codes, on, each_print, ask))
        return ask

    return enter


def findings(facts: Facts) -> list[Check]:
    """What all rules find about a face; what several prints have in common is said once.

    A rule that fails is a stop of its own and does not silence the others.
    """
    prints: list[Facts] = []

    def asked(one: Rule) -> list[Check]:
        if one.each_print and not prints:
            prints.extend(facts.each_print())
        return [check for of in (prints if one.each_print else [facts]) for check in one.ask(of)]

    found: list[Check] = []
    # Those of the whole job come first.
    for one in sorted(RULES, key=lambda known: known.each_print):
        if not one.made_of(facts.job):
            continue
        try:
            outcome = guarded(
                one.words, lambda one=one: asked(one), let=(BadInput, Cancelled)  # type: ignore[misc]
            )  # fmt: skip
        except BadInput as error:
            # A file that cannot be read is said once, whoever meets it.
            found.append(Check("cannot-be-read", Weight.STOP, str(error), Station.PIECE))
            continue
        if outcome.mishap is not None:
            words = outcome.mishap.sentence
            found.append(Check("check-failed", Weight.STOP, words, Station.RUN,
                               mishap=outcome.mishap))  # fmt: skip
        found += outcome.made or []
    return list({(check.code, check.text): check for check in found}.values())
