"""Names of files that come from what people and other programs wrote."""

from __future__ import annotations

import re
import unicodedata
from pathlib import Path

#: Bytes of a name that file systems take, with room for what is put behind it.
MOST_BYTES = 180
#: What some file system does not take, or takes for something else.
_BAD = re.compile(r'[\x00-\x1f\x7f/\\:*?"<>|]+')


def plain_name(words: str) -> str:
    """A name as UTF-8 has it, what is none of that replaced.

    Parameters
    ----------
    words : maybe with bytes of another encoding in it, as file systems give them
    """
    return words.encode("utf-8", "replace").decode("utf-8")


def safe_name(words: str) -> str:
    """A name for a file or folder that every file system takes and no dots lead out of.

    Parameters
    ----------
    words : as somebody wrote them

    Returns
    -------
    Not empty, at most :data:`MOST_BYTES` bytes of UTF-8, with its suffix kept.
    """
    plain = unicodedata.normalize("NFC", plain_name(words))
    plain = _BAD.sub("-", plain).strip().strip(".").strip() or "unnamed"
    if len(plain.encode("utf-8")) <= MOST_BYTES:
        return plain
    stem, dot, suffix = plain.rpartition(".")
    if not dot or len(suffix) > 8:
        stem, suffix = plain, ""
    room = MOST_BYTES - len(suffix.encode("utf-8")) - 1
    short = stem.encode("utf-8")[:room].decode("utf-8", "ignore").rstrip()
    return f"{short}.{suffix}" if suffix else short


def free_name(folder: Path, name: str, taken: tuple[str, ...] = ()) -> str:
    """A name that nothing in a folder has: the wanted one, or with a number behind it.

    Parameters
    ----------
    folder : where it is to be
    name : that is wanted, with its suffix
    taken : that are to be others', too
    """
    path, number = Path(name), 1
    found = name
    while found in taken or (folder / found).exists():
        number += 1
        found = f"{path.stem} ({number}){path.suffix}"
    return found
