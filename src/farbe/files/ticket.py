"""The ticket of a hand-off: what each file is and in which order it prints.

This is all that a printer's side needs to read; it names no other part of Farbe.
"""

import hashlib
import json
from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field, ValidationError

from farbe.model.base import BadInput, Value, sentence
from farbe.said import say

FILE_NAME = "ticket.json"
MAX_BYTES = 8_000_000

TicketPoint = tuple[float, float]


class TicketLayer(Value):
    """One trip of ink: channels of the files that are laid down together, so many hits.

    ``inks`` are the printer's names of what each channel is printed with.
    """

    name: str
    kind: Literal["colour", "white", "varnish", "blackout", "named ink"]
    channels: tuple[str, ...]
    inks: tuple[str, ...]
    hits: int = Field(ge=1)


class TicketFile(Value):
    """A file, its name relative to the folder, and the channels that are in it.

    ``sha256`` is of its content: a file that does not fit is not the one that was handed off.
    """

    name: str
    format: Literal["tiff", "pdf"]
    channels: tuple[str, ...]
    sha256: Annotated[str, Field(pattern="^[0-9a-f]{64}$")]


class TicketRun(Value):
    """One trip of the bed: its files, and its layers in printing order.

    ``name`` is its own; several runs may have the same ``what``, each after ``dry_seconds`` of
    drying of the one before. ``seconds`` is how long it is expected to print. Runs fit on one
    board exactly when their ``jig_code`` is the same.
    """

    name: str
    what: Literal["guide", "artwork", "guide-back", "artwork-back"]
    files: tuple[TicketFile, ...]
    dry_seconds: float = 0.0
    seconds: float = 0.0
    width_px: int
    height_px: int
    dpi_x: float
    dpi_y: float
    mirrored: bool
    receiver_mirrors: bool
    passes: int = Field(ge=1)
    layers: tuple[TicketLayer, ...]
    ink_ml: dict[str, float]
    jig_code: str


class TicketPocket(Value):
    """A pocket's number, its middle, and which of the ticket's pieces lies in it.

    ``artwork`` is the file that is printed there, ``words`` are the texts that it gets, ``order``
    is whose piece it is where the job prints for several.
    """

    number: int
    x: float
    y: float
    piece: int = Field(default=0, ge=0)
    artwork: str = ""
    words: tuple[str, ...] = ()
    order: str = ""


class TicketBoard(Value):
    x: float
    y: float
    width: float
    height: float
    colour: str


class TicketPiece(Value):
    """A kind of piece: outline as it lies, in mm around its middle, y up, height and surface."""

    name: str
    outline: tuple[TicketPoint, ...]
    height: float
    material: Literal["opaque", "translucent", "clear", "textile"]
    colour: str
    reader: Literal["face", "through", "transfer", "both"]


class TicketLine(Value):
    """The line behind a side A on film: the pocket's number, and the line's middle in mm."""

    number: int
    x: float
    y: float
    length: float


class TicketStrip(Value):
    """Where a control strip lies: the near left corner of its patches, and their size, in mm.

    What was sent to each patch is in the file ``reference``, whose places count from the upper
    left as the strip is read; ``upside_down`` where the board was loaded turned.
    """

    x: float
    y: float
    width: float
    height: float
    reference: str
    upside_down: bool = False


class TicketGarment(Value):
    """What a transfer is pressed onto."""

    name: str
    colour: str
    size: str
    count: int


class TicketBack(Value):
    """How the pieces come up for their other side, and how they lie then.

    ``sideways`` exchanges left and right, ``over the near edge`` near and far: of each piece in
    its pocket, or of the whole ``board`` in its place. ``outlines`` are of the ticket's pieces as
    they lie then.
    """

    turn: Literal["sideways", "over the near edge"]
    board: bool
    outlines: tuple[tuple[TicketPoint, ...], ...]
    pockets: tuple[TicketPocket, ...]


class Ticket(Value):
    """Millimetres from the datum, the bed's corner; x right, y away from the operator.

    On a roll the bed is the film that is used, as long as it is needed, and nothing is put in.
    ``order`` is the shop's number; ``previews`` are pictures that only people look at.
    """

    format: Literal["farbe-ticket"] = "farbe-ticket"
    version: Literal[5] = 5
    job: str
    order: str = ""
    printer: str
    medium: Literal["bed", "roll"] = "bed"
    bed_width: float
    bed_height: float
    board: TicketBoard
    pieces: tuple[TicketPiece, ...]
    pockets: tuple[TicketPocket, ...]
    runs: tuple[TicketRun, ...]
    back: TicketBack | None = None
    garments: tuple[TicketGarment, ...] = ()
    lines: tuple[TicketLine, ...] = ()
    strips: tuple[TicketStrip, ...] = ()
    guide_svg: str | None = None
    previews: tuple[str, ...] = ()
    mode: str = ""
    throw: Literal["flat", "far"] = "flat"

    @property
    def height(self) -> float:
        """Height in mm of the highest piece."""
        return max(piece.height for piece in self.pieces)

    def run(self, name: str) -> TicketRun:
        """The run of a name; BadInput if there is none.

        Parameters
        ----------
        name : of a run

        Raises
        ------
        BadInput
            With one sentence that says what is wrong.
        """
        for run in self.runs:
            if run.name == name:
                return run
        raise BadInput(say("The ticket has no run for the {name}.", name=name))


def ticket_json(ticket: Ticket) -> bytes:
    """A ticket as the text of its file.

    Parameters
    ----------
    ticket : of a hand-off
    """
    return json.dumps(ticket.model_dump(mode="json"), indent=1, ensure_ascii=False).encode("utf-8")


def read_ticket(folder: Path) -> Ticket:
    """The ticket of a hand-off folder.

    Parameters
    ----------
    folder : of a hand-off

    Raises
    ------
    BadInput
        If there is none, it cannot be read, or it names files outside its folder.
    """
    path = folder / FILE_NAME
    try:
        if path.stat().st_size > MAX_BYTES:
            raise BadInput(
                say("The ticket in {folder} is too large to be one.", folder=folder.name)
            )
        ticket = Ticket.model_validate_json(path.read_bytes())
    except OSError:
        raise BadInput(
            say("{folder} is not a hand-off: there is no ticket in it.", folder=folder)
        ) from None
    except ValidationError as error:
        raise BadInput(
            say(
                "The ticket in {folder} cannot be read: {error}",
                folder=folder.name,
                error=sentence(error),
            )
        ) from error
    places = (*ticket.pockets, *(ticket.back.pockets if ticket.back is not None else ()))
    if not ticket.pieces or any(place.piece >= len(ticket.pieces) for place in places):
        raise BadInput(
            say(
                "The ticket in {folder} has a pocket for a piece that it lacks.", folder=folder.name
            )
        )
    for run in ticket.runs:
        for file in run.files:
            if not (folder / file.name).resolve().is_relative_to(folder.resolve()):
                raise BadInput(
                    say(
                        "The ticket in {folder} names a file outside its folder.",
                        folder=folder.name,
                    )
                )
    return ticket


def digest_of(path: Path) -> str:
    """SHA-256 of a file's content, in hexadecimal figures.

    Parameters
    ----------
    path : of the file
    """
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def check_files(folder: Path, ticket: Ticket) -> None:
    """Refuse a hand-off whose files are not those that its ticket was written for.

    Parameters
    ----------
    folder : of the hand-off
    ticket : that was read there

    Raises
    ------
    BadInput
        If a file is missing or another one.
    """
    for run in ticket.runs:
        for file in run.files:
            try:
                fits = digest_of(folder / file.name) == file.sha256
            except OSError:
                raise BadInput(
                    say(
                        "{file}, which the ticket of {job} names, is not there; hand the job off "
                        "again.",
                        file=file.name,
                        job=ticket.job,
                    )
                ) from None
            if not fits:
                raise BadInput(
                    say(
                        "{file} is not the file that the ticket of {job} was written for; hand the "
                        "job off again.",
                        file=file.name,
                        job=ticket.job,
                    )
                )
