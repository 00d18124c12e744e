"""The job file ``.farbe``: a ZIP of ``job.json`` and the files the job names."""

from __future__ import annotations

import hashlib
import json
import shutil
import zipfile
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from farbe.atomic import check_regular, whole_file
from farbe.files.store import ArtStore
from farbe.layout.outline import check_outline
from farbe.model.base import BadInput, sentence
from farbe.model.early import with_readers
from farbe.model.job import Job
from farbe.said import say

SUFFIX = ".farbe"
SCHEMA = 12
#: A table of 20,000 names and figures takes some 5 MB.
MAX_JOB_BYTES = 200_000_000
MAX_FILE_BYTES = 4_000_000_000
_FILES = "files/"
#: What zipfile raises of files that are not whole.
DAMAGED = (
    zipfile.BadZipFile, zipfile.LargeZipFile, EOFError, NotImplementedError, zlib.error, ValueError,
)  # fmt: skip
JobData = dict[str, Any]


def _several_artworks(document: JobData) -> JobData:
    """Version 1 had one artwork, for all pockets."""
    job = dict(document["job"])
    artwork = job.pop("artwork", None)
    return document | {"job": job | {"artworks": [] if artwork is None else [artwork]}}


def _sources_as_values(document: JobData) -> JobData:
    """Version 2 named a layer's source by a word alone."""
    job = dict(document["job"])
    for side in (job, job.get("back")):
        if side:
            side["stack"] = [
                layer | {"source": {"kind": layer["source"]}} for layer in side["stack"]
            ]
    return document | {"job": job}


def _with_more_kinds(document: JobData) -> JobData:
    """Version 3 knew no rolls, round bodies and second readers; what it holds is as it was."""
    return document


_FACE = ("artworks", "placing", "changes", "texts", "table", "stack", "correction")


def _as_faces(document: JobData) -> JobData:
    """Version 4 told a job as its first side has it, with what differs on the other one."""
    job = dict(document["job"])
    reader = job.pop("reader", "face")
    first = {name: job.pop(name) for name in _FACE if name in job} | {"reader": reader}
    first["stack"] = with_readers(first["stack"], reader)
    faces, back, opposite = [first], job.pop("back", None), job.pop("opposite", None)
    if opposite is not None:
        beyond = "through" if reader == "face" else "face"
        faces.append(opposite | {"reader": beyond})
        job["comes_up"] = {"kind": "the same print"}
    elif back is not None:
        job["comes_up"] = dict(back.pop("turning", {})) | {"kind": "turned over"}
        back["stack"] = with_readers(back["stack"], "face")
        faces.append(back | {"reader": "face"})
    roll, turned = job.pop("roll", None), job.pop("bed_turned", False)
    job["medium"] = {"kind": "bed", "turned": turned}
    if roll is not None:
        places = {"places": roll.get("lain", [])}
        kept = {name: value for name, value in roll.items() if name != "lain"}
        job["medium"] = kept | places | {"kind": "roll"}
    return document | {"job": job | {"faces": faces}}


def _with_nothing_accepted(document: JobData) -> JobData:
    """Version 5 kept no cautions that are meant, and chokes that spare no strokes."""
    return document


def _with_one_source_more(document: JobData) -> JobData:
    """Version 6 joined a layer with one source more, which layers still take as it was."""
    return document


def _with_channel_names_that_differ(document: JobData) -> JobData:
    """Version 7 let a receiver give an ink the name of another one; that name is dropped."""
    job = document["job"]
    receiver, inks = job["receiver"], [ink["name"] for ink in job["printer"]["inks"]]
    wanted = dict(receiver.get("channel_names", ()))
    own = {ink.casefold() for ink in inks if ink not in wanted}
    kept: dict[str, str] = {}
    for ink, name in wanted.items():
        if name.casefold() not in own | {other.casefold() for other in kept.values()}:
            kept[ink] = name
        else:
            own.add(ink.casefold())
    names = [[ink, name] for ink, name in kept.items()]
    return document | {"job": job | {"receiver": receiver | {"channel_names": names}}}


#: One function a step, from the version named to the next.
UPGRADES: dict[int, Callable[[JobData], JobData]] = {
    1: _several_artworks, 2: _sources_as_values, 3: _with_more_kinds,
    4: _as_faces, 5: _with_nothing_accepted, 6: _with_one_source_more,
    7: _with_channel_names_that_differ,
    # New fields have their defaults.
    8: lambda document: document,
    9: lambda document: document,
    # What printers of 11 were measured to do, those of 10 do not tell.
    10: lambda document: document,
    # Jobs of 11 print for one order.
    11: lambda document: document,
}  # fmt: skip


def save_job(job: Job, store: ArtStore, path: Path) -> None:
    """Write a job and its files; the old file stays until the new one is whole.

    Parameters
    ----------
    job : to be written
    store : that holds the files it names
    path : ends with ``.farbe``

    Raises
    ------
    BadInput
        If the place cannot be written to.
    """
    told = f'{{"schema": {SCHEMA}, "job": {job.model_dump_json(indent=1)}}}'.encode()
    # What could not be opened again is not written.
    if len(told) > MAX_JOB_BYTES:
        raise BadInput(
            say("{job} is too large to be saved; give it a smaller table.", job=job.name)
        )
    heavy = next((d for d in store.digests(job) if store.size(d) > MAX_FILE_BYTES), None)
    if heavy is not None:
        raise BadInput(
            say("{job} has a file larger than 4 GB; make that smaller to save it.", job=job.name)
        )
    with whole_file(path) as file, zipfile.ZipFile(file, "w", zipfile.ZIP_STORED) as archive:
        archive.writestr("job.json", told)
        for digest in store.digests(job):
            archive.write(store.path(digest), _FILES + digest)


def open_job(path: Path, store: ArtStore) -> Job:
    """Read a job file into ``store``.

    Parameters
    ----------
    path : a job file of any version
    store : that its files are put into

    Returns
    -------
    The job; it is valid.

    Raises
    ------
    BadInput
        If it is missing, damaged, from a newer Farbe, or does not hold what its job names.
    """
    with _archive(path) as archive:
        job = _job(archive, path)
        for digest in store.digests(job):
            _extract(archive, digest, store, path)
    return job


def read_job(path: Path) -> Job:
    """The job of a job file, without the files that it names.

    Parameters
    ----------
    path : a job file of any version

    Raises
    ------
    BadInput
        If it is missing, damaged, or from a newer Farbe.
    """
    with _archive(path) as archive:
        return _job(archive, path)


@contextmanager
def _archive(path: Path) -> Iterator[zipfile.ZipFile]:
    """A job file that is open; whatever is wrong with it is one sentence."""
    check_regular(path, say("a job file"))
    try:
        with zipfile.ZipFile(path) as archive:
            yield archive
    except FileNotFoundError:
        raise BadInput(
            say("{path} is not there; it was moved or deleted.", path=path.name)
        ) from None
    except RuntimeError as error:
        # So zipfile tells of members with a password.
        raise BadInput(
            say("{path} is locked with a password; open its last copy.", path=path.name)
        ) from error
    except DAMAGED as error:
        raise BadInput(
            say("{path} is not a whole job file; open its last copy.", path=path.name)
        ) from error
    except OSError as error:
        raise BadInput(
            say("{path} cannot be read ({strerror}).", path=path.name, strerror=error.strerror)
        ) from error


def _job(archive: zipfile.ZipFile, path: Path) -> Job:
    try:
        info = archive.getinfo("job.json")
    except KeyError:
        raise BadInput(
            say("{path} holds no job; choose a {suffix} file.", path=path.name, suffix=SUFFIX)
        ) from None
    if info.file_size > MAX_JOB_BYTES:
        raise BadInput(say("{path} holds a job description too large to be one.", path=path.name))
    try:
        document = json.loads(archive.read(info).decode("utf-8"))
        version = document["schema"]
        if version > SCHEMA:
            raise BadInput(
                say(
                    "{path} was saved by a newer Farbe; update this one to open it.", path=path.name
                )
            )
        for step in range(version, SCHEMA):
            document = UPGRADES[step](document)
        job = Job.model_validate(document["job"], strict=False)
        check_outline(job.piece.shape)
        return job
    except ValidationError as error:
        raise BadInput(
            say("{path} holds a job that cannot be: {error}", path=path.name, error=sentence(error))
        ) from error
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
        raise BadInput(
            say("{path} holds no job that can be read; open its last copy.", path=path.name)
        ) from error


def _extract(archive: zipfile.ZipFile, digest: str, store: ArtStore, path: Path) -> None:
    if store.path(digest).exists():
        return
    try:
        info = archive.getinfo(_FILES + digest)
    except KeyError:
        raise BadInput(
            say("{path} lacks a file that its job needs; open its last copy.", path=path.name)
        ) from None
    if info.file_size > MAX_FILE_BYTES:
        raise BadInput(
            say("{path} holds a file larger than 4 GB; it is not opened.", path=path.name)
        )
    with archive.open(info) as member, whole_file(store.path(digest)) as target:
        shutil.copyfileobj(member, target, 1 << 20)
    with store.path(digest).open("rb") as file:
        if hashlib.file_digest(file, "sha256").hexdigest() == digest:
            return
    store.path(digest).unlink()
    raise BadInput(say("{path} holds a damaged file; open its last copy.", path=path.name))
