"""Farbe: layer separations and jig layouts for a specialty print shop."""

__version__ = "0.1.0"
