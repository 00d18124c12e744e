"""Layers of a stack, where their coverage comes from and what is done to it."""

from typing import Annotated, Self

from pydantic import Field, model_validator

from farbe.model.base import Name, Value
from farbe.model.piece import Reader
from farbe.model.printer import LayerKind
from farbe.model.source import ArtworkShape, Colours, Source
from farbe.model.treatment import FINE_STROKE, Choke, Treatment
from farbe.said import Spoken, say, shipped, spoken


class Join(Spoken):
    """How a second source goes with the first."""

    ADD = "and also"
    SUBTRACT = "but not"
    INTERSECT = "only where also"


class Joined(Value):
    """Another source, and how it goes with those before it."""

    join: Join = Join.ADD
    source: Source


class Layer(Value):
    """One layer: its source, joined with ``more`` in their order, then the treatments in order.

    ``ink`` names the ink of a layer of named ink. ``meant`` says that its ink beyond the artwork is
    wanted and need not be asked about again. ``reader`` is whom it prints for, where the same print
    has two; it is mirrored if that one looks through the piece.
    """

    kind: LayerKind
    name: Name
    source: Source = ArtworkShape()
    more: Annotated[tuple[Joined, ...], Field(max_length=12)] = ()
    treatments: Annotated[tuple[Treatment, ...], Field(max_length=30)] = ()
    hits: Annotated[int, Field(ge=1, le=20)] = 1
    on: bool = True
    ink: Name | None = None
    meant: bool = False
    reader: Reader | None = None

    @property
    def words(self) -> str:
        """Its name in the user's language, if Farbe gave it."""
        return spoken(self.name)

    @model_validator(mode="before")
    @classmethod
    def _with_one_more(cls, given: object) -> object:
        # Early files knew one source more.
        if not isinstance(given, dict) or not {"second", "join"} & given.keys():
            return given
        rest = {name: value for name, value in given.items() if name not in ("second", "join")}
        second = given.get("second")
        if second is not None:
            rest["more"] = [{"join": given.get("join", Join.ADD), "source": second}]
        return rest

    @model_validator(mode="after")
    def _suits_its_kind(self) -> Self:
        colours = [isinstance(source, Colours) for source in self.sources]
        if colours != [True] and (self.kind is LayerKind.COLOUR or any(colours)):
            raise ValueError(
                say(
                    "the layer {name} cannot come from the {kind}",
                    name=self.name,
                    kind=self.source.kind,
                )
            )
        if (self.kind is LayerKind.NAMED) != (self.ink is not None):
            raise ValueError(
                say("the layer {name} needs an ink's name if it is of named ink", name=self.name)
            )
        if self.kind is LayerKind.COLOUR:
            unfit = [t.kind for t in self.treatments if not t.for_colour]
            if unfit:
                raise ValueError(
                    say("the colour layer cannot be treated with {unfit}", unfit=unfit[0])
                )
        return self

    @property
    def sources(self) -> tuple[Source, ...]:
        """All sources in their order, at least one."""
        return (self.source, *(one.source for one in self.more))

    @property
    def choke(self) -> float:
        """Sum of the chokes in mm."""
        return sum(t.by for t in self.treatments if isinstance(t, Choke) and t.on)

    def sparing(self, width: float) -> Self:
        """The layer with chokes that leave strokes a width.

        Parameters
        ----------
        width : mm, 0 to 50; 0 spares none

        Raises
        ------
        BadInput
            If there is no such width.
        """
        return self.replace(
            treatments=tuple(
                t.replace(least=width) if isinstance(t, Choke) else t for t in self.treatments
            )
        )

    @property
    def plates(self) -> int:
        """How many plates it is printed with: process colour four, every other layer one."""
        return 4 if self.kind is LayerKind.COLOUR else 1

    @property
    def active(self) -> tuple[Treatment, ...]:
        """The treatments that are switched on."""
        return tuple(t for t in self.treatments if t.on)


COLOUR = Layer(kind=LayerKind.COLOUR, name=shipped("Colour"), source=Colours())
WHITE_UNDER = Layer(
    kind=LayerKind.WHITE, name=shipped("White"), treatments=(Choke(by=0.1, least=FINE_STROKE),)
)
VARNISH_OVER = Layer(kind=LayerKind.VARNISH, name=shipped("Varnish"))
BLACKOUT = Layer(
    kind=LayerKind.BLACKOUT,
    name=shipped("Blackout"),
    treatments=(Choke(by=0.1, least=FINE_STROKE),),
)
