"""Where two values differ."""

from __future__ import annotations

from typing import Any

from farbe.model.base import Value

#: The way to a value deep in another: names of fields and places in tuples.
ValueWay = tuple[str | int, ...]


def differences(one: Any, other: Any) -> frozenset[ValueWay]:
    """The ways to all values in which two values of the same kind differ.

    Tuples of the same length are compared place by place; others differ as a whole. So a choke
    that changes from 0.2 to 0.3 differs in one number, and a layer that was added in the stack.

    Parameters
    ----------
    one : a value
    other : a value of the same kind
    """
    return frozenset(_ways(one, other, ()))


def _ways(one: Any, other: Any, way: ValueWay) -> list[ValueWay]:
    if one is other:
        return []
    if isinstance(one, Value) and type(one) is type(other):
        names = type(one).model_fields
        return [w for n in names for w in _ways(getattr(one, n), getattr(other, n), (*way, n))]
    if isinstance(one, tuple) and isinstance(other, tuple) and len(one) == len(other):
        return [
            w
            for place, (a, b) in enumerate(zip(one, other, strict=True))
            for w in _ways(a, b, (*way, place))
        ]
    return [] if one == other else [way]
