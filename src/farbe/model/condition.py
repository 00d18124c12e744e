"""What a printer was measured to do, in one mode, on one kind of surface, with one set of inks."""

from datetime import date
from itertools import pairwise
from typing import Annotated, Self

from pydantic import Field, model_validator

from farbe.model.base import Digest, Length, Margin, Name, Value
from farbe.model.piece import Material
from farbe.said import Spoken, say

Percent = Annotated[float, Field(ge=0, le=100)]
Portion = Annotated[float, Field(ge=0, le=1)]
#: Of red, green and blue light, linear sRGB.
BandShares = tuple[Portion, Portion, Portion]


class Origin(Spoken):
    """How sure a condition is."""

    MEASURED = "measured"
    ESTIMATED = "estimated"


class Gloss(Spoken):
    """What varnish does to the light of a surface."""

    GLOSSY = "glossy"
    MATT = "matt"


#: Letters of a profile in base64 that goes along in a file.
MOST_LETTERS = 12_000_000
#: Profiles that go along in a file: digest, and ICC bytes in base64.
Profiles = Annotated[
    tuple[tuple[Digest, Annotated[str, Field(max_length=MOST_LETTERS)]], ...],
    Field(max_length=120),
]
#: Share of light that a surface's gloss or its lack takes or gives.
USUAL_SHINE = 0.006


class Register(Value):
    """Misregister between layers that 95 of 100 prints stay within: mm, degrees, percent."""

    x: Margin = 0.06
    y: Margin = 0.04
    rotation: Annotated[float, Field(ge=0, le=5)] = 0.01
    scale: Annotated[float, Field(ge=0, le=5)] = 0.01


class InkCurve(Value):
    """How much of an ink is sent so that it does what is wanted, in percent.

    ``points`` are pairs of wanted and sent, both rising from nothing.
    """

    ink: Name
    points: Annotated[tuple[tuple[Percent, Percent], ...], Field(min_length=2, max_length=101)]

    @model_validator(mode="after")
    def _rises(self) -> Self:
        if self.points[0] != (0.0, 0.0) or self.points[-1][0] != 100.0:
            raise ValueError(say("a curve begins at nothing and ends at 100 percent wanted"))
        if any(b[0] <= a[0] or b[1] < a[1] for a, b in pairwise(self.points)):
            raise ValueError(say("a curve never falls"))
        return self


class InkFilm(Value):
    """One solid hit of an ink: what it reflects, and what it lets through, of each band."""

    ink: Name
    reflected: BandShares
    through: BandShares

    @model_validator(mode="after")
    def _keeps_light(self) -> Self:
        if any(r + t > 1.0 + 1e-6 for r, t in zip(self.reflected, self.through, strict=True)):
            raise ValueError(say("a film gives no more light than it gets"))
        return self


class Least(Value):
    """The least widths in mm of an ink that print, and that stay open."""

    ink: Name
    stroke: Margin
    gap: Margin


class Trueness(Value):
    """How far predictions were from prints, CIEDE2000: mean, 95 of 100 within, and worst.

    ``patches`` is how many were compared that nothing was made from.
    """

    patches: Annotated[int, Field(ge=1)]
    mean: Margin
    most: Margin
    worst: Margin


class Drift(Value):
    """How far a later print of the control strip was from the first, CIEDE2000."""

    when: date
    mean: Margin
    worst: Margin


class Condition(Value):
    """What is known of a printer for a mode, kinds of surface and its inks.

    Attributes
    ----------
    mode : the printer's mode that it was measured in; empty for any
    printer : the printer that it holds for by its name; empty for whatever it is called
    surfaces : kinds of surface that it is for
    inks : names of the inks that the printer had
    origin, when : how the figures came about, and the day
    profile : CMYK profile of colour on white by daylight; None is the one that ships
    lit : profile of light that comes through the colour from behind; None follows from daylight
    total, each : most process ink in percent, together and each one
    most_film : most ink of all layers in ml per square metre; None is the printer's own
    mode_laydown : of the mode in percent, as it was measured; films of a mode with another are
        thicker or thinner by that
    laydown : weighed ink of a solid hit in percent of what the inks state; None is the mode's
    curves : of inks that are sent otherwise than wanted
    films : of white, blackout and named inks, one solid hit
    gloss, shine : what the varnish does, and to how much of all light
    leasts, misregister : as the printer has them, where they were measured
    trueness : how true its predictions are
    most_drift : CIEDE2000 that a later print may be off on the mean
    drifts : later prints of the control strip, the oldest first
    """

    name: Name
    mode: Annotated[str, Field(max_length=120)] = ""
    printer: Annotated[str, Field(max_length=120)] = ""
    surfaces: Annotated[tuple[Material, ...], Field(min_length=1, max_length=4)]
    inks: Annotated[tuple[Name, ...], Field(max_length=40)]
    origin: Origin = Origin.ESTIMATED
    when: date | None = None
    profile: Digest | None = None
    lit: Digest | None = None
    total: Annotated[float, Field(ge=100, le=400)] = 400.0
    each: tuple[Percent, Percent, Percent, Percent] = (100.0, 100.0, 100.0, 100.0)
    most_film: Length | None = None
    mode_laydown: Annotated[float, Field(ge=10, le=300)] = 100.0
    laydown: Annotated[float, Field(ge=10, le=300)] | None = None
    curves: Annotated[tuple[InkCurve, ...], Field(max_length=40)] = ()
    films: Annotated[tuple[InkFilm, ...], Field(max_length=40)] = ()
    gloss: Gloss = Gloss.GLOSSY
    shine: Annotated[float, Field(ge=0, le=0.2)] = USUAL_SHINE
    leasts: Annotated[tuple[Least, ...], Field(max_length=40)] = ()
    misregister: Register | None = None
    trueness: Trueness | None = None
    most_drift: Margin = 2.0
    drifts: Annotated[tuple[Drift, ...], Field(max_length=500)] = ()

    def film(self, ink: str) -> InkFilm | None:
        """The film of an ink, if it was measured.

        Parameters
        ----------
        ink : its name
        """
        return next((one for one in self.films if one.ink == ink), None)

    def curve(self, ink: str) -> InkCurve | None:
        """The curve of an ink, if it has one.

        Parameters
        ----------
        ink : its name
        """
        return next((one for one in self.curves if one.ink == ink), None)

    @property
    def profiles(self) -> tuple[str, ...]:
        """Digests of the profiles that it names."""
        return tuple(one for one in (self.profile, self.lit) if one is not None)
