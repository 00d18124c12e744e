"""Figures as people type them: sums, and units behind them."""

from __future__ import annotations

import ast
import operator
import re

from farbe.model.base import BadInput

_UNITS = {"": 1.0, "mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, '"': 25.4}
_OPERATORS = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
}
MAX_LENGTH = 60


def parse_amount(text: str, unit: str = "mm") -> float:
    """The value of "3*25.4", "2,5 cm" or "1in" in ``unit``.

    Raises
    ------
    BadInput
        If it is no figure.
    """
    plain = text.strip().replace(",", ".")
    match = re.fullmatch(r'(.*?[\d.)])\s*(mm|cm|m|in|"|%|°)?', plain)
    if match is None or len(plain) > MAX_LENGTH:
        raise BadInput(
            f"{text.strip() or 'Nothing'} is not a figure; type one like 12.5 or 3*25.4."
        )
    factor = _UNITS.get(match[2] or "", 1.0) if unit == "mm" else 1.0
    try:
        return _value(ast.parse(match[1], mode="eval").body) * factor
    except (SyntaxError, ValueError, ZeroDivisionError, OverflowError, RecursionError):
        raise BadInput(f"{text.strip()} is not a figure; type one like 12.5 or 3*25.4.") from None


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
