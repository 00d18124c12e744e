"""What an order costs, and its price."""

from __future__ import annotations

from dataclasses import dataclass

from farbe.estimate.estimate import Estimate
from farbe.estimate.steps import Busy, Step, seconds_of
from farbe.model.running import Prices

HOUR = 3600.0


@dataclass(frozen=True)
class Cost:
    """Parts of an order's cost and its price, in the shop's currency, for so many pieces."""

    ink: float
    material: float
    work: float
    machine: float
    waste: float
    margin: float
    pieces: int

    @property
    def total(self) -> float:
        """What it costs the shop, in the job's currency."""
        return self.ink + self.material + self.work + self.machine + self.waste

    @property
    def price(self) -> float:
        """What the customer pays, in the job's currency."""
        return self.total + self.margin

    @property
    def each(self) -> float:
        """The price of one piece, in the job's currency."""
        return self.price / max(1, self.pieces)


def order_cost(found: Estimate, listed: tuple[Step, ...], prices: Prices) -> Cost:
    """The cost of an order.

    Handwork and printing are paid by the hour, drying is not; waste is a share of ink and
    pieces; the margin is a share of all that.

    Parameters
    ----------
    found : what was worked out
    listed : what is on the board, each with its quantity
    prices : of ink, time and material, in the job's currency
    """
    ink, material = found.cost, found.pieces * prices.piece + found.film
    work = seconds_of(listed, Busy.HANDWORK) / HOUR * prices.work_hour
    machine = seconds_of(listed, Busy.PRINTING) / HOUR * prices.machine_hour
    waste = (ink + material) * prices.waste / 100.0
    margin = (ink + material + work + machine + waste) * prices.margin / 100.0
    return Cost(ink, material, work, machine, waste, margin, found.pieces)
