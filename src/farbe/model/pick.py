"""Who gets what is printed in a place."""

from typing import Annotated

from pydantic import Field, StringConstraints

from farbe.model.base import Value

#: Letters of an order's number, as shops write it.
OrderNumber = Annotated[str, StringConstraints(min_length=1, max_length=60)]


class Pick(Value):
    """The order that the piece of a place is for.

    Attributes
    ----------
    number : of the place, from 1
    order : the order's number
    note : what is to be told with it at the bench
    """

    number: Annotated[int, Field(ge=1)]
    order: OrderNumber
    note: Annotated[str, StringConstraints(max_length=500)] = ""
