"""How far orders are, from the loads that print them."""

from __future__ import annotations

from collections.abc import Mapping

from farbe.orders.order import Order, OrderState
from farbe.orders.plan import LoadState, Plan

#: What a load's state means for its pieces.
_OF_LOADS = {
    LoadState.PLANNED: OrderState.PLANNED, LoadState.QUEUED: OrderState.PLANNED,
    LoadState.HANDED: OrderState.HANDED, LoadState.PRINTED: OrderState.PRINTED,
    LoadState.FAILED: OrderState.FAILED,
}  # fmt: skip
#: States of pieces, the furthest back first: an order is as far as that.
_BACK_FIRST = (
    OrderState.FAILED, OrderState.WAITING, OrderState.PLANNED, OrderState.HANDED,
    OrderState.PRINTED,
)  # fmt: skip


def with_states(plan: Plan) -> Plan:
    """A plan whose orders say how far they are.

    Parameters
    ----------
    plan : whose loads are as they are now
    """
    found: dict[str, dict[int, OrderState]] = {}
    for load in plan.loads:
        failed, again = frozenset(load.failed), frozenset(load.again)
        for place in load.places:
            state = _OF_LOADS[load.state]
            if place.number in failed:
                state = OrderState.PLANNED if place.number in again else OrderState.FAILED
            pieces = found.setdefault(place.order, {})
            # What failed in one load may be on another by now.
            if pieces.get(place.piece, OrderState.FAILED) is OrderState.FAILED:
                pieces[place.piece] = state
    orders = tuple(
        order.model_copy(update={"state": _state_of(order, found.get(order.number, {}))})
        for order in plan.orders
    )
    return plan.model_copy(update={"orders": orders})


def _state_of(order: Order, pieces: Mapping[int, OrderState]) -> OrderState:
    if order.cancelled:
        return OrderState.CANCELLED
    if order.packed:
        return OrderState.PACKED
    found = {pieces.get(piece, OrderState.WAITING) for piece in range(1, order.quantity + 1)}
    return next(state for state in _BACK_FIRST if state in found)
