"""Artwork and profiles of open jobs, kept by their content."""

from __future__ import annotations

import hashlib
import shutil
from functools import lru_cache
from pathlib import Path

from farbe.art.artwork import Artwork
from farbe.art.read import read_artwork
from farbe.files.atomic import whole_file, writing_failed
from farbe.model.base import BadInput
from farbe.model.job import ArtworkFile, Job
from farbe.separate.colour import check_cmyk_profile, shipped_profile


class ArtStore:
    """A folder of files named by the SHA-256 of their content; files are only ever added.

    A job names its files by digest, so undo and several open jobs share one store.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)
        self._read = lru_cache(maxsize=2)(lambda digest: read_artwork(self.path(digest)))

    def path(self, digest: str) -> Path:
        return self.folder / digest

    def add(self, source: Path) -> str:
        """Copy a file in; its digest."""
        try:
            with source.open("rb") as file:
                digest = hashlib.file_digest(file, "sha256").hexdigest()
                if not self.path(digest).exists():
                    file.seek(0)
                    with whole_file(self.path(digest)) as target:
                        shutil.copyfileobj(file, target)
        except FileNotFoundError:
            raise BadInput(f"{source.name} is not there; choose the file again.") from None
        except IsADirectoryError:
            raise BadInput(f"{source.name} is a folder; choose a picture in it.") from None
        except OSError as error:
            raise writing_failed(source, error) from error
        return digest

    def add_artwork(self, source: Path) -> ArtworkFile:
        """Copy a picture in; its place in a job at the size that it states."""
        digest = self.add(source)
        try:
            artwork = self._read(digest)
        except BadInput as error:
            # The store knows files by digest; the user knows them by name.
            raise BadInput(str(error).replace(digest, source.name)) from error
        width, height = artwork.size_mm()
        return ArtworkFile(digest=digest, file_name=source.name[-80:], width=width, height=height)

    def artwork(self, job: Job) -> Artwork | None:
        """The pixels of a job's artwork."""
        if job.artwork is None:
            return None
        try:
            return self._read(job.artwork.digest)
        except BadInput as error:
            raise BadInput(str(error).replace(job.artwork.digest, job.artwork.file_name)) from error

    def profile(self, job: Job) -> bytes:
        """The printer's CMYK profile for a job."""
        if job.conversion.profile is None:
            return shipped_profile()
        return self.path(job.conversion.profile).read_bytes()

    def add_profile(self, source: Path) -> str:
        """Copy a CMYK profile in, once it is seen to be one; its digest."""
        digest = self.add(source)
        check_cmyk_profile(self.path(digest).read_bytes(), source.name)
        return digest

    def digests(self, job: Job) -> tuple[str, ...]:
        """The files that a job needs."""
        needed = (job.artwork.digest if job.artwork else None, job.conversion.profile)
        return tuple(digest for digest in needed if digest is not None)
