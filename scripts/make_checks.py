"""Write what every check means into the operator's guide, between its two marks.

Without words it writes; with ``--check`` it only says whether the guide is as it would be.
"""

from __future__ import annotations

import sys
from pathlib import Path

from farbe.checks.explained import EXPLAINED
from farbe.checks.rules import run_checks  # noqa: F401  enters the rules

GUIDE = Path(__file__).parents[1] / "docs" / "operators-guide.md"
START = "<!-- every check: written by scripts/make_checks.py -->"
END = "<!-- end of every check -->"


def table() -> str:
    """The rows of the guide, in the order of the work."""
    rows = ["| code | what it means | what to do |", "| --- | --- | --- |"]
    rows += [f"| {code} | {why} | {do} |" for code, (why, do) in EXPLAINED.items()]
    return "\n".join(rows)


def written(guide: str) -> str:
    """The guide with the rows as they are now.

    Parameters
    ----------
    guide : its text
    """
    before, rest = guide.split(START)
    after = rest.split(END)[1]
    return f"{before}{START}\n\n{table()}\n\n{END}{after}"


def main() -> int:
    guide = GUIDE.read_text(encoding="utf-8")
    made = written(guide)
    if "--check" in sys.argv:
        return int(made != guide)
    GUIDE.write_text(made, encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
