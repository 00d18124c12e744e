"""Which patches a chart has."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from farbe.model.base import BadInput
from farbe.model.patch import Base, Patch
from farbe.model.piece import Reader
from farbe.model.printer import LayerKind, Printer
from farbe.optics.patches import MOST_BLACKOUT, MOST_WHITE
from farbe.said import say

#: Percents of a ramp.
RAMP = tuple(float(percent) for percent in range(10, 101, 10))
#: Every so manieth colour is kept out of what is made, to judge it.
KEPT_OUT = 6
#: How often bare white is there: what all colours are related to.
PAPERS = 6
#: Fewest and most colours of a chart.
FEWEST, MOST = 60, 3000
#: A colour has more of these than black's share of its square: much black makes all alike.
BLACK_POWER = 1.7


def chart_patches(printer: Printer, *, colours: int, white: int, reader: Reader = Reader.FACE,
                  total: float = 400.0,
                  seed: int = 1) -> tuple[Patch, ...]:  # fmt: skip
    """The patches of a chart, in an order that says nothing.

    Ramps of each ink and of all together, steps of white, blackout and named inks, and colours
    spread evenly over what process inks can do (Sobol's sequence).

    Parameters
    ----------
    printer : whose inks are printed
    colours : how many colours there are besides the ramps
    white : hits of white behind them, 0 for none
    reader : from which side it is read; varnish is seen from the face alone
    total : most process ink of a colour in percent; ramps that look for the limit go beyond
    seed : of the order and of the colours

    Raises
    ------
    BadInput
        For fewer or more colours than a profile can be made from, or more white than there is.
    """
    if not FEWEST <= colours <= MOST:
        raise BadInput(
            say("A chart has {least} to {most} colours; choose so many.", least=FEWEST, most=MOST)
        )
    has_white = bool(printer.inks_of(LayerKind.WHITE))
    if not 0 <= white <= (MOST_WHITE if has_white else 0):
        raise BadInput(
            say("The white behind a chart's colours is 0 to {most} hits.",
                most=MOST_WHITE if has_white else 0)
        )  # fmt: skip
    found = [*_ramps(white), *_colours(colours, white, total, seed)]
    found += _whites(white) if has_white else []
    found += _named(printer, white)
    if printer.inks_of(LayerKind.VARNISH) and reader is Reader.FACE:
        found.append(Patch(inks=(0, 0, 0, 100), white=white, varnish=True))
        found.append(Patch(white=white, varnish=True))
    order = np.random.default_rng(seed).permutation(len(found))
    return tuple(found[at] for at in order.tolist())


def _ramps(white: int) -> list[Patch]:
    """Each ink alone, all colours together, and black on top of them."""
    found = [Patch(white=white)] * PAPERS
    for ink in range(4):
        for percent in RAMP:
            amounts = [0.0] * 4
            amounts[ink] = percent
            found.append(Patch(inks=(amounts[0], amounts[1], amounts[2], amounts[3]), white=white))
    found += [Patch(inks=(p, p, p, 0), white=white) for p in RAMP]
    found += [Patch(inks=(p, p, p, 100), white=white) for p in (20, 40, 60, 80, 100)]
    return found


def _colours(count: int, white: int, total: float, seed: int) -> list[Patch]:
    """Corners and colours between them."""
    corners = [
        (c, m, y, k) for k in (0.0, 60.0) for c in (0.0, 100.0) for m in (0.0, 100.0)
        for y in (0.0, 100.0) if c + m + y + k <= total
    ]  # fmt: skip
    # Half a second to load, which only who measures has to wait for.
    from scipy.stats import qmc

    sobol = qmc.Sobol(4, seed=seed)
    spread = sobol.random_base2(int(np.ceil(np.log2(count))))[:count] * 100.0
    spread[:, 3] = 100.0 * (spread[:, 3] / 100.0) ** BLACK_POWER
    over = np.maximum(spread.sum(axis=1, keepdims=True) / total, 1.0)
    spread = np.rint(spread / over * 10.0) / 10.0
    mixed = [
        Patch(inks=(c, m, y, k), white=white, kept_out=at % KEPT_OUT == KEPT_OUT - 1)
        for at, (c, m, y, k) in enumerate(spread.tolist())
    ]
    return [Patch(inks=one, white=white) for one in corners] + mixed


def _whites(white: int) -> list[Patch]:
    """White over what is bare, black and white in more and more hits, and in tones over black."""
    found = [Patch(white=hits, base=base) for base in Base for hits in range(MOST_WHITE + 1)]
    found += [Patch(white=1, level=level, base=Base.BLACK) for level in RAMP[:-1]]
    found += [Patch(blackout=hits, base=Base.WHITE) for hits in range(1, MOST_BLACKOUT + 1)]
    # Twice, so that the mean of each is surer.
    return found + [replace(one) for one in found]


def _named(printer: Printer, white: int) -> list[Patch]:
    found = []
    for ink in printer.inks:
        if ink.kind is LayerKind.NAMED:
            found += [Patch(named=ink.name, amount=p, base=Base.WHITE) for p in RAMP]
            found.append(Patch(named=ink.name, amount=100.0, base=Base.BLACK))
    return found
