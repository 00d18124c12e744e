"""What the first bytes of a PNG tell (PNG specification, W3C, third edition, 2025).

A process that is to decode one is started before anything else is loaded, so this loads nothing.
"""

from __future__ import annotations

import struct

SIGNATURE = b"\x89PNG\r\n\x1a\n"
#: Bytes of a file that tell what it is.
START = 29
#: Pixels beyond which a PNG is read by rows, and the rows of each block that it is handed on in.
LARGE, BLOCK = 8_000_000, 64
#: Channels of RGB and RGBA, by their colour types (11.2.1).
_PLAIN = {2: 3, 6: 4}


def large_shape(start: bytes) -> tuple[int, int, int] | None:
    """Height, width and channels of a plain PNG of many pixels, whose rows follow each other.

    Parameters
    ----------
    start : the file's first bytes, :data:`START` at least

    Returns
    -------
    None for any other file.
    """
    if not start.startswith(SIGNATURE) or len(start) < START:
        return None
    width, height = struct.unpack(">II", start[16:24])
    depth, colour, interlace = start[24], start[25], start[28]
    if width * height <= LARGE or depth != 8 or colour not in _PLAIN or interlace:
        return None
    return height, width, _PLAIN[colour]
