"""The control strip of a job, in the channels of its artwork's run."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from farbe.art.artwork import Pixels
from farbe.kept import once
from farbe.layout.faced import Faced
from farbe.layout.lengths import STRIP_LINE
from farbe.layout.strip import LaidStrip, laid_strips, strip_layers
from farbe.model.patch import Patch, level_of
from farbe.plan.order import Channel, mirrored
from farbe.render.tile import BlackOnly, Laid, TextTile, Tile
from farbe.separate.grid import Grid

#: Mm: height of capitals of the line below the patches.
CAPITALS = 2.0


@dataclass(frozen=True, eq=False)
class StripTile:
    """Patches in rows from the upper left, as their reader has them; nothing below them.

    ``levels`` has a row for each patch and a column for each channel; ``side`` is that of a patch
    in mm.
    """

    levels: Pixels
    columns: int
    side: tuple[float, float]
    grid: Grid
    mirrored: bool

    @property
    def size(self) -> tuple[int, int]:
        rows = -(-len(self.levels) // self.columns)
        return self.grid.size(self.columns * self.side[0], rows * self.side[1])

    def rows(self, start: int, stop: int) -> Pixels:
        wide = self.size[0]
        across = (np.arange(wide) / self.grid.per_mm_x // self.side[0]).astype(int)
        down = (np.arange(start, stop) / self.grid.per_mm_y // self.side[1]).astype(int)
        made = self._patches[
            np.minimum(down, len(self._patches) - 1)[:, None],
            np.minimum(across, self.columns - 1)[None, :],
        ]
        return np.ascontiguousarray(made[:, ::-1] if self.mirrored else made)

    @once
    def _patches(self) -> Pixels:
        """The levels, (rows, columns, channels)."""
        rows = -(-len(self.levels) // self.columns)
        filled = np.zeros((rows * self.columns, self.levels.shape[1]), np.uint8)
        filled[: len(self.levels)] = self.levels
        return filled.reshape(rows, self.columns, -1)


def strip_levels(job: Faced, infos: Sequence[Channel], patches: Sequence[Patch]) -> Pixels:
    """What each channel prints of each patch.

    Parameters
    ----------
    job : as the face has it whose layers print
    infos : the channels of the run
    patches : of the strip

    Returns
    -------
    uint8 (patches, channels).
    """
    colour, whites, blacks = strip_layers(job)
    process = [] if colour is None else list(job.printer.inks_of(colour.kind))
    found = np.zeros((len(patches), len(infos)), np.uint8)
    for at, channel in enumerate(infos):
        if channel.layer == colour:
            ink = process.index(channel.ink)
            found[:, at] = [level_of(patch.inks[ink]) for patch in patches]
        elif channel.layer in whites:
            found[:, at] = [255 if patch.white else 0 for patch in patches]
        elif channel.layer in blacks:
            found[:, at] = [255 if patch.blackout else 0 for patch in patches]
    return found


def strip_tiles(
    job: Faced, grid: Grid, infos: Sequence[Channel], black: int, today: datetime.date
) -> list[Laid]:
    """A job's strips where they lie, each with a line that says of which job and day it is.

    Parameters
    ----------
    job : as the face has it that is printed
    grid : pixels to the inch along either axis
    infos : the channels of the run
    black : the channel of the line
    today : the day that the line says
    """
    found: list[Laid] = []
    turned = mirrored(job.reader)
    for strip in laid_strips(job):
        levels = strip_levels(job, infos, strip.patches)
        patches = StripTile(levels, strip.columns, (strip.wide, strip.high), grid, turned)
        words = TextTile(_words(job, strip, today), CAPITALS, grid)
        wide, high = _in_mm(patches, grid)
        long, _ = _in_mm(words, grid)
        # The line begins where its reader begins.
        x = strip.x + (wide - long / 2 if turned else long / 2)
        found += [
            Laid(patches, strip.x + wide / 2, strip.y + STRIP_LINE + high / 2),
            Laid(BlackOnly(words, black, len(infos), turned), x, strip.y + (STRIP_LINE - 1.0) / 2),
        ]
    return found


def _in_mm(tile: Tile, grid: Grid) -> tuple[float, float]:
    return tile.size[0] / grid.per_mm_x, tile.size[1] / grid.per_mm_y


def _words(job: Faced, strip: LaidStrip, today: datetime.date) -> str:
    """The day and the job's name, as much of it as the strip is wide."""
    room = int(strip.size[0] / (0.8 * CAPITALS))
    return f"{today.isoformat()} {job.name}"[:room].strip()
