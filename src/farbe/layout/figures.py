"""Figures in words, and lengths in the user's units."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from farbe.model.base import MM_PER_INCH


class Units(StrEnum):
    """In what lengths are told and typed; all of Farbe computes in millimetres."""

    MM = "mm"
    INCHES = "in"


#: How the one user of this process wants lengths told. It is no value of a job, and what is worked
#: out does not depend on it: only words do, which are made in many threads.
_units = Units.MM


#: What parts whole from tenths where the user lives.
_point = "."


def use_decimal_point(point: str) -> None:
    """Tell figures with this sign from now on.

    Parameters
    ----------
    point : a point or a comma
    """
    global _point
    _point = point


def decimal(value: float, digits: int, *, signed: bool = False) -> str:
    """A figure with so many digits behind the point, or behind the user's comma.

    Parameters
    ----------
    value : the figure
    digits : behind the point
    signed : with its sign, also above 0
    """
    text = f"{value:+.{digits}f}" if signed else f"{value:.{digits}f}"
    return text.replace(".", _point)


def use_units(units: Units) -> None:
    """Tell lengths in these units from now on.

    Parameters
    ----------
    units : the user's
    """
    global _units
    _units = units


@dataclass(frozen=True)
class Manner:
    """How figures are told: the units of lengths, and what parts whole from tenths."""

    units: Units
    point: str


def manner() -> Manner:
    """How figures are told now."""
    return Manner(_units, _point)


def tell_in(manner: Manner) -> None:
    """Tell figures in this manner from now on.

    Parameters
    ----------
    manner : of the process that asks
    """
    use_units(manner.units)
    use_decimal_point(manner.point)


def units() -> Units:
    """In what lengths are told now."""
    return _units


def mm_per_unit() -> float:
    """Millimetres in one of the user's units."""
    return 1.0 if _units is Units.MM else MM_PER_INCH


def number(value: float, digits: int = 2) -> str:
    """A figure without needless zeros.

    Parameters
    ----------
    value : the figure
    digits : behind the point, at the most
    """
    text = f"{value:.{digits}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text == "-0" else text.replace(".", _point)


def bare_length(mm: float, digits: int = 2, *, signed: bool = False) -> str:
    """A length in the user's units, without their name.

    Parameters
    ----------
    mm : the length
    digits : behind the point, at the most, in millimetres; inches get as many as tell as much
    signed : as a move: with its sign and all its digits
    """
    value = mm / mm_per_unit()
    if _units is Units.INCHES:
        digits += 1 if abs(value) >= 1 else 2
    return decimal(value, digits, signed=True) if signed else number(value, digits)


def measure(mm: float, digits: int = 2) -> str:
    """A length in the user's units.

    Parameters
    ----------
    mm : the length
    digits : behind the point, at the most, in millimetres
    """
    return f"{bare_length(mm, digits)} {_units.value}"


def sizes(*mm: float, digits: int = 2) -> str:
    """Width and height, and depth if there is one, in the user's units.

    Parameters
    ----------
    mm : the lengths
    digits : behind the point, at the most, in millimetres
    """
    return f"{' × '.join(bare_length(one, digits) for one in mm)} {_units.value}"


def square(mm2: float) -> str:
    """An area with two or three figures: mm², and cm² where it is large, or square inches.

    Parameters
    ----------
    mm2 : in square millimetres
    """
    if _units is Units.INCHES:
        inches = mm2 / MM_PER_INCH**2
        return f"{number(inches, 2 if inches >= 1 else 4)} in²"
    if mm2 >= 100:
        return f"{number(mm2 / 100, 1 if mm2 < 1000 else 0)} cm²"
    return f"{number(mm2, 1 if mm2 < 10 else 0)} mm²"
