"""Write what every check means into the operator's guides, between their two marks.

Without words it writes; with ``--check`` it only says whether the guides are as they would be.
"""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

from farbe.checks.explained import EXPLAINED
from farbe.checks.rules import run_checks  # noqa: F401  enters the rules
from farbe.said import LANGUAGES, VARIABLE, WRITTEN_IN, language

DOCS = Path(__file__).parents[1] / "docs"
HEADS = {
    "en": "| code | what it means | what to do |",
    "de": "| Code | was er bedeutet | was zu tun ist |",
}
START = "<!-- every check: written by scripts/make_checks.py -->"
END = "<!-- end of every check -->"


def guide_in(code: str) -> Path:
    """Where the guide of a language lies."""
    return DOCS / ("operators-guide.md" if code == WRITTEN_IN else f"operators-guide.{code}.md")


def table() -> str:
    """The rows of the guide, in the order of the work."""
    rows = [HEADS[language()], "| --- | --- | --- |"]
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


def one(path: Path) -> int:
    """The guide of the language that this process speaks; 1 if it is not as it would be."""
    guide = path.read_text(encoding="utf-8")
    made = written(guide)
    if "--check" in sys.argv:
        return int(made != guide)
    path.write_text(made, encoding="utf-8")
    return 0


def main() -> int:
    if "--one" in sys.argv:
        return one(guide_in(os.environ[VARIABLE]))
    # A process speaks one language, so each guide gets one of its own.
    return max(
        subprocess.run(
            [sys.executable, __file__, "--one", *sys.argv[1:]],
            env=os.environ | {VARIABLE: code}, check=False,
        ).returncode
        for code in LANGUAGES
    )  # fmt: skip


if __name__ == "__main__":
    sys.exit(main())
