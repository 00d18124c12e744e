"""Figures in words."""

from __future__ import annotations


def number(value: float, digits: int = 2) -> str:
    """A figure without needless zeros."""
    text = f"{value:.{digits}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text
