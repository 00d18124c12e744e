"""Tables of what was measured, in Markdown, and their places in a document."""

from __future__ import annotations

import re
import statistics
from pathlib import Path


def figures(values: list[float], digits: int) -> str:
    """The median, and least and most where they differ."""
    least, middle, most = (
        f"{one:.{digits}f}" for one in (min(values), statistics.median(values), max(values))
    )
    return middle if least == most else f"{middle} ({least} to {most})"


def table(heads: list[str], rows: list[list[str]]) -> str:
    """A table with a line for each row."""
    lines = [heads, ["---"] * len(heads), *rows]
    return "\n".join(f"| {' | '.join(line)} |" for line in lines)


def write_tables(path: Path, tables: dict[str, str]) -> None:
    """Put each table between the marks of its name."""
    text = path.read_text()
    for name, made in tables.items():
        start, end = f"<!-- {name} -->", f"<!-- end of {name} -->"
        if start not in text or end not in text:
            raise SystemExit(f"{path.name} has no place for {name}")
        place = re.compile(f"{re.escape(start)}.*?{re.escape(end)}", re.DOTALL)
        text = place.sub(lambda _, m=f"{start}\n{made}\n{end}": m, text)  # type: ignore[misc]
    path.write_text(text)
