"""The plan: orders, and the loads that print them; the file ``plan.json``."""

from collections.abc import Iterable
from pathlib import Path
from typing import Annotated, Literal, Self

from pydantic import Field, ValidationError, model_validator

from farbe.atomic import check_regular, whole_file
from farbe.model.base import BadInput, Name, Value, sentence
from farbe.model.pick import OrderNumber
from farbe.orders.order import Mend, Order, Refused
from farbe.said import Spoken, say

FILE_NAME = "plan.json"
MAX_BYTES = 200_000_000


class LoadState(Spoken):
    """How far a load is."""

    PLANNED = "planned"
    QUEUED = "in the queue"
    HANDED = "handed over"
    PRINTED = "printed"
    FAILED = "failed"


#: Loads whose pieces are no more planned anew.
BEGUN = (LoadState.HANDED, LoadState.PRINTED, LoadState.FAILED)


class Placed(Value):
    """A piece in its pocket of a board, or in its place on film.

    Attributes
    ----------
    order : whose piece it is
    piece : which of the order's, from 1
    pocket : as guide and ticket number it
    place : on film, as the ticket numbers it
    """

    order: OrderNumber
    piece: Annotated[int, Field(ge=1)]
    pocket: Annotated[int, Field(ge=1)] | None = None
    place: Annotated[int, Field(ge=1)] | None = None

    @model_validator(mode="after")
    def _lies_somewhere(self) -> Self:
        if (self.pocket is None) is (self.place is None):
            raise ValueError(say("a piece lies in a pocket or in a place on film"))
        return self

    @property
    def number(self) -> int:
        """Of the pocket or place."""
        return self.pocket or self.place or 0


class Load(Value):
    """A board or a sheet of film.

    Attributes
    ----------
    number : its own, never used again
    name : what its job is called
    products : that lie on it
    group : what all its products have in common
    content : what all its pieces look like, as one word
    job : its job file, in the plan's folder
    places : one a piece
    serial : how many pieces of its group had a serial number before
    state : how far it is
    locked : it stays as it is, whatever changes
    held : it does not go to the queue
    token : what the queue knows it by; empty if that does not have it
    entry : its number in the queue
    failed : numbers of the places whose pieces failed
    again : numbers of those that the queue prints once more
    """

    number: Annotated[int, Field(ge=1)]
    name: Name
    products: tuple[Name, ...]
    group: str
    content: str
    job: str
    places: Annotated[tuple[Placed, ...], Field(min_length=1)]
    serial: Annotated[int, Field(ge=0)] = 0
    state: LoadState = LoadState.PLANNED
    locked: bool = False
    held: bool = False
    token: str = ""
    entry: Annotated[int, Field(ge=0)] = 0
    failed: tuple[Annotated[int, Field(ge=1)], ...] = ()
    again: tuple[Annotated[int, Field(ge=1)], ...] = ()

    @property
    def stays(self) -> bool:
        """Whether nothing that changes in the list changes it."""
        return self.locked or self.state in BEGUN

    @property
    def lost(self) -> frozenset[int]:
        """Numbers of places whose pieces are to be printed by another load."""
        return frozenset(self.failed) - frozenset(self.again)

    @property
    def pieces(self) -> frozenset[tuple[str, int]]:
        """What it prints that is not lost: orders' numbers and which of their pieces."""
        lost = self.lost
        return frozenset((p.order, p.piece) for p in self.places if p.number not in lost)


class Plan(Value):
    """All that is known of a list's orders.

    Attributes
    ----------
    source : the list that was read last
    key : what tells its loads in the queue from those of other plans
    next_load : number of the next load
    orders : that can be made, in the order of the list
    refused : rows that cannot
    remarks : what the operator should know of orders that can
    mends : rows that were mended here
    loads : in the order in which they are to be printed
    """

    format: Literal["farbe-plan"] = "farbe-plan"
    version: Literal[1] = 1
    source: str = ""
    key: str
    next_load: Annotated[int, Field(ge=1)] = 1
    orders: tuple[Order, ...] = ()
    refused: tuple[Refused, ...] = ()
    remarks: tuple[str, ...] = ()
    mends: tuple[Mend, ...] = ()
    loads: tuple[Load, ...] = ()

    def load(self, number: int) -> Load:
        """A load by its number.

        Parameters
        ----------
        number : of the load

        Raises
        ------
        BadInput
            If there is none.
        """
        found = next((load for load in self.loads if load.number == number), None)
        if found is None:
            raise BadInput(say("The plan has no load {number}.", number=number))
        return found

    def order(self, number: str) -> Order:
        """An order by its number.

        Parameters
        ----------
        number : of the order

        Raises
        ------
        BadInput
            If there is none.
        """
        found = next((order for order in self.orders if order.number == number), None)
        if found is None:
            raise BadInput(say("The plan has no order {number}.", number=number))
        return found

    def with_load(self, changed: Load) -> Self:
        """The plan with another load in place of the one of its number.

        Parameters
        ----------
        changed : as it is from now on
        """
        return self.with_loads(changed if one.number == changed.number else one
                               for one in self.loads)  # fmt: skip

    def with_loads(self, loads: Iterable[Load]) -> Self:
        """The plan with these loads.

        Parameters
        ----------
        loads : all, in the order of printing
        """
        return self.model_copy(update={"loads": tuple(loads)})


def write_plan(plan: Plan, folder: Path) -> None:
    """Write a plan into its folder, whole or not at all.

    Parameters
    ----------
    plan : to be written
    folder : that has its job files

    Raises
    ------
    BadInput
        If it cannot be written.
    """
    # Each piece has either a pocket or a place, and what an order does not say is left out.
    told = plan.model_dump_json(indent=1, exclude_none=True)
    with whole_file(folder / FILE_NAME) as file:
        file.write(told.encode("utf-8"))


def read_plan(folder: Path) -> Plan | None:
    """The plan of a folder; None if it has none yet.

    Parameters
    ----------
    folder : of the plan

    Raises
    ------
    BadInput
        If what is there cannot be read.
    """
    path = folder / FILE_NAME
    if not path.exists():
        return None
    check_regular(path, say("a plan"))
    try:
        if path.stat().st_size > MAX_BYTES:
            raise BadInput(say("{path} is too large to be a plan.", path=path.name))
        return Plan.model_validate_json(path.read_bytes())
    except OSError as error:
        raise BadInput(
            say("{path} cannot be read ({strerror}).", path=path.name, strerror=error.strerror)
        ) from error
    except (ValidationError, RecursionError) as error:
        why = sentence(error) if isinstance(error, ValidationError) else ""
        raise BadInput(
            say("{path} holds no plan that can be read; take its last copy. {why}",
                path=path, why=why)
        ) from error  # fmt: skip
