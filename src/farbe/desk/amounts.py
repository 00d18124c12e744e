"""Figures as people type them: sums, fractions, decimal commas, and units behind them."""

from __future__ import annotations

import ast
import operator
import re

from farbe.layout.figures import mm_per_unit
from farbe.model.base import BadInput
from farbe.said import say

_UNITS = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, '"': 25.4}
_OPERATORS = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
}
MAX_LENGTH = 60
#: A whole number and a fraction, as inches are told: 2 1/2.
_FRACTION = re.compile(r"(?<![\d.])(\d+)\s+(\d+/\d+)")


def parse_amount(text: str, unit: str = "mm") -> float:
    """The value of "3*25.4", "2,5 cm", "2 1/2 in" or "1.234,5" in ``unit``.

    Lengths without a unit are in the user's; the value is in mm.

    Parameters
    ----------
    text : as it was typed
    unit : of the figure: ``mm`` for lengths

    Raises
    ------
    BadInput
        If it is no figure.
    """
    plain = _FRACTION.sub(r"(\1+\2)", _with_point(text.strip()))
    match = re.fullmatch(r'(.*?[\d.)])\s*(mm|cm|m|in|"|%|°)?', plain)
    if match is None or len(plain) > MAX_LENGTH:
        raise BadInput(
            say(
                "{text} is not a figure; type one like 12.5 or 3*25.4.",
                text=text.strip() or say("Nothing"),
            )
        )
    factor = 1.0
    if unit == "mm":
        factor = _UNITS[match[2]] if match[2] in _UNITS else mm_per_unit()
    try:
        return _value(ast.parse(match[1], mode="eval").body) * factor
    except (SyntaxError, ValueError, ZeroDivisionError, OverflowError, RecursionError):
        raise BadInput(
            say("{text} is not a figure; type one like 12.5 or 3*25.4.", text=text.strip())
        ) from None


def _with_point(text: str) -> str:
    """A figure with one decimal point: of a point and a comma, the last one is decimal."""
    if "." in text and "," in text:
        thousands = "," if text.rfind(".") > text.rfind(",") else "."
        text = text.replace(thousands, "")
    return text.replace(",", ".")


def _value(node: ast.expr) -> float:
    match node:
        case ast.Constant(value=bool()):
            raise ValueError
        case ast.Constant(value=int() | float() as number):
            return float(number)
        case ast.UnaryOp(op=ast.USub(), operand=operand):
            return -_value(operand)
        case ast.BinOp(left=left, op=op, right=right) if type(op) in _OPERATORS:
            return float(_OPERATORS[type(op)](_value(left), _value(right)))
    raise ValueError
