"""Beds, inks and resolutions."""

from typing import Annotated, Self

from pydantic import Field, model_validator

from farbe.model.base import Colour, Length, Margin, Name, Value
from farbe.model.condition import Condition, Origin
from farbe.model.condition import Register as Register
from farbe.model.piece import Material
from farbe.said import Spoken, say, shipped, spoken

Dpi = Annotated[float, Field(ge=10, le=5080)]


class LayerKind(Spoken):
    """What a layer does; an ink of the same kind prints it."""

    COLOUR = "colour"
    WHITE = "white"
    VARNISH = "varnish"
    BLACKOUT = "blackout"
    NAMED = "named ink"


class Ink(Value):
    """One ink; ``laydown`` is ml per square metre of one solid hit, ``price`` is per litre.

    ``stroke`` and ``gap`` are the least widths in mm that print, and that stay open.
    """

    name: Name
    kind: LayerKind
    shown: Colour
    laydown: Margin = 8.0
    price: Margin = 0.0
    stroke: Margin = 0.08
    gap: Margin = 0.08

    @property
    def words(self) -> str:
        """Its name in the user's language, if Farbe gave it."""
        return spoken(self.name)


PROCESS = (
    Ink(name=shipped("Cyan"), kind=LayerKind.COLOUR, shown="#0aa0d8", laydown=7.0, price=140.0),
    Ink(name=shipped("Magenta"), kind=LayerKind.COLOUR, shown="#d4307c", laydown=7.0, price=140.0),
    Ink(name=shipped("Yellow"), kind=LayerKind.COLOUR, shown="#ecc81e", laydown=7.0, price=140.0),
    Ink(name=shipped("Black"), kind=LayerKind.COLOUR, shown="#1c1c1e", laydown=7.0, price=140.0),
)
WHITE = Ink(name=shipped("White"), kind=LayerKind.WHITE, shown="#ffffff", laydown=14.0, price=180.0,
            stroke=0.1, gap=0.1)  # fmt: skip
VARNISH = Ink(
    name=shipped("Varnish"),
    kind=LayerKind.VARNISH,
    shown="#d9c9a0",
    laydown=12.0,
    price=160.0,
    stroke=0.2,
    gap=0.2,
)


class Throw(Spoken):
    """How far ink is thrown: on a flat piece, or from far above one whose surface falls away."""

    FLAT = "flat"
    FAR = "far"


class Mode(Value):
    """A named quality: resolution, passes, the carriage's speed in mm/s and its ways.

    ``laydown`` is the ink of a solid hit in percent of what each ink states.
    """

    name: Name
    dpi_x: Dpi
    dpi_y: Dpi
    passes: Annotated[int, Field(ge=1, le=64)]
    speed: Length
    both_ways: bool = True
    throw: Throw = Throw.FLAT
    laydown: Annotated[float, Field(ge=10, le=300)] = 100.0


class Printer(Value):
    """A flatbed printer, as it is set.

    ``head_gap`` is the height over the piece, in mm, from which ink still lands where it should,
    ``far_gap`` that with a far throw. Speeds are of the carriage in mm/s, ``turn`` in s for each
    swath. White, colour and varnish have rows of heads of their own, ``head_rows`` mm apart along
    the bed. ``modes`` are settings to choose from. ``most_film`` is the most ink in ml per square
    metre, all layers and hits together, that cures and holds; ``least_type`` the least size of
    type, in mm, that can be read. ``conditions`` are what it was measured to do.
    """

    name: Name
    bed_width: Length
    bed_height: Length
    max_piece_height: Length
    head_gap: Length = 1.5
    far_gap: Length = 5.0
    dpi_x: Dpi = 600
    dpi_y: Dpi = 600
    inks: tuple[Ink, ...] = (*PROCESS, WHITE, VARNISH)
    passes: Annotated[int, Field(ge=1, le=64)] = 8
    swath: Length = 36.0
    speed: Length = 700.0
    turn: Margin = 0.6
    both_ways: bool = True
    throw: Throw = Throw.FLAT
    laydown: Annotated[float, Field(ge=10, le=300)] = 100.0
    head_rows: Margin = 40.0
    modes: Annotated[tuple[Mode, ...], Field(max_length=40)] = ()
    misregister: Register = Register()
    most_film: Length = 120.0
    least_type: Margin = 1.8
    conditions: Annotated[tuple[Condition, ...], Field(max_length=60)] = ()

    @model_validator(mode="after")
    def _inks_differ(self) -> Self:
        names = [ink.name.casefold() for ink in self.inks]
        if len(set(names)) != len(names):
            raise ValueError(say("two inks have the same name"))
        modes = [mode.name.casefold() for mode in self.modes]
        if len(set(modes)) != len(modes):
            raise ValueError(say("two modes have the same name"))
        if sum(ink.kind is LayerKind.COLOUR for ink in self.inks) != len(PROCESS):
            raise ValueError(say("the colour inks must be cyan, magenta, yellow and black"))
        conditions = [one.name.casefold() for one in self.conditions]
        if len(set(conditions)) != len(conditions):
            raise ValueError(say("two conditions have the same name"))
        return self

    @property
    def mode(self) -> Mode | None:
        """The mode whose settings are all in force."""
        fields = Mode.model_fields.keys() - {"name"}
        return next(
            (m for m in self.modes if all(getattr(m, f) == getattr(self, f) for f in fields)), None
        )

    def in_mode(self, mode: Mode) -> Self:
        """The printer set to a mode.

        Parameters
        ----------
        mode : one of the printer's, or none
        """
        fields = Mode.model_fields.keys() - {"name"}
        return self.replace(**{field: getattr(mode, field) for field in fields})

    def condition(self, material: Material) -> Condition | None:
        """The condition that fits, as the printer is set, for a kind of surface.

        One of the very mode comes before one for any, a measured one before an estimate, a later
        one before an earlier.

        Parameters
        ----------
        material : the kind of surface
        """
        mode, inks = self.mode, {ink.name for ink in self.inks}
        named = "" if mode is None else mode.name
        fitting = [
            one for one in self.conditions
            if material in one.surfaces and one.mode in ("", named)
            and one.printer in ("", self.name) and set(one.inks) == inks
        ]  # fmt: skip
        return max(
            reversed(fitting),
            key=lambda one: (
                bool(one.mode), one.origin is Origin.MEASURED,
                0 if one.when is None else one.when.toordinal(),
            ),
            default=None,
        )  # fmt: skip

    def knowing(self, condition: Condition) -> Self:
        """The printer with one more condition; a namesake gives way.

        Parameters
        ----------
        condition : what it was measured to do
        """
        others = (c for c in self.conditions if c.name.casefold() != condition.name.casefold())
        return self.replace(conditions=(*others, condition))

    def as_measured(self, condition: Condition | None) -> Self:
        """The printer with what a condition says in place of what it states.

        Parameters
        ----------
        condition : one of its own; None leaves it as it is
        """
        if condition is None:
            return self
        leasts = {one.ink: one for one in condition.leasts}
        inks = tuple(
            ink.model_copy(update={"stroke": leasts[ink.name].stroke, "gap": leasts[ink.name].gap})
            if ink.name in leasts else ink
            for ink in self.inks
        )  # fmt: skip
        return self.model_copy(
            update={
                "inks": inks,
                "most_film": condition.most_film or self.most_film,
                "laydown": condition.laydown or self.laydown,
                "misregister": condition.misregister or self.misregister,
            }
        )

    @property
    def gap(self) -> float:
        """The gap in mm that its present throw bridges."""
        return self.far_gap if self.throw is Throw.FAR else self.head_gap

    def laid(self, ink: Ink) -> float:
        """ml per square metre of one solid hit of an ink as the printer is set.

        Parameters
        ----------
        ink : one of the printer's
        """
        return ink.laydown * self.laydown / 100.0

    def inks_of(self, kind: LayerKind, name: str | None = None) -> tuple[Ink, ...]:
        """The inks that a layer of a kind is printed with; none if the printer lacks them.

        Without an ink of its own, blackout is printed with process black.

        Parameters
        ----------
        kind : of layer
        name : of a named ink
        """
        if kind is LayerKind.COLOUR:
            return tuple(ink for ink in self.inks if ink.kind is kind)
        found = [
            ink for ink in self.inks if ink.kind is kind and (name is None or ink.name == name)
        ]
        if kind is LayerKind.BLACKOUT and not found:
            found = [ink for ink in self.inks if ink.kind is LayerKind.COLOUR][-1:]
        return tuple(found[:1])
