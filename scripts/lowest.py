"""Install the lowest versions that pyproject.toml allows, and run tests with them.

    python scripts/lowest.py [PYTEST ARGUMENT ...]

Makes a virtual environment in a temporary folder; it is removed at the end. Without arguments the
tests of every room are run, but for those that draw all samples or need a screen.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import venv
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
#: Long tests that say nothing of a package's version besides what the others say.
LONG = ("test_samples_printed.py", "test_structure.py", "test_queue.py")


def main() -> int:
    with tempfile.TemporaryDirectory(prefix="farbe-lowest-") as scratch:
        venv.create(scratch, with_pip=True)
        python = Path(scratch) / "bin" / "python"
        pip = [python, "-m", "pip", "install", "-q", "--disable-pip-version-check"]
        # pip only looks for the newest; uv finds the lowest that is stated.
        subprocess.run([*pip, "uv"], check=True)
        subprocess.run(
            [python, "-m", "uv", "pip", "install", "-q", "--python", python, "--resolution",
             "lowest-direct", "-e", ROOT],
            check=True,
        )  # fmt: skip
        subprocess.run(
            [*pip, "babel", "pytest", "pytest-qt", "pytest-xdist", "hypothesis"], check=True
        )
        subprocess.run([python, "-m", "pip", "freeze", "--exclude-editable"], check=True)
        wanted = sys.argv[1:] or [f"--ignore=tests/{name}" for name in LONG]
        return subprocess.run(
            [python, "-m", "pytest", "-n", "2", *wanted], cwd=ROOT,
            env=os.environ | {"QT_QPA_PLATFORM": "offscreen"},
        ).returncode  # fmt: skip


if __name__ == "__main__":
    sys.exit(main())
