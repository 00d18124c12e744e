"""What is done to an artwork before it is placed."""

from typing import Annotated, Literal

from pydantic import Field

from farbe.model.base import Colour, Margin, Value

GainPercent = Annotated[float, Field(ge=-100, le=100)]


class _Edit(Value):
    on: bool = True


class Clear(_Edit):
    """Make colours transparent: all within ``tolerance`` (CIEDE2000), fading over ``softness``.

    With ``connected``, only where they reach the artwork's edge or what is empty already.
    """

    kind: Literal["clear"] = "clear"
    colours: Annotated[tuple[Colour, ...], Field(min_length=1, max_length=16)] = ("#ffffff",)
    tolerance: Annotated[float, Field(ge=0, le=100)] = 6.0
    softness: Annotated[float, Field(ge=0, le=100)] = 6.0
    connected: bool = True


class CurvePoints(_Edit):
    """Make one colour black and another one white; what lies between is spread out."""

    kind: Literal["points"] = "points"
    black: Colour = "#000000"
    white: Colour = "#ffffff"


class Adjust(_Edit):
    """Brightness, contrast and saturation, each from -100 to 100."""

    kind: Literal["adjust"] = "adjust"
    brightness: GainPercent = 0.0
    contrast: GainPercent = 0.0
    saturation: GainPercent = 0.0


class Crop(_Edit):
    """Cut off so many mm at each side, at the artwork's own size."""

    kind: Literal["crop"] = "crop"
    left: Margin = 0.0
    right: Margin = 0.0
    top: Margin = 0.0
    bottom: Margin = 0.0


class Aim(Value):
    """A brand's colour: its name, CIE L*a*b* under D50, and the CIEDE2000 that is allowed."""

    name: Annotated[str, Field(max_length=80)] = ""
    lab: tuple[
        Annotated[float, Field(ge=0, le=100)],
        Annotated[float, Field(ge=-150, le=150)],
        Annotated[float, Field(ge=-150, le=150)],
    ]
    within: Annotated[float, Field(ge=0, le=50)] = 2.0


class Recolour(_Edit):
    """Give colours near ``colours`` these percents of the process inks, whatever the profile.

    ``aim`` is the brand's colour that the inks are meant to give.
    """

    kind: Literal["recolour"] = "recolour"
    colours: Annotated[tuple[Colour, ...], Field(min_length=1, max_length=16)] = ("#ffffff",)
    tolerance: Annotated[float, Field(ge=0, le=100)] = 6.0
    softness: Annotated[float, Field(ge=0, le=100)] = 4.0
    cyan: Annotated[float, Field(ge=0, le=100)] = 0.0
    magenta: Annotated[float, Field(ge=0, le=100)] = 0.0
    yellow: Annotated[float, Field(ge=0, le=100)] = 0.0
    black: Annotated[float, Field(ge=0, le=100)] = 0.0
    aim: Aim | None = None

    @property
    def inks(self) -> tuple[float, float, float, float]:
        """Percent of cyan, magenta, yellow and black."""
        return self.cyan, self.magenta, self.yellow, self.black


Edit = Annotated[Clear | CurvePoints | Adjust | Crop | Recolour, Field(discriminator="kind")]


class Gains(Value):
    """Each process ink up or down in percent of itself."""

    cyan: GainPercent = 0.0
    magenta: GainPercent = 0.0
    yellow: GainPercent = 0.0
    black: GainPercent = 0.0
