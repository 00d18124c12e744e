"""What customers want, row by row."""

from datetime import date
from typing import Annotated

from pydantic import Field, StringConstraints

from farbe.model.base import Digest, Name, Value
from farbe.model.pick import OrderNumber
from farbe.model.text import TableEntry
from farbe.said import Spoken

#: Pieces of one order, and of a whole list, at the most.
MOST_OF_ONE, MOST_PIECES = 20_000, 200_000
Note = Annotated[str, StringConstraints(max_length=500)]


class OrderState(Spoken):
    """How far an order is: as far as the piece of it that is furthest back."""

    WAITING = "waiting"
    PLANNED = "planned"
    HANDED = "handed over"
    PRINTED = "printed"
    FAILED = "failed"
    PACKED = "packed"
    CANCELLED = "cancelled"


class Order(Value):
    """A row of a list that can be made.

    Attributes
    ----------
    number : that the shop knows it by
    product : by the name of the kept product
    artwork : the path of the file that the list names; empty prints the product's own
    digest : of that file
    texts : of each column that the product's texts name, in their order
    quantity : pieces
    due : the day by which it is to be ready
    note : for who packs it
    line : of the list
    cancelled : it is wanted no more
    packed : it has left the bench
    state : as it was when the plan was written
    """

    number: OrderNumber
    product: Name
    artwork: Annotated[str, StringConstraints(max_length=4096)] = ""
    digest: Digest | None = None
    texts: Annotated[tuple[tuple[Name, TableEntry], ...], Field(max_length=50)] = ()
    quantity: Annotated[int, Field(ge=1, le=MOST_OF_ONE)] = 1
    due: date | None = None
    note: Note = ""
    line: Annotated[int, Field(ge=0)] = 0
    cancelled: bool = False
    packed: bool = False
    state: OrderState = OrderState.WAITING

    @property
    def asked(self) -> tuple[object, ...]:
        """What each of its pieces looks like: two that are equal print the same."""
        return self.product, self.digest, self.texts

    @property
    def by(self) -> date:
        """The day by which it is due; those without one come last."""
        return self.due or date.max


class Refused(Value):
    """A row that cannot be made, and why.

    Attributes
    ----------
    line : of the list
    order : its number, if it has one
    reason : a sentence
    fields : what the row says, by the list's columns
    """

    line: Annotated[int, Field(ge=0)]
    order: str = ""
    reason: str
    fields: tuple[tuple[str, str], ...] = ()


class Mend(Value):
    """A row as it was mended here, which takes the place of the list's.

    Attributes
    ----------
    was : the fields of the row in the list
    fields : those that count
    """

    was: tuple[tuple[str, str], ...]
    fields: tuple[tuple[str, str], ...]
