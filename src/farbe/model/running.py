"""How a job is run and what it costs."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from farbe.model.base import Length, Margin, Value

Seconds = Annotated[float, Field(ge=0, le=1_000_000)]


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
    """

    separate: bool = False
    dry: Seconds = 600.0
    whole_width: bool = False
    exact: bool = False
    vacuum: bool = True
    register_length: Length = 250.0
    may_show: Annotated[float, Field(ge=0.1, le=50)] = 5.0


class Prices(Value):
    """What things cost, in the shop's currency: a piece, an hour of work and of the machine.

    ``waste`` is the share of pieces and ink that is spoilt, ``margin`` what is added, in percent.
    """

    piece: Margin = 0.0
    work_hour: Margin = 38.0
    machine_hour: Margin = 14.0
    waste: Annotated[float, Field(ge=0, le=100)] = 3.0
    margin: Annotated[float, Field(ge=0, le=1000)] = 40.0
