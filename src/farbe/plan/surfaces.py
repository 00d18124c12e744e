"""Surfaces to try a print on."""

from __future__ import annotations

from farbe.model.piece import Material, Surface
from farbe.said import shipped

_COLOURS = (
    (shipped("white"), "#f6f5f1"),
    (shipped("natural"), "#d9c7a3"),
    (shipped("light grey"), "#b9bcbd"),
    (shipped("black"), "#17181a"),
    (shipped("dark blue"), "#1d2a4a"),
    (shipped("bottle green"), "#1d3b31"),
    (shipped("red"), "#a3262b"),
    (shipped("yellow"), "#e2b52c"),
)


def surfaces_to_try(own: Surface) -> tuple[Surface, ...]:
    """Other colours of the same material, and clear.

    A clear piece has none of its own: its colours are those of opaque ones.

    Parameters
    ----------
    own : the surface that is stated
    """
    material = Material.OPAQUE if own.material is Material.CLEAR else own.material
    found = [Surface(material=material, colour=c, name=name) for name, c in _COLOURS]
    if own.material not in (Material.CLEAR, Material.TEXTILE):
        found.append(Surface(material=Material.CLEAR, name=shipped("clear")))
    return tuple(surface for surface in found if surface.colour != own.colour)
