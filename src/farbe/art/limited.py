"""Files of strangers, read by a process of their own with limits on time and memory."""

from __future__ import annotations

import json
import resource
import subprocess
import sys
from pathlib import Path
from typing import Any

from farbe.model.base import BadInput

ANSWER = "answer.json"


def ask(module: str, path: Path, folder: Path, seconds: float, *more: str) -> dict[str, Any]:
    """Run ``python -m module path folder ...``, which writes its answer into the folder.

    Parameters
    ----------
    module : of Farbe, that is run in a process of its own
    path : the file it reads
    folder : where it may write
    seconds : that it may take

    Returns
    -------
    Its answer, as JSON.

    Raises
    ------
    BadInput
        If it takes too long, dies, or refuses the file.
    """
    command = [sys.executable, "-m", module, str(path), str(folder), *more]
    try:
        subprocess.run(command, capture_output=True, timeout=seconds, check=False)
        found: dict[str, Any] = json.loads((folder / ANSWER).read_bytes())
    except subprocess.TimeoutExpired:
        raise BadInput(f"{path.name} takes too long to read; simplify the drawing.") from None
    except (OSError, ValueError):
        raise BadInput(f"{path.name} is damaged or too large; export it again.") from None
    if "refused" in found:
        raise BadInput(found["refused"])
    return found


def limit(memory: int, seconds: int) -> None:
    """Limit this process to so many bytes of address space and seconds of work.

    Parameters
    ----------
    memory : bytes that the process may take
    seconds : that it may take
    """
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))


def answer(folder: Path, found: dict[str, Any]) -> None:
    """Write what :func:`ask` returns."""
    (folder / ANSWER).write_text(json.dumps(found))
