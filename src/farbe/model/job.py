"""The job: all that is needed to print one order."""

from enum import StrEnum
from typing import Annotated, Self

from pydantic import Field, model_validator

from farbe.model.base import Digest, Margin, Name, Value
from farbe.model.edit import Gains
from farbe.model.face import ComesUp, Face, SamePrint
from farbe.model.jig import Cutting, Guide, Jig, MadeGuide
from farbe.model.marks import Marks
from farbe.model.medium import Bed, Medium
from farbe.model.pick import Pick
from farbe.model.piece import Piece, Reader
from farbe.model.printer import Printer
from farbe.model.receiver import Receiver
from farbe.model.roll import Garment
from farbe.model.running import Prices, Running
from farbe.model.treatment import Holes, Share
from farbe.said import Spoken, say


class Intent(Spoken):
    """Rendering intents of the ICC specification."""

    PERCEPTUAL = "perceptual"
    RELATIVE = "relative"
    SATURATION = "saturation"
    ABSOLUTE = "absolute"


class Numbers(StrEnum):
    """What becomes of CMYK that brings a profile: converted, or taken as ink as it is."""

    CONVERT = "convert"
    KEEP = "keep"


class Conversion(Value):
    """How colour becomes ink. Without a profile of its own, the shipped one is used.

    ``intent`` is for photographs, ``flat_intent`` for flat graphics; ``flat`` says in percent how
    far the artwork is the latter, and both conversions are mixed by it. ``gains`` raise or lower
    each process ink before anything else. ``numbers`` is about CMYK with a profile of its own; in
    either way black alone stays black alone. ``total`` is the largest sum of the process inks in
    percent, ``each`` that of each one.
    """

    intent: Intent = Intent.RELATIVE
    flat_intent: Intent = Intent.RELATIVE
    flat: Share = 0.0
    black_point: bool = True
    numbers: Numbers = Numbers.CONVERT
    profile: Digest | None = None
    total: Annotated[float, Field(ge=100, le=400)] = 400.0
    each: tuple[Share, Share, Share, Share] = (100.0, 100.0, 100.0, 100.0)
    gains: Gains = Gains()


class Guess(Spoken):
    """A fact that was guessed and that nobody confirmed yet."""

    PIECE = "the piece's shape and size"
    COUNT = "how many there are"
    SURFACE = "the surface"


class Accepted(Value):
    """A caution that is meant, and how much of it was when that was said.

    Attributes
    ----------
    code, about : of the check, and the layer that it is about; empty if about none
    face : number of the face
    figure : asked again when it gets larger; None is never asked again
    """

    code: Name
    about: Annotated[str, Field(max_length=200)] = ""
    face: Annotated[int, Field(ge=0, le=1)] = 0
    figure: float | None = None


class Again(Value):
    """What of an order is printed once more: the places of these numbers.

    ``second_only`` prints their second side alone, on the first that is there.
    """

    numbers: Annotated[tuple[Annotated[int, Field(ge=1)], ...], Field(min_length=1)]
    second_only: bool = False


class Job(Value):
    """One order.

    Attributes
    ----------
    faces : what is read of a piece, one face or two. Each stack is in physical order, from the
        substrate up; several artworks are laid over the pockets in their order.
    comes_up : how the second face comes up: turned over and printed, or as the same print that
        is read through the piece
    medium : what carries the pieces; on film every artwork is a piece of its own, and what the
        jig says does not matter
    see_through : holes through all layers, which nothing else changes, as the first face sees them
    garments : what transfers are pressed onto
    accepted : cautions that are meant
    guesses : facts that were not stated
    order : the shop's number of the order, as it likes to write it
    again : what of it is printed once more; None is all of it
    load : which load of the board it is, from 0, where a table has more rows than pockets are on
    made_guide : the guide that was printed or cut for it last
    picks : the orders that the pieces of its places are for, where it prints for several
    """

    name: Name
    piece: Piece
    faces: Annotated[tuple[Face, ...], Field(min_length=1, max_length=2)]
    comes_up: ComesUp | None = None
    printer: Printer
    bleed: Annotated[Margin, Field(le=100)] = 0.0
    jig: Jig
    medium: Medium = Bed()
    see_through: Holes | None = None
    garments: Annotated[tuple[Garment, ...], Field(max_length=200)] = ()
    marks: Marks = Marks()
    guide: Guide = Guide()
    cutting: Cutting = Cutting()
    receiver: Receiver
    conversion: Conversion = Conversion()
    running: Running = Running()
    prices: Prices = Prices()
    accepted: Annotated[tuple[Accepted, ...], Field(max_length=500)] = ()
    guesses: Annotated[tuple[Guess, ...], Field(max_length=3)] = ()
    order: Annotated[str, Field(max_length=60)] = ""
    again: Again | None = None
    made_guide: MadeGuide | None = None
    load: Annotated[int, Field(ge=0, le=20_000)] = 0
    picks: Annotated[tuple[Pick, ...], Field(max_length=20_000)] = ()

    @model_validator(mode="after")
    def _belongs_together(self) -> Self:
        if (self.comes_up is None) is not (len(self.faces) == 1):
            raise ValueError(say("a second face needs to be told, and how it comes up"))
        first, *second = self.faces
        if isinstance(self.comes_up, SamePrint):
            if Reader.TRANSFER in (face.reader for face in self.faces):
                raise ValueError(say("a transfer has one reader"))
            if first.reader is second[0].reader:
                raise ValueError(
                    say("two readers of the same print look at it from different sides")
                )
            if second[0].stack or second[0].correction is not None:
                raise ValueError(
                    say("the layers of a print with two readers belong to the first face")
                )
        else:
            if second and any(face.reader is not Reader.FACE for face in self.faces):
                raise ValueError(say("a piece printed on both sides is read from its faces"))
            if any(layer.reader is not None for face in self.faces for layer in face.stack):
                raise ValueError(say("a layer for a second reader needs one"))
        return self

    @model_validator(mode="after")
    def _inks_are_told_apart(self) -> Self:
        wanted = self.guide.ink
        if wanted is not None and wanted not in {ink.name for ink in self.printer.inks}:
            raise ValueError(
                say("the printer has no ink named {ink} for the guide", ink=self.guide.ink)
            )
        names = [self.receiver.channel(ink.name).casefold() for ink in self.printer.inks]
        twice = next((name for name in names if names.count(name) > 1), None)
        if twice is not None:
            raise ValueError(say("two inks have the channel name {twice}", twice=twice))
        if self.again is not None and self.again.second_only and len(self.faces) < 2:
            raise ValueError(say("there is no second side to be printed alone"))
        return self
