"""A job as one of its faces has it: what nearly all of Farbe works on."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from farbe.kept import once
from farbe.layout.lengths import first_lengths, turned_roll
from farbe.model.artwork import ArtworkFile
from farbe.model.condition import Condition
from farbe.model.correction import Correction
from farbe.model.face import Face, SamePrint, Turning
from farbe.model.jig import Cutting, Guide, Jig
from farbe.model.job import Conversion, Guess, Job
from farbe.model.layer import Layer
from farbe.model.marks import Marks
from farbe.model.medium import Bed, Medium
from farbe.model.piece import Outline, Piece, Reader, Ring, Shape
from farbe.model.placing import Parts, Placing, PocketChange
from farbe.model.printer import Printer
from farbe.model.receiver import Receiver
from farbe.model.roll import Garment, Roll
from farbe.model.running import Prices, Running
from farbe.model.source import ArtworkShape, OppositeShape, Region
from farbe.model.text import Serial, Table, TextBox
from farbe.model.treatment import Holes

_OF_A_FACE = frozenset(Face.model_fields)


@dataclass(frozen=True, eq=False)
class Faced:
    """A job and the number of one of its faces.

    Its attributes are the job's as this face has them: its own content, the piece's outline from
    this side, the film as it was loaded again. ``replace`` writes through, so that an edit told
    for one face is an edit of the job.
    """

    job: Job
    number: int = 0

    def __post_init__(self) -> None:
        if not 0 <= self.number < len(self.job.faces):
            raise ValueError(f"the job has no face {self.number}")

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Faced):
            return NotImplemented
        return self.number == other.number and (self.job is other.job or self.job == other.job)

    def __hash__(self) -> int:
        return self._hash

    @once
    def _hash(self) -> int:
        # A job is a deep value; it is asked for its hash at every look into what is kept.
        return hash((self.job, self.number))

    # What differs by the face.

    @property
    def face(self) -> Face:
        return self.job.faces[self.number]

    @property
    def first(self) -> Faced:
        """The job as its first face has it."""
        return self if self.number == 0 else Faced(self.job)

    @once
    def other(self) -> Faced | None:
        """The job as its other face has it, if there is one."""
        return Faced(self.job, 1 - self.number) if len(self.job.faces) == 2 else None

    @property
    def two_sided(self) -> bool:
        """Whether both faces are printed, one after the other."""
        return isinstance(self.job.comes_up, Turning)

    @property
    def two_readers(self) -> bool:
        """Whether the same print is read from both sides of a clear piece."""
        return isinstance(self.job.comes_up, SamePrint)

    @property
    def turning(self) -> Turning | None:
        """How a two-sided piece is turned over for its second face."""
        return self.job.comes_up if isinstance(self.job.comes_up, Turning) else None

    @property
    def came_up(self) -> Turning | None:
        """How this face came up; None for the first."""
        return self.turning if self.number == 1 else None

    @property
    def reader(self) -> Reader:
        return self.face.reader

    @property
    def artworks(self) -> tuple[ArtworkFile, ...]:
        return self.face.artworks

    @property
    def artwork(self) -> ArtworkFile | None:
        """The first artwork."""
        return self.face.artworks[0] if self.face.artworks else None

    @property
    def placing(self) -> Placing:
        return self.face.placing

    @property
    def changes(self) -> tuple[PocketChange, ...]:
        return self.face.changes

    @property
    def texts(self) -> tuple[TextBox, ...]:
        return self.face.texts

    @property
    def table(self) -> Table | None:
        return self.face.table

    @property
    def artwork_column(self) -> str | None:
        """The column of the table that names each place's artwork by its file."""
        return self.face.artwork_column

    @property
    def parts(self) -> Parts | None:
        """How the first artwork goes over the pockets part by part; None if it does not."""
        return self.face.parts

    @property
    def serial(self) -> Serial:
        return self.face.serial

    @property
    def correction(self) -> Correction | None:
        return self.face.correction

    @property
    def stack(self) -> tuple[Layer, ...]:
        """The layers that are printed with this face, from the substrate up."""
        return self.job.faces[0].stack if self.two_readers else self.face.stack

    def is_own(self, layer: Layer) -> bool:
        """Whether a layer prints for the reader of this face.

        Parameters
        ----------
        layer : any of the job's
        """
        return (layer.reader or self.job.faces[0].reader) is self.reader

    @once
    def piece(self) -> Piece:
        piece = self.job.piece
        if self.number == 0:
            return piece
        return piece.model_copy(update={"shape": mirrored_shape(piece.shape)})

    @once
    def see_through(self) -> Holes | None:
        holes = self.job.see_through
        turned = self.number == 1 and self.two_readers
        return _mirrored_holes(holes) if holes is not None and turned else holes

    @once
    def medium(self) -> Medium:
        """What carries the pieces; film as it was loaded for this face."""
        turning, medium = self.came_up, self.job.medium
        if turning is None or not isinstance(medium, Roll):
            return medium
        return turned_roll(medium, first_lengths(self.job), turning.turn)

    @property
    def roll(self) -> Roll | None:
        """The medium, where it is film."""
        medium = self.medium
        return medium if isinstance(medium, Roll) else None

    @property
    def bed_turned(self) -> bool:
        """Whether the board is loaded turned by half a turn."""
        return isinstance(self.job.medium, Bed) and self.job.medium.turned

    def loaded(self, *, turned: bool) -> Medium:
        """The medium with its board loaded turned or not; other media stay.

        Parameters
        ----------
        turned : whether it is, by half a turn
        """
        medium = self.job.medium
        return medium.replace(turned=turned) if isinstance(medium, Bed) else medium

    # What all faces share.

    @property
    def name(self) -> str:
        return self.job.name

    @property
    def printer(self) -> Printer:
        return self.job.printer

    @once
    def condition(self) -> Condition | None:
        """What is known of the printer for this job: its mode, its inks, the kind of surface."""
        return self.job.printer.condition(self.job.piece.surface.material)

    @once
    def machine(self) -> Printer:
        """The printer as the job's condition has measured it."""
        return self.job.printer.as_measured(self.condition)

    @property
    def bleed(self) -> float:
        """Mm that artwork reaches beyond the piece."""
        return self.job.bleed

    @property
    def jig(self) -> Jig:
        return self.job.jig

    @property
    def guesses(self) -> tuple[Guess, ...]:
        return self.job.guesses

    @property
    def order(self) -> str:
        """The shop's number of the order."""
        return self.job.order

    @property
    def garments(self) -> tuple[Garment, ...]:
        return self.job.garments

    @property
    def marks(self) -> Marks:
        return self.job.marks

    @property
    def guide(self) -> Guide:
        return self.job.guide

    @property
    def cutting(self) -> Cutting:
        return self.job.cutting

    @property
    def receiver(self) -> Receiver:
        return self.job.receiver

    @property
    def conversion(self) -> Conversion:
        return self.job.conversion

    @property
    def running(self) -> Running:
        return self.job.running

    @property
    def prices(self) -> Prices:
        return self.job.prices

    # Edits.

    def replace(self, **fields: Any) -> Faced:
        """The job with other values, told as this face has them.

        Raises
        ------
        BadInput
            If such a job cannot be.
        """
        face, rest = self._parted(fields)
        faces = list(self.job.faces)
        for number, values in face.items():
            faces[number] = faces[number].replace(**values)
        return Faced(self.job.replace(**({"faces": tuple(faces)} | rest)), self.number)

    def with_values(self, fields: Mapping[str, Any]) -> Faced:
        """As :meth:`replace`, for values that are known to go together; much quicker.

        Parameters
        ----------
        fields : new values by their names
        """
        face, rest = self._parted(fields)
        faces = list(self.job.faces)
        for number, values in face.items():
            faces[number] = faces[number].model_copy(update=values)
        made = self.job.model_copy(update={"faces": tuple(faces)} | rest)
        return Faced(made, self.number)

    def _parted(
        self, fields: Mapping[str, Any]
    ) -> tuple[dict[int, dict[str, Any]], dict[str, Any]]:
        """Values of each face by its number, and those of the job, as the first face has them."""
        own = {name: value for name, value in fields.items() if name in _OF_A_FACE}
        rest = {name: value for name, value in fields.items() if name not in _OF_A_FACE}
        faces = {self.number: own} if own else {}
        if self.two_readers and "reader" in own and own["reader"] is not self.reader:
            # The readers change places, and their layers with them.
            faces.setdefault(1 - self.number, {})["reader"] = self.reader
            stack = own.get("stack", self.stack)
            own["stack"] = tuple(layer.replace(reader=_across(layer.reader)) for layer in stack)
        if self.two_readers and self.number == 1 and "stack" in own:
            faces.setdefault(0, {})["stack"] = own.pop("stack")
        if self.number == 1:
            if "piece" in rest:
                piece = rest["piece"]
                rest["piece"] = piece.model_copy(update={"shape": mirrored_shape(piece.shape)})
            if self.two_readers and rest.get("see_through") is not None:
                rest["see_through"] = _mirrored_holes(rest["see_through"])
            if self.turning is not None and isinstance(rest.get("medium"), Roll):
                lengths = first_lengths(self.job)
                rest["medium"] = turned_roll(rest["medium"], lengths, self.turning.turn)
        return faces, rest


def _across(reader: Reader | None) -> Reader | None:
    if reader is None:
        return None
    return Reader.FACE if reader is Reader.THROUGH else Reader.THROUGH


def faces_of(job: Job) -> tuple[Faced, ...]:
    """A job as each of its faces has it.

    Parameters
    ----------
    job : with one face or two
    """
    return tuple(Faced(job, number) for number in range(len(job.faces)))


def printed_faces(job: Job) -> tuple[Faced, ...]:
    """A job as each face has it that is printed by itself: two of a two-sided piece.

    Parameters
    ----------
    job : with one face or two
    """
    return faces_of(job) if isinstance(job.comes_up, Turning) else (Faced(job),)


def mirrored_shape(shape: Shape) -> Shape:
    """A shape with left and right exchanged.

    Parameters
    ----------
    shape : of the piece
    """
    if not isinstance(shape, Outline):
        # All others are their own mirror image.
        return shape
    return shape.model_copy(update={"rings": _mirrored(shape.rings)})


def _mirrored(rings: tuple[Ring, ...]) -> tuple[Ring, ...]:
    return tuple(tuple((-x, y) for x, y in ring) for ring in rings)


def _mirrored_holes(holes: Holes) -> Holes:
    solid = holes.solid
    if isinstance(solid, Region):
        solid = solid.model_copy(update={"rings": _mirrored(solid.rings)})
    elif isinstance(solid, ArtworkShape):
        solid = OppositeShape()
    elif isinstance(solid, OppositeShape):
        solid = ArtworkShape()
    return holes.model_copy(update={"angle": -holes.angle, "solid": solid})
