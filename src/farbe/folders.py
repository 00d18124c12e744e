"""Where Farbe keeps what is the user's own."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

import platformdirs

from farbe.names import safe_name


def data_folder() -> Path:
    """Kept jigs, printers, receivers and recipes."""
    return Path(os.environ.get("FARBE_DATA") or platformdirs.user_data_dir("farbe"))


def config_folder() -> Path:
    """Preferences."""
    return Path(os.environ.get("FARBE_CONFIG") or platformdirs.user_config_dir("farbe"))


def state_folder() -> Path:
    """Unsaved work, the queue, the test press's spool."""
    return Path(os.environ.get("FARBE_STATE") or platformdirs.user_state_dir("farbe"))


def cache_folder() -> Path:
    """What can be made anew, or lies elsewhere as well."""
    return Path(os.environ.get("FARBE_CACHE") or platformdirs.user_cache_dir("farbe"))


def desktop_share() -> Path:
    """Where desktops look for what is the user's own (XDG Base Directory Specification)."""
    own = os.environ.get("XDG_DATA_HOME", "")
    return Path(own) if Path(own).is_absolute() else Path.home() / ".local" / "share"


def press_folder(printer: str = "") -> Path:
    """The spool of the test press that stands for a printer.

    Parameters
    ----------
    printer : its name
    """
    return state_folder() / (f"press {safe_name(printer)}" if printer else "press")


def press_folders() -> tuple[Path, ...]:
    """The spools of all test presses that were ever started."""
    return tuple(sorted(path for path in state_folder().glob("press*") if path.is_dir()))


def lock_file(kind: str, path: Path) -> Path:
    """The lock of what one program at a time does with a file or folder, wherever that lies.

    Parameters
    ----------
    kind : what is done
    path : of the file or folder, which need not be there
    """
    name = hashlib.sha256(str(path.absolute().resolve()).encode()).hexdigest()[:32]
    return state_folder() / kind / f"{name}.lock"


def log_file() -> Path:
    """What went wrong that nobody foresaw."""
    return state_folder() / "farbe.log"


def queue_folder() -> Path:
    """The queue and its jobs."""
    return state_folder() / "queue"
