"""How a job is run and what it costs."""

from typing import Annotated

from pydantic import Field

from farbe.model.base import Length, Margin, Value

Seconds = Annotated[float, Field(ge=0, le=1_000_000)]


class Times(Value):
    """Seconds that handwork takes in a shop.

    Attributes
    ----------
    place : a piece into its pocket; half of it out again
    height : setting the height
    turn, turn_board : turning over a piece, or a board with all its pieces
    load_film, turn_film : loading film, and turning it over to be loaded again
    cut : cutting a piece off a film
    powder, powder_metre : readying powder and oven, and each metre that goes through them
    press : a cycle of the press with peeling, of ``at_once`` transfers
    back : the bed's way back to the datum between separate runs
    """

    place: Seconds = 4.0
    height: Seconds = 30.0
    turn: Seconds = 5.0
    turn_board: Seconds = 60.0
    load_film: Seconds = 90.0
    turn_film: Seconds = 180.0
    cut: Seconds = 8.0
    powder: Seconds = 120.0
    powder_metre: Seconds = 90.0
    press: Seconds = 35.0
    at_once: Annotated[int, Field(ge=1, le=1000)] = 1
    back: Seconds = 20.0


class Running(Value):
    """How the printer goes about it.

    Attributes
    ----------
    separate : a run for each layer, with ``dry`` seconds between them, in place of one for all
    whole_width : the carriage crosses the whole bed, not only where there is ink
    exact : a slow carriage, for exact placing
    vacuum : the bed holds what lies on it
    register_length : mm along the bed above which separate runs lose register
    may_show : percent of prints that may show misregister
    times : what handwork takes
    """

    separate: bool = False
    dry: Seconds = 600.0
    whole_width: bool = False
    exact: bool = False
    vacuum: bool = True
    register_length: Length = 250.0
    may_show: Annotated[float, Field(ge=0.1, le=50)] = 5.0
    times: Times = Times()


class Prices(Value):
    """What things cost, in the shop's currency: a piece, an hour of work and of the machine.

    ``waste`` is the share of pieces and ink that is spoilt, ``margin`` what is added, in percent.
    """

    piece: Margin = 0.0
    work_hour: Margin = 38.0
    machine_hour: Margin = 14.0
    waste: Annotated[float, Field(ge=0, le=100)] = 3.0
    margin: Annotated[float, Field(ge=0, le=1000)] = 40.0
