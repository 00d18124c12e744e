"""Figures in words."""

from __future__ import annotations


def number(value: float, digits: int = 2) -> str:
    """A figure without needless zeros.

    Parameters
    ----------
    value : the figure
    digits : behind the point, at the most
    """
    text = f"{value:.{digits}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text
