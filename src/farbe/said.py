"""What a person reads, in the language of that person.

Everything that is shown, printed on a sheet or told in a terminal is said here, and nowhere else
are words chosen by language. Messages are written in English where they are needed; a catalogue
(GNU gettext, ``data/locale``) has them in other languages. ``scripts/make_messages.py`` collects
them. What is stored in files, sent to a press or compared in code is never said.

A process speaks one language from its first word to its last: the one of the preferences, else
the one that the desktop states. So what is said once, as the name of a value, may be kept.
"""

from __future__ import annotations

import configparser
import gettext
import os
from collections.abc import Iterator
from enum import StrEnum
from functools import lru_cache
from importlib.resources import files
from pathlib import Path

from farbe.folders import config_folder

#: Under this name catalogues lie in their folders.
DOMAIN = "farbe"
#: In which messages are written in the code.
WRITTEN_IN = "en"
#: Languages that are complete, by the name that each has for itself.
LANGUAGES = {"en": "English", "de": "Deutsch"}
#: The language for a process that another one starts.
VARIABLE = "FARBE_LANGUAGE"
#: A folder of catalogues that come before Farbe's own: for who translates and wants to see it.
CATALOGUES = "FARBE_CATALOGUES"
#: Where names are told that Farbe ships and a job keeps, as of its inks and recipes.
_NAME = "name"


def _stated() -> str:
    """The language of the preferences; empty if it is to be the desktop's."""
    found = configparser.ConfigParser(interpolation=None, strict=False)
    try:
        found.read(config_folder() / "farbe.ini", encoding="utf-8")
    except (configparser.Error, UnicodeDecodeError):
        # A file that nobody can read states nothing; the window begins with usual values, too.
        return ""
    return found.get("General", "language", fallback="").strip('"')


def _asked() -> Iterator[str]:
    """Languages that are wanted, the most wanted first, as gettext takes them."""
    for one in (os.environ.get(VARIABLE, ""), _stated()):
        if one:
            yield one
    for name in ("LANGUAGE", "LC_ALL", "LC_MESSAGES", "LANG"):
        if value := os.environ.get(name):
            yield from value.split(":")
            return


def _folders() -> tuple[Path, ...]:
    own = os.environ.get(CATALOGUES, "")
    shipped = Path(str(files("farbe") / "data" / "locale"))
    return (Path(own), shipped) if own else (shipped,)


@lru_cache(maxsize=1)
def _spoken() -> tuple[str, gettext.NullTranslations]:
    for asked in _asked():
        code = asked.split(".")[0].split("@")[0]
        if code.split("_")[0] in (WRITTEN_IN, "C", "POSIX"):
            break
        for folder in _folders():
            if gettext.find(DOMAIN, folder, [code]):
                return code, gettext.translation(DOMAIN, folder, [code])
    return WRITTEN_IN, gettext.NullTranslations()


def language() -> str:
    """The code of the language that this process speaks."""
    return _spoken()[0]


def say(message: str, /, **values: object) -> str:
    """A message in the user's language.

    Parameters
    ----------
    message : in English, with names of values in braces, if it has any
    values : what stands for the names
    """
    words = _spoken()[1].gettext(message)
    return words.format(**values) if values else words


def say_count(count: int, one: str, many: str, /, **values: object) -> str:
    """A message that differs by how many there are; ``{count}`` stands for the number.

    Parameters
    ----------
    count : how many there are
    one : for one, in English
    many : for others
    values : what else stands for names in braces
    """
    return _spoken()[1].ngettext(one, many, count).format(count=count, **values)


def shipped(name: str, /) -> str:
    """The same name; it marks what Farbe ships under it and jobs keep, so that it can be told.

    Parameters
    ----------
    name : in English, as it is stored
    """
    return name


def spoken(name: str, /) -> str:
    """A name of an ink, a layer, a recipe: in the user's language if Farbe ships it.

    Parameters
    ----------
    name : as it is stored
    """
    if not name:
        return name
    told = _spoken()[1].pgettext(_NAME, name)
    stem, _, number = name.rpartition(" ")
    # Of several things with one name, further ones have a number behind it.
    return f"{spoken(stem)} {number}" if told == name and stem and number.isdecimal() else told


class Spoken(StrEnum):
    """Values that are stored under one word and shown in the user's language."""

    @property
    def words(self) -> str:
        """The value in the user's language."""
        return _spoken()[1].pgettext(type(self).__name__, self.value)


def inside(words: str) -> str:
    """Words that begin a line, as they stand within a sentence.

    Parameters
    ----------
    words : with a capital; it stays in languages whose nouns have one
    """
    return words[:1].lower() + words[1:] if language() == WRITTEN_IN else words


def begun(words: str) -> str:
    """Words of a sentence, as they begin a line.

    Parameters
    ----------
    words : whose first letter becomes a capital
    """
    return words[:1].upper() + words[1:]
