"""Layers of several jobs that are printed in the same runs."""

from __future__ import annotations

from dataclasses import dataclass

from farbe.layout.faced import Faced
from farbe.model.layer import Layer
from farbe.model.printer import Printer
from farbe.plan.order import printing_layers

#: What two layers must have in common to be laid down together: inks by name, and hits.
_Trip = tuple[tuple[str, ...], int]


@dataclass(frozen=True)
class SharedStack:
    """Layers in an order that suits every job.

    Attributes
    ----------
    layers : substrate up, each with a name of its own
    of : for each job, the place in ``layers`` of each of its printing layers
    """

    layers: tuple[Layer, ...]
    of: tuple[tuple[int, ...], ...]


def shared_stack(jobs: tuple[Faced, ...]) -> SharedStack:
    """The shortest order of layers in which each job finds its own, from the substrate up.

    Parameters
    ----------
    jobs : that lie on one bed, at least one
    """
    stacks = [printing_layers(job.stack) for job in jobs]
    trips = [[_trip(layer, jobs[0].printer) for layer in stack] for stack in stacks]
    merged: list[_Trip] = []
    for one in trips:
        merged = _supersequence(merged, one)
    of = tuple(_places(merged, one) for one in trips)
    # Of three stacks and more, a trip that was put in for one may have been found earlier.
    used = sorted({place for places in of for place in places})
    merged = [merged[place] for place in used]
    of = tuple(tuple(used.index(place) for place in places) for places in of)
    return SharedStack(_named(merged, stacks, of), of)


def _trip(layer: Layer, printer: Printer) -> _Trip:
    return tuple(ink.name for ink in printer.inks_of(layer.kind, layer.ink)), layer.hits


def _supersequence(one: list[_Trip], other: list[_Trip]) -> list[_Trip]:
    """The shortest list that holds both in their orders, by their longest common part."""
    common = [[0] * (len(other) + 1) for _ in range(len(one) + 1)]
    for i in reversed(range(len(one))):
        for j in reversed(range(len(other))):
            common[i][j] = (
                common[i + 1][j + 1] + 1
                if one[i] == other[j]
                else max(common[i + 1][j], common[i][j + 1])
            )
    merged, i, j = [], 0, 0
    while i < len(one) and j < len(other):
        if one[i] == other[j]:
            merged.append(one[i])
            i, j = i + 1, j + 1
        elif common[i + 1][j] >= common[i][j + 1]:
            merged.append(one[i])
            i += 1
        else:
            merged.append(other[j])
            j += 1
    return [*merged, *one[i:], *other[j:]]


def _places(merged: list[_Trip], own: list[_Trip]) -> tuple[int, ...]:
    found, at = [], -1
    for trip in own:
        at = merged.index(trip, at + 1)
        found.append(at)
    return tuple(found)


def _named(
    merged: list[_Trip], stacks: list[tuple[Layer, ...]], of: tuple[tuple[int, ...], ...]
) -> tuple[Layer, ...]:
    """A layer for each trip, as the first job calls it that has it."""
    layers, taken = [], set[str]()
    for place in range(len(merged)):
        layer = next(
            layer
            for stack, own in zip(stacks, of, strict=True)
            for layer, at in zip(stack, own, strict=True)
            if at == place
        )
        name, count = layer.name, 1
        while name.casefold() in taken:
            count += 1
            name = f"{layer.name} {count}"
        taken.add(name.casefold())
        layers.append(layer.replace(name=name, reader=None))
    return tuple(layers)
