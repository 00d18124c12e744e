"""Files that cannot be read: what decoders raise, as a sentence."""

from __future__ import annotations

import struct
import zlib
from pathlib import Path

from farbe.art.pngdecode import ZLIB_ERROR
from farbe.model.base import BadInput
from farbe.said import say

#: What the decoders raise on truncated or malformed files.
DAMAGE = (
    OSError,
    SyntaxError,
    ValueError,
    TypeError,
    AttributeError,
    LookupError,
    ArithmeticError,
    EOFError,
    MemoryError,
    RuntimeError,
    struct.error,
    zlib.error,
    ZLIB_ERROR,
)


#: What decoders raise on malformed files, and faults of our own code as well.
OF_EITHER = (TypeError, AttributeError)
_OURS = Path(__file__).parents[1]


def raised_here(error: BaseException) -> bool:
    """Whether Farbe's own code raised an error, rather than a decoder it called.

    Parameters
    ----------
    error : that was raised
    """
    trace = error.__traceback__
    while trace is not None and trace.tb_next is not None:
        trace = trace.tb_next
    return trace is not None and Path(trace.tb_frame.f_code.co_filename).is_relative_to(_OURS)


def unreadable(path: Path, error: Exception) -> BadInput:
    """What to say of a file that could not be read, and what to do.

    Parameters
    ----------
    path : the file that was asked for
    error : what reading it raised

    Raises
    ------
    TypeError, AttributeError
        The error itself, if it is a fault of Farbe and tells nothing of the file.
    """
    if isinstance(error, OF_EITHER) and raised_here(error):
        raise error
    if isinstance(error, FileNotFoundError):
        return BadInput(say("{path} is not there; choose the file again.", path=path.name))
    if isinstance(error, IsADirectoryError):
        return BadInput(say("{path} is a folder; choose a picture in it.", path=path.name))
    if isinstance(error, PermissionError):
        return BadInput(say("{path} may not be read; change its permissions.", path=path.name))
    if isinstance(error, MemoryError):
        return BadInput(
            say("{path} takes too much memory to read; export it smaller.", path=path.name)
        )
    return BadInput(say("{path} is damaged; ask for it again.", path=path.name))
