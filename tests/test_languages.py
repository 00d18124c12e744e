"""Farbe in other languages: all is said, nothing is cut, and what is stored stays as it is."""

from __future__ import annotations

import os
import re
import string
import subprocess
import sys
from pathlib import Path

import pytest
from babel.messages.catalog import Catalog
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po

from farbe import said

ROOT = Path(__file__).parents[1]
GERMAN = ROOT / "translations" / "de.po"
#: A language of brackets that is a third longer than English.
LONGER = "qps"
#: Samples that have among them every thing that can be chosen.
MANY = "name-tags or designer-labels or stall-sign or shop-window or apron-gang or tapered-beaker"


def german() -> Catalog:
    with GERMAN.open("rb") as file:
        return read_po(file, locale="de")


def names_in(text: str) -> set[str]:
    return {name for _, name, _, _ in string.Formatter().parse(text) if name}


def test_catalogues_are_up_to_date_and_whole() -> None:
    """What the code says is what the catalogues have, translated and compiled."""
    done = subprocess.run(
        [sys.executable, ROOT / "scripts" / "make_messages.py", "--check"],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stdout + done.stderr


def test_translations_have_the_same_values() -> None:
    """A name in braces that a translation lacks, or makes up, would fail when it is said."""
    for one in german():
        if not one.id:
            continue
        ids = one.id if isinstance(one.id, tuple) else (one.id,)
        strings = one.string if isinstance(one.string, tuple) else (one.string,)
        known = set().union(*map(names_in, ids))
        for text in strings:
            # One of several forms may do without a value, as that for one without its number.
            assert names_in(text) == known or (len(ids) > 1 and names_in(text) < known), one.id
            assert text[:1].isspace() == ids[0][:1].isspace(), one.id
            assert text[-1:].isspace() == ids[0][-1:].isspace(), one.id
            assert ("…" in text) == ("…" in ids[0]), one.id


#: Words with one meaning, whose German the list of German words tells.
ONE_MEANING = (
    "substrate", "datum", "bleed", "trim mark", "mirror", "nest", "artwork", "surface",
    "finger notch", "keep-out", "blackout", "section", "shake", "job line", "tray",
)  # fmt: skip


def test_german_keeps_to_its_words() -> None:
    """Each word has the German of the list; no English marks, no exclamations, no pleas."""
    listed = (ROOT / "docs" / "words-de.md").read_text(encoding="utf-8")
    words = dict(re.findall(r"^\| ([^|]+) \| ([^|,;]+?) \|", listed, re.M))
    for one in german():
        for text, of in zip(
            *((part if isinstance(part, tuple) else (part,)) for part in (one.string, one.id)),
            strict=False,
        ):
            plain = re.sub(r"\{\w+\}", "", of.lower())
            for word in ONE_MEANING:
                if re.search(rf"\b{word}s?\b", plain):
                    # Endings change; the stem does not.
                    assert words[word].lower()[:-2] in text.lower(), (of, text)
        for text in one.string if isinstance(one.string, tuple) else (one.string,):
            assert not re.search(r"[!“](?=\w)|\b(bitte|Bitte)\b", text), text
            assert text.count("„") == text.count("“"), text


def test_a_language_is_chosen_by_preference_then_by_the_desktop(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def spoken() -> str:
        said._spoken.cache_clear()
        return said.language()

    for name in ("FARBE_LANGUAGE", "LANGUAGE", "LC_ALL", "LC_MESSAGES", "LANG"):
        monkeypatch.delenv(name, raising=False)
    try:
        assert spoken() == "en"
        monkeypatch.setenv("LANG", "de_AT.UTF-8")
        assert spoken() == "de_AT"
        assert said.say("Switch off") == "Ausschalten"
        assert said.say_count(1, "{count} stop", "{count} stops") == "1 Stopp"
        assert said.say_count(3, "{count} stop", "{count} stops") == "3 Stopps"
        assert said.spoken("White 2") == "Weiß 2" and said.spoken("Anna's white") == "Anna's white"
        monkeypatch.setenv("LANGUAGE", "en:de")
        assert spoken() == "en"
        folder = tmp_path / "config"
        folder.mkdir()
        (folder / "farbe.ini").write_text("[General]\nlanguage=de\n")
        assert spoken() == "de"
        (folder / "farbe.ini").write_text("\x00 no [ini\n")
        assert spoken() == "en"
    finally:
        said._spoken.cache_clear()


def longer(text: str) -> str:
    """In brackets, and a third longer: the last word a little, then words of its own."""
    more = max(1, round(len(text) * 0.3))
    return f"‹{text}{'~' * min(more, 4)}{' ~~~~~' * ((more - 4) // 6)}›"


def write_longer(folder: Path) -> None:
    """A catalogue in which all that is said stands in brackets and is a third longer."""
    made = Catalog(locale="de", fuzzy=False)
    for one in german():
        if isinstance(one.id, tuple):
            made.add(one.id, tuple(map(longer, one.id)), context=one.context)
        elif one.id:
            made.add(one.id, longer(one.id), context=one.context)
    target = folder / LONGER / "LC_MESSAGES" / f"{said.DOMAIN}.mo"
    target.parent.mkdir(parents=True)
    with target.open("wb") as file:
        write_mo(file, made)


def in_language(code: str, tmp_path: Path, *tests: str) -> None:
    """Run tests in a process that speaks another language."""
    write_longer(tmp_path)
    done = subprocess.run(
        [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", "-m", "long or not long",
         *tests],
        cwd=ROOT, capture_output=True, text=True, check=False,
        env=os.environ | {said.VARIABLE: code, said.CATALOGUES: str(tmp_path)},
    )  # fmt: skip
    assert done.returncode == 0, done.stdout[-6000:]


@pytest.mark.long
def test_nothing_is_unsaid(tmp_path: Path) -> None:
    """All that is shown comes from a catalogue."""
    in_language(LONGER, tmp_path, "tests/walk_languages.py", "-k", f"jar-lids or dragged or {MANY}")


@pytest.mark.long
@pytest.mark.parametrize("code", ["de", LONGER])
def test_nothing_is_cut(tmp_path: Path, code: str) -> None:
    in_language(code, tmp_path, "tests/test_sizes.py", "-k", f"start_page or {MANY}")


@pytest.mark.long
def test_findings_lead_to_values_in_german(tmp_path: Path) -> None:
    in_language(
        "de",
        tmp_path,
        "tests/test_inspector.py",
        "-k",
        "names_of_values or tooltips or every_finding_leads or key_twice",
    )


@pytest.mark.long
def test_files_do_not_depend_on_the_language(tmp_path: Path) -> None:
    """A hand-off made in German is that made in English, to the last byte."""
    made = []
    for code in ("en", "de"):
        samples, folder = tmp_path / f"samples-{code}", tmp_path / code
        env = os.environ | {said.VARIABLE: code, "SOURCE_DATE_EPOCH": "1790000000"}
        farbe = [sys.executable, "-m", "farbe"]
        subprocess.run([*farbe, "samples", samples], env=env, check=True, capture_output=True)
        render = [*farbe, "render", samples / "jar-lids.farbe", "-o", folder]
        subprocess.run(render, env=env, check=True, capture_output=True)
        made.append({path.name: path.read_bytes() for path in folder.rglob("*.*")})
    assert made[0] == made[1] and "ticket.json" in made[0]
