"""What is done to a layer's coverage, each in its turn."""

from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, model_validator

from farbe.model.base import Coordinate, Margin, Value
from farbe.model.kinds import Kinds
from farbe.model.source import Source
from farbe.said import Spoken, say, shipped

Share = Annotated[float, Field(ge=0, le=100)]
#: Width in mm that a new choke spares of fine strokes; jobs of before spare none.
FINE_STROKE = 0.1
#: Distances that edges are moved by; larger ones would be another shape.
Small = Annotated[float, Field(ge=0, le=50)]


class TreatmentValue(Value):
    """What all treatments have."""

    kind: str
    on: bool = True
    #: Whether process colour may be treated with it, all four plates alike.
    for_colour: ClassVar[bool] = False
    #: Of process colour it treats how far the artwork covers, and not each ink by itself.
    of_cover: ClassVar[bool] = False


TREATMENTS: Kinds[TreatmentValue] = Kinds(TreatmentValue, shipped("treatment"))
#: Any registered treatment.
Treatment = Annotated[TreatmentValue, *TREATMENTS.field()]


@TREATMENTS.enter
class Choke(TreatmentValue):
    """Draw the edge back ``by`` so many mm; that of holes by ``holes``, if it differs.

    Of strokes that this would take, a width of ``least`` mm stays.
    """

    kind: Literal["choke"] = "choke"
    by: Margin = 0.1
    holes: Small | None = None
    least: Small = 0.0


@TREATMENTS.enter
class Spread(TreatmentValue):
    """Move the edge out ``by`` so many mm."""

    kind: Literal["spread"] = "spread"
    by: Small = 0.1


@TREATMENTS.enter
class Specks(TreatmentValue):
    """Remove islands that are no larger than ``size`` mm across."""

    kind: Literal["specks"] = "specks"
    size: Small = 0.2


@TREATMENTS.enter
class Pinholes(TreatmentValue):
    """Fill gaps that are no larger than ``size`` mm across."""

    kind: Literal["pinholes"] = "pinholes"
    size: Small = 0.2


@TREATMENTS.enter
class Harden(TreatmentValue):
    """All or nothing: solid where coverage is ``at`` percent or more."""

    kind: Literal["harden"] = "harden"
    at: Share = 50.0
    for_colour: ClassVar[bool] = True
    of_cover: ClassVar[bool] = True


class Grain(Spoken):
    """How half tones become dots."""

    DOTS = "round dots in rows"
    NOISE = "scattered dots"


@TREATMENTS.enter
class Dots(TreatmentValue):
    """Half tones as solid dots: ``per_cm`` rows of dots at an angle, or scattered single ones.

    Scattered dots are ``dot`` mm large.
    """

    kind: Literal["dots"] = "dots"
    grain: Grain = Grain.DOTS
    per_cm: Annotated[float, Field(ge=2, le=120)] = 14.0
    angle: Annotated[float, Field(ge=-360, le=360)] = 22.5
    dot: Annotated[float, Field(gt=0, le=5)] = 0.12
    for_colour: ClassVar[bool] = True
    of_cover: ClassVar[bool] = True


@TREATMENTS.enter
class Curve(TreatmentValue):
    """A tone curve: percent in and percent out, straight between the points."""

    kind: Literal["curve"] = "curve"
    points: Annotated[tuple[tuple[Share, Share], ...], Field(min_length=2, max_length=20)] = (
        (0.0, 0.0),
        (50.0, 50.0),
        (100.0, 100.0),
    )
    for_colour: ClassVar[bool] = True

    @model_validator(mode="after")
    def _rises(self) -> Self:
        if any(b[0] <= a[0] for a, b in zip(self.points, self.points[1:], strict=False)):
            raise ValueError(say("the points of a curve must go from left to right"))
        return self


@TREATMENTS.enter
class Limit(TreatmentValue):
    """Largest amount, 0 to 100 percent; all coverage is scaled to it."""

    kind: Literal["limit"] = "limit"
    percent: Share = 100.0
    for_colour: ClassVar[bool] = True


@TREATMENTS.enter
class Ease(TreatmentValue):
    """Less under dark colours: ``least`` percent where the artwork's L* is at or under ``dark``.

    It rises to all of it at ``light``; ``smooth`` rounds both ends of the rise.
    """

    kind: Literal["ease"] = "ease"
    dark: Share = 10.0
    light: Share = 45.0
    least: Share = 40.0
    smooth: bool = True

    @model_validator(mode="after")
    def _has_a_range(self) -> Self:
        if self.light <= self.dark:
            raise ValueError(say("the light end of the ease must lie above the dark end"))
        return self


class HoleShape(Spoken):
    ROUND = "round"
    SQUARE = "square"
    HEXAGON = "hexagon"


@TREATMENTS.enter
class Holes(TreatmentValue):
    """A pattern of holes, ``spacing`` mm apart: vents of a transfer, or to see through.

    It is anchored at the piece's middle, so that all layers have the same holes. Parts thinner
    than ``spare`` mm and what lies in ``solid`` stay whole.
    """

    kind: Literal["holes"] = "holes"
    spacing: Annotated[float, Field(gt=0, le=200)] = 1.5
    size: Annotated[float, Field(gt=0, le=200)] = 0.6
    shape: HoleShape = HoleShape.ROUND
    angle: Annotated[float, Field(ge=-360, le=360)] = 0.0
    staggered: bool = True
    spare: Small = 0.0
    solid: Source | None = None
    for_colour: ClassVar[bool] = True


@TREATMENTS.enter
class Shift(TreatmentValue):
    """Move the layer as it is read, x right, y up: a measured offset."""

    kind: Literal["shift"] = "shift"
    x: Coordinate = 0.0
    y: Coordinate = 0.0
    for_colour: ClassVar[bool] = True


@TREATMENTS.enter
class Feather(TreatmentValue):
    """Let the edge fade over ``by`` mm, inwards."""

    kind: Literal["feather"] = "feather"
    by: Small = 1.0
