"""Profiles that go along in a file with what names them."""

from __future__ import annotations

import base64
import hashlib
from collections.abc import Iterable

from farbe.files.store import ArtStore
from farbe.model.base import BadInput
from farbe.model.condition import MOST_LETTERS
from farbe.said import say
from farbe.separate.colour import check_cmyk_profile

#: Bytes of a file that profiles go along in.
MOST_BYTES = 64_000_000


def packed(digests: Iterable[str], store: ArtStore) -> tuple[tuple[str, str], ...]:
    """Profiles of a store, to go along in a file.

    Parameters
    ----------
    digests : of the profiles
    store : that has them

    Raises
    ------
    BadInput
        If one is gone, or too large to go along.
    """
    found = []
    for digest in dict.fromkeys(digests):
        words = base64.b64encode(store.profile_bytes(digest)).decode("ascii")
        if len(words) > MOST_LETTERS:
            raise BadInput(say("The profile is too large to go along in a file."))
        found.append((digest, words))
    return tuple(found)


def unpacked(profiles: Iterable[tuple[str, str]], store: ArtStore, where: str) -> None:
    """Put profiles that came along into a store, each seen to be one.

    Parameters
    ----------
    profiles : digest, and ICC bytes in base64
    store : that gets them
    where : what they came with, for messages

    Raises
    ------
    BadInput
        If one is damaged or is no CMYK profile.
    """
    for digest, words in profiles:
        if store.has(digest):
            continue
        try:
            icc = base64.b64decode(words, validate=True)
        except ValueError:
            icc = b""
        if hashlib.sha256(icc).hexdigest() != digest:
            raise BadInput(say("{where} brings a profile that is damaged.", where=where))
        check_cmyk_profile(icc, where)
        store.add_bytes(icc)
