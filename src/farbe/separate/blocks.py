"""Blocks of a plate that are worked on one by one, so that little is done where little is."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise
from typing import NamedTuple

import cv2

from farbe.separate.choke import Plate


class Block(NamedTuple):
    """Rows and columns of a plate; the last ones are not of it."""

    top: int
    bottom: int
    left: int
    right: int

    @property
    def place(self) -> tuple[slice, slice]:
        """What picks it out of a plate."""
        return slice(self.top, self.bottom), slice(self.left, self.right)

    def around(self, reach: tuple[int, int], shape: tuple[int, ...]) -> Block:
        """The same with what lies around it.

        Parameters
        ----------
        reach : columns and rows on all sides
        shape : of the plate, which it does not leave
        """
        rx, ry = reach
        return Block(
            max(0, self.top - ry), min(shape[0], self.bottom + ry),
            max(0, self.left - rx), min(shape[1], self.right + rx),
        )  # fmt: skip

    @property
    def size(self) -> int:
        """How many pixels it has; 0 if it ends before it begins."""
        return max(0, self.bottom - self.top) * max(0, self.right - self.left)

    def within(self, other: Block) -> Block:
        """The same as a block of another.

        Parameters
        ----------
        other : that holds it
        """
        top, left = other.top, other.left
        return Block(self.top - top, self.bottom - top, self.left - left, self.right - left)


def even_parts(start: int, stop: int, about: int) -> Iterator[tuple[int, int]]:
    """Even parts of so many rows or columns: what lies around each is looked at too.

    Parameters
    ----------
    start, stop : of all rows or columns
    about : how many are wanted in each

    Yields
    ------
    First row or column of a part, and the one after its last.
    """
    long_ = stop - start
    count = max(1, round(long_ / about))
    return pairwise(start + long_ * number // count for number in range(count + 1))


def marked_blocks(there: Plate, about: int, *, whole: bool = False) -> Iterator[Block]:
    """Blocks in which anything is marked.

    Parameters
    ----------
    there : uint8 (h, w), not 0 where it is
    about : rows and columns that are wanted in each
    whole : as they are; else they are cut to what is marked

    Yields
    ------
    Blocks of :func:`even_parts`, none of which has a pixel of another.
    """
    for top, bottom in even_parts(0, there.shape[0], about):
        for first, last in even_parts(0, there.shape[1], about):
            x, y, wide, tall = cv2.boundingRect(there[top:bottom, first:last])
            if wide:
                if whole:
                    yield Block(top, bottom, first, last)
                else:
                    yield Block(top + y, top + y + tall, first + x, first + x + wide)


def blocks_near(there: Plate, wanted: Block, about: int, reach: tuple[int, int]) -> Iterator[Block]:
    """Blocks that hold all that is wanted near what is marked.

    Parameters
    ----------
    there : uint8 (h, w), not 0 where it is marked
    wanted : block of it
    about : rows and columns that are wanted in each
    reach : columns and rows that are near

    Yields
    ------
    Blocks, none of which has a pixel of another.
    """
    if not wanted.size:
        return
    rx, ry = reach
    for top, bottom in even_parts(wanted.top, wanted.bottom, about):
        for first, last in even_parts(wanted.left, wanted.right, about):
            around = Block(top, bottom, first, last).around(reach, there.shape)
            x, y, wide, tall = cv2.boundingRect(there[around.place])
            if wide:
                up, left = around.top + y, around.left + x
                yield Block(
                    max(top, up - ry), min(bottom, up + tall + ry),
                    max(first, left - rx), min(last, left + wide + rx),
                )  # fmt: skip
