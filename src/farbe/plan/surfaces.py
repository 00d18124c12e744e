"""Surfaces to try a print on."""

from __future__ import annotations

from farbe.model.piece import Material, Surface

_COLOURS = (
    ("white", "#f6f5f1"), ("natural", "#d9c7a3"), ("light grey", "#b9bcbd"), ("black", "#17181a"),
    ("dark blue", "#1d2a4a"), ("bottle green", "#1d3b31"), ("red", "#a3262b"),
    ("yellow", "#e2b52c"),
)  # fmt: skip


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
        found.append(Surface(material=Material.CLEAR, name="clear"))
    return tuple(surface for surface in found if surface.colour != own.colour)
