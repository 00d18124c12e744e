"""Collect what Farbe says, and make the catalogues of its languages.

``python scripts/make_messages.py`` brings ``translations/*.po`` up to date with the code and
compiles them to where Farbe finds them. ``--check`` changes nothing and fails if that is needed,
or if a message is not translated.
"""

from __future__ import annotations

import argparse
import ast
import io
import string
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

ROOT = Path(__file__).resolve().parent.parent
SOURCE = ROOT / "src" / "farbe"
TRANSLATIONS = ROOT / "translations"
COMPILED = SOURCE / "data" / "locale"
#: Lines of a catalogue's head that say nothing, or the time of writing.
_UNTOLD = tuple(
    f'"{name}:'
    for name in (
        "Project-Id-Version", "Report-Msgid-Bugs-To", "POT-Creation-Date", "PO-Revision-Date",
        "Last-Translator", "Language-Team", "Generated-By",
    )
)  # fmt: skip


@dataclass(frozen=True)
class Message:
    """What is said at one place of the code."""

    text: str
    many: str
    context: str
    place: str


def _literal(node: ast.expr, place: str) -> str:
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        return node.value
    sys.exit(f"{place}: what is said must stand there as it is, to be collected")


def _values_fit(call: ast.Call, place: str) -> None:
    """Leave if the values that are given are not those that the messages name."""
    texts = [one.value for one in call.args if isinstance(one, ast.Constant)]
    given = {one.arg for one in call.keywords}
    # Without values nothing is put in, and braces are braces.
    named = {n for text in texts for _, n, _, _ in string.Formatter().parse(str(text)) if n}
    if (given or len(texts) > 1) and named - {"count"} != given - {"count"}:
        sys.exit(f"{place}: named are {sorted(named)}, given {sorted(map(str, given))}")


def messages() -> Iterator[Message]:
    """All that is said, in the order of the code."""
    for path in sorted(SOURCE.rglob("*.py")):
        where = path.relative_to(ROOT).as_posix()
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            match node:
                case ast.Call(func=ast.Name(id="say" | "say_count")):
                    _values_fit(node, f"{where}:{node.lineno}")
            match node:
                case ast.Call(func=ast.Name(id="say"), args=[text, *_]):
                    yield Message(_literal(text, f"{where}:{node.lineno}"), "", "", where)
                case ast.Call(func=ast.Name(id="say_count"), args=[_, one, many, *_]):
                    place = f"{where}:{node.lineno}"
                    yield Message(_literal(one, place), _literal(many, place), "", where)
                case ast.Call(func=ast.Name(id="shipped"), args=[text]):
                    name = _literal(text, f"{where}:{node.lineno}")
                    yield Message(name, "", "name", where)
                case ast.ClassDef(bases=[ast.Name(id="Spoken")]):
                    for line in node.body:
                        if isinstance(line, ast.Assign) and isinstance(line.value, ast.Constant):
                            yield Message(str(line.value.value), "", node.name, where)


def collected() -> Catalog:
    """A catalogue of all that is said, with nothing translated."""
    found = Catalog(project="Farbe", charset="utf-8")
    for one in sorted(messages(), key=lambda one: (one.place, one.text)):
        text = (one.text, one.many) if one.many else one.text
        found.add(text, locations=[(one.place, 0)], context=one.context or None)
    return found


def brought_up(old: bytes, locale: str) -> Catalog:
    """A catalogue with the messages of the code, and what was translated of them."""
    catalogue = read_po(io.BytesIO(old), locale=locale)
    catalogue.update(collected(), no_fuzzy_matching=True)
    catalogue.obsolete.clear()
    catalogue.fuzzy = False
    return catalogue


def as_po(catalogue: Catalog) -> bytes:
    """The text of a catalogue; without the time of writing, so that the same stays the same."""
    out = io.BytesIO()
    write_po(out, catalogue, width=96, sort_by_file=True, omit_header=False, include_lineno=False)
    lines = out.getvalue().decode("utf-8").splitlines(keepends=True)
    return "".join(line for line in lines if not line.startswith(_UNTOLD)).encode()


def as_mo(catalogue: Catalog) -> bytes:
    """The catalogue as gettext reads it."""
    out = io.BytesIO()
    # Its head has the time of writing, which says nothing either.
    catalogue.creation_date = catalogue.revision_date = datetime(2026, 1, 1, tzinfo=UTC)
    write_mo(out, catalogue)
    return out.getvalue()


def main() -> None:
    """Bring all languages up to date, or look whether they are."""
    words = argparse.ArgumentParser(description=__doc__)
    words.add_argument("--check", action="store_true")
    check = words.parse_args().check
    wrong = []
    for path in sorted(TRANSLATIONS.glob("*.po")):
        catalogue = brought_up(path.read_bytes(), path.stem)
        compiled = COMPILED / path.stem / "LC_MESSAGES" / "farbe.mo"
        lacking = [
            m.id for m in catalogue if m.id and not (all(m.string) if m.pluralizable else m.string)
        ]
        wrong += [f"{path.name}: not translated: {one}" for one in lacking]
        for target, content in ((path, as_po(catalogue)), (compiled, as_mo(catalogue))):
            if check:
                if not target.is_file() or target.read_bytes() != content:
                    wrong.append(f"{target.relative_to(ROOT)} is not up to date")
                continue
            target.parent.mkdir(parents=True, exist_ok=True)
            target.write_bytes(content)
    print("\n".join(wrong[:50]))
    sys.exit(1 if check and wrong else 0)


if __name__ == "__main__":
    main()
