"""What early files said in another way."""

from typing import Any

_ACROSS = {"face": "through", "through": "face"}


def with_readers(stack: list[Any], reader: object) -> list[Any]:
    """Layers as JSON that name their reader, from those that were marked as the opposite one's.

    ``reader`` is who the stack was told for; without any mark no layer names one.

    Parameters
    ----------
    stack : layers as JSON
    reader : who reads the piece
    """
    layers = [dict(layer) if isinstance(layer, dict) else layer for layer in stack]
    marks = [layer.pop("opposite", False) if isinstance(layer, dict) else False for layer in layers]
    if not any(marks) or not isinstance(reader, str):
        return layers
    return [
        layer | {"reader": _ACROSS.get(reader) if mark else reader}
        for layer, mark in zip(layers, marks, strict=True)
    ]
