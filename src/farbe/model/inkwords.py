"""What a plate's name tells of its meaning, in the main languages of the trade."""

import re
import unicodedata
from functools import lru_cache
from importlib.resources import files

from farbe.model.meaning import Meaning

#: Names of what is printed and is no plate's usual meaning.
_ALSO = frozenset(("blackout", "kerb", "matt"))
#: Words beside these that tell nothing.
_BESIDE = frozenset(("ink", "spot", "plate", "layer"))

#: Meanings of plates that reach under what lies above them in a drawing.
REACH_UNDER = (Meaning.WHITE, Meaning.VARNISH)


@lru_cache(maxsize=1)
def _words() -> tuple[tuple[Meaning, frozenset[str]], ...]:
    """Words, without accents, in the order in which they are looked for."""
    text = (files("farbe") / "data" / "ink-words.txt").read_text(encoding="utf-8")
    lines = (line.partition(":") for line in text.splitlines() if not line.startswith("#"))
    return tuple((Meaning(name), frozenset(words.split())) for name, _, words in lines)


def told_by(name: str) -> Meaning | None:
    """What a plate of this name is likely for; None where no word of it tells.

    Words are told apart by spaces, signs, figures, and capitals inside; a word that only begins
    or ends like one of an ink tells nothing.

    Parameters
    ----------
    name : of a plate, as the file has it
    """
    apart = re.sub(r"([a-zß-ÿ])([A-ZÀ-Þ])", r"\1 \2", unicodedata.normalize("NFC", name))
    plain = _plain(apart)
    words = set(re.findall(r"[^\W\d_]+", plain))
    # Two words that are one in another file: "cut line", "clear coat".
    words |= {one + other for one in words for other in words}
    return next((meaning for meaning, telling in _words() if words & telling), None)


def is_ink_name(name: str) -> bool:
    """Whether a name is that of an ink or a cut line and nothing else: "White 2", "cut-line".

    Parameters
    ----------
    name : of a group of a drawing
    """
    words = re.findall(r"[^\W\d_]+", _plain(name))
    inks = frozenset().union(*(telling for _, telling in _words())) | _ALSO
    told = [word for word in words if word not in _BESIDE]
    return bool(told) and ("".join(told) in inks or all(word in inks for word in told))


def _plain(text: str) -> str:
    """Small letters without accents; ß is ss."""
    apart = unicodedata.normalize("NFKD", text.casefold())
    return "".join(letter for letter in apart if not unicodedata.combining(letter)).replace(
        "ł", "l"
    )
