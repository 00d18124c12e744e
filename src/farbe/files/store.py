"""Artwork and profiles of open jobs, kept by their content."""

from __future__ import annotations

import hashlib
import shutil
from collections.abc import Callable, Generator, Iterable
from contextlib import closing, suppress
from dataclasses import replace
from functools import lru_cache, partial
from itertools import groupby
from pathlib import Path
from weakref import WeakValueDictionary

from farbe.art.artwork import Artwork, Stated
from farbe.art.confine import SMALL
from farbe.art.drawing import is_page
from farbe.art.limited import HELPERS, is_small
from farbe.art.packed import PackedArtwork, packed
from farbe.art.profiles import shipped_profile
from farbe.art.read import read_artwork
from farbe.art.wanted import InkWork, Wanted
from farbe.atomic import check_regular, whole_file, writing_failed
from farbe.kept import Kept
from farbe.layout.faced import Faced, faces_of
from farbe.layout.figures import decimal
from farbe.layout.lettering import check_font, shipped_font
from farbe.model.artwork import ArtworkFile, PageBox
from farbe.model.base import BadInput
from farbe.model.inkwords import REACH_UNDER, told_by
from farbe.model.job import Conversion, Job
from farbe.model.text import TextBox, TypeFace
from farbe.names import plain_name
from farbe.plan.spots import uses_of
from farbe.said import say
from farbe.separate.colour import check_cmyk_profile, check_profile_fits
from farbe.separate.edit import edited
from farbe.separate.ownplates import settled
from farbe.sidebyside import WORKERS, in_order

MAX_FONT_BYTES = 40_000_000
#: Mm, and plates, that a job takes of an artwork.
LONGEST, MOST_PLATES = 20_000.0, 60
#: Bytes of pixels that are kept in memory, besides the one that is used last, and packed ones.
MOST_PIXELS, MOST_PACKED = 400_000_000, 128_000_000
#: Files up to which it is not worth it to begin another process that reads.
FEW = 8
#: What a file is read as: its digest, and what is wanted of it.
Reading = tuple[str, Wanted]


def weight_of(artwork: Artwork) -> int:
    """Bytes that an artwork takes; one that is read by rows takes next to none.

    Parameters
    ----------
    artwork : its pixels
    """
    own = (
        0
        if artwork.stream is not None or artwork.looked_at is not None
        else (artwork.pixels.nbytes)
    )
    return own + sum(plate.nbytes for plate in artwork.plates.values())


def _reads_quickly(source: Path) -> bool:
    """Whether a file is small, or so wrong that it is said at once."""
    try:
        return is_small(source)
    except BadInput:
        return True


def _put_by(among: Kept[Reading, PackedArtwork], reading: Reading, artwork: Artwork) -> None:
    """Keep an artwork packed that is kept no longer as it is."""
    if reading not in among:
        small = packed(artwork)
        if small is not None:
            among.get(reading, lambda: small)


class ArtStore:
    """A folder of files named by the SHA-256 of their content; files are only ever added.

    A job names its files by digest, so undo and several open jobs share one store.

    Parameters
    ----------
    folder : of the files
    read_elsewhere : artworks are mostly read by another process
    """

    def __init__(self, folder: Path, *, read_elsewhere: bool = False) -> None:
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)
        _STORES[folder] = self
        if not read_elsewhere:
            HELPERS.warm_up()
        self._is_page = lru_cache(maxsize=2000)(self._begins_as_page)
        self._read_font = lru_cache(maxsize=8)(
            lambda digest: self._bytes(digest, say("The font of a text"))
        )
        #: What was read, and what edits made of it, those that were used last; others packed.
        self._packed: Kept[Reading, PackedArtwork] = Kept(
            2000, most=MOST_PACKED, weigh=lambda artwork: artwork.weight
        )
        self._read_kept: Kept[Reading, Artwork] = Kept(
            500, most=MOST_PIXELS, weigh=weight_of, gone=partial(_put_by, self._packed)
        )
        self._edited: Kept[tuple[ArtworkFile, InkWork | None], Artwork] = Kept(
            500, most=MOST_PIXELS, weigh=weight_of
        )
        self._stated: Kept[tuple[ArtworkFile, InkWork | None], Stated] = Kept(20_000)
        #: The artworks that were read ahead; most edits leave them as they are.
        self._ahead: tuple[ArtworkFile, ...] = ()

    def __reduce__(self) -> tuple[object, ...]:
        # Another process reads the same files.
        return store_at, (self.folder,)

    def path(self, digest: str) -> Path:
        """Where a file is kept.

        Parameters
        ----------
        digest : of what is kept
        """
        return self.folder / digest

    def size(self, digest: str) -> int:
        """Bytes of a file; BadInput if it is gone.

        Parameters
        ----------
        digest : SHA-256 of the file, as hex digits

        Raises
        ------
        BadInput
            With one sentence that says what is wrong.
        """
        try:
            return self.path(digest).stat().st_size
        except OSError as error:
            raise _gone(say("A file of the job")) from error

    def _bytes(self, digest: str, what: str) -> bytes:
        try:
            return self.path(digest).read_bytes()
        except OSError as error:
            raise _gone(what) from error

    def add(self, source: Path) -> str:
        """Copy a file in; its digest.

        Parameters
        ----------
        source : the file

        Raises
        ------
        BadInput
            If the file is not there, or cannot be kept.
        """
        check_regular(source, say("a file"))
        try:
            with source.open("rb") as file:
                digest = hashlib.file_digest(file, "sha256").hexdigest()
                if not self.path(digest).exists():
                    file.seek(0)
                    with whole_file(self.path(digest)) as target:
                        shutil.copyfileobj(file, target)
        except FileNotFoundError:
            raise BadInput(
                say("{source} is not there; choose the file again.", source=source.name)
            ) from None
        except IsADirectoryError:
            raise BadInput(
                say("{source} is a folder; choose a picture in it.", source=source.name)
            ) from None
        except OSError as error:
            raise writing_failed(source, error) from error
        return digest

    def add_bytes(self, data: bytes) -> str:
        """Keep bytes that came with something else; their digest.

        Parameters
        ----------
        data : of a file

        Raises
        ------
        BadInput
            If they cannot be kept.
        """
        digest = hashlib.sha256(data).hexdigest()
        if not self.path(digest).exists():
            with whole_file(self.path(digest)) as target:
                target.write(data)
        return digest

    def add_artwork(self, source: Path) -> ArtworkFile:
        """Copy a picture in; its place in a job at the size that it states.

        Parameters
        ----------
        source : the file

        Raises
        ------
        BadInput
            If it is no picture or drawing that can be read.
        """
        digest = self.add(source)
        try:
            artwork = self._read(digest, Wanted())
        except BadInput as error:
            # The store knows files by digest; the user knows them by name.
            raise BadInput(str(error).replace(digest, source.name)) from error
        width, height = artwork.size_mm()
        plates = uses_of(artwork)
        _refuse_unprintable(source.name, artwork, len(plates))
        return ArtworkFile(
            digest=digest, file_name=plain_name(source.name)[-80:], width=width, height=height,
            plates=plates,
        )  # fmt: skip

    def add_artworks(self, sources: Iterable[Path]) -> Generator[ArtworkFile | BadInput]:
        """Copy pictures in, small ones side by side; who stops taking them ends it.

        Parameters
        ----------
        sources : the files

        Yields
        ------
        For each in turn its place in a job, or what is wrong with it.
        """

        def add(source: Path) -> ArtworkFile | BadInput:
            try:
                return self.add_artwork(source)
            except BadInput as error:
                return error

        for small, some in groupby(sources, key=_reads_quickly):
            # Large ones take too much memory to be read beside others.
            with closing(in_order(add, some, threads=WORKERS if small else 1)) as added:
                yield from added

    def at_page(
        self, file: ArtworkFile, page: int, box: PageBox | None = None, job: Faced | None = None
    ) -> ArtworkFile:
        """An artwork from another page or box of its file, in the scale that it has now.

        Parameters
        ----------
        file : that was added
        page : from 1
        box : of a PDF page; None is the one that it has
        job : that has it; None is a new one

        Returns
        -------
        With that page's size and plates; plates of the same names keep what they are for.

        Raises
        ------
        BadInput
            If there is no such page.
        """
        wanted = file.replace(page=page, box=box or file.box, edits=(), plates=(), groups=())
        if wanted == file.replace(edits=(), plates=(), groups=()):
            return file
        before = self.artwork(file.replace(edits=(), plates=()), job).size_mm()
        found = self.artwork(wanted.replace(groups=file.groups), job)
        width, height = found.size_mm()
        known = {use.name: use for use in file.plates}
        return file.replace(
            page=page, box=wanted.box,
            width=width * file.width / before[0], height=height * file.height / before[1],
            plates=tuple(known.get(use.name, use) for use in uses_of(found)),
        )  # fmt: skip

    def artwork(self, file: ArtworkFile, job: Faced | None = None) -> Artwork:
        """The pixels of an artwork after its edits.

        Parameters
        ----------
        file : that was added
        job : that says how colours of a page become ink; None is a new one

        Raises
        ------
        BadInput
            If the file is gone from the store, or cannot be read.
        """
        plain, work = file.plain, self._work(file, job)
        return self._edited.get((plain, work), lambda: self._with_edits(plain, work))

    def stated(self, file: ArtworkFile, job: Faced | None = None) -> Stated:
        """What is known of an artwork besides its pixels, which are not read again for it.

        Parameters
        ----------
        file : that was added
        job : that says how colours of a page become ink; None is a new one

        Raises
        ------
        BadInput
            If the file cannot be read.
        """
        key = file.plain, self._work(file, job)
        return self._stated.get(key, lambda: self.artwork(file, job).stated)

    def read_ahead(
        self,
        files: tuple[ArtworkFile, ...],
        job: Faced | None = None,
        go_on: Callable[[], object] = lambda: None,
    ) -> None:
        """Read small files that were not read yet, side by side, if there are more than a few.

        What is wrong with one is said when it is asked for; large ones take too much memory to be
        read beside others.

        Parameters
        ----------
        files : that were added
        job : that says how colours of a page become ink; None is a new one
        go_on : is asked after each file; what it raises ends the reading
        """
        if files is self._ahead:
            return
        new = [file for file in files if self._is_new(file, job)]

        def read(file: ArtworkFile) -> None:
            with suppress(BadInput):
                self.stated(file, job)

        if len(new) > FEW:
            with closing(in_order(read, new)) as parts:
                for _ in parts:
                    go_on()
        self._ahead = files

    def _is_new(self, file: ArtworkFile, job: Faced | None) -> bool:
        """Whether it is a small file that was not read yet."""
        with suppress(BadInput):
            known = (file.plain, self._work(file, job)) in self._stated
            return not known and self.size(file.digest) <= SMALL
        return False

    def _work(self, file: ArtworkFile, job: Faced | None) -> InkWork | None:
        """How colours become ink, if that is done when the file is read."""
        if job is None or not self._is_page(file.digest):
            return None
        profile = self.profile(job)
        plain = InkWork.of(profile, job.conversion)
        usual = plain == InkWork.of(shipped_profile(), Conversion())
        return None if usual else plain

    def _begins_as_page(self, digest: str) -> bool:
        try:
            with self.path(digest).open("rb") as file:
                return is_page(file.read(1024))
        except OSError:
            # Said when it is read.
            return False

    def _read(self, digest: str, wanted: Wanted) -> Artwork:
        reading = digest, wanted

        def read() -> Artwork:
            put_by = self._packed.known(reading)
            if put_by is not None:
                return put_by.unpacked()
            unpack_to = self.folder / f"{digest}.pixels"
            return read_artwork(self.path(digest), wanted, unpack_to=unpack_to)

        return self._read_kept.get(reading, read)

    def _with_edits(self, file: ArtworkFile, work: InkWork | None) -> Artwork:
        artwork = settled(self._as_it_is(file, work), file.plates)
        if file.profile is not None:
            icc = self._bytes(
                file.profile, say("The profile of {file_name}", file_name=file.file_name)
            )
            check_profile_fits(icc, artwork.space, file.file_name)
            artwork = replace(artwork, icc=icc, unfit_profile=False)
        return edited(artwork, file, shipped_profile())

    def add_artwork_profile(self, source: Path, file: ArtworkFile) -> str:
        """Copy a profile for an artwork in, once it is seen to fit its pixels; its digest.

        Parameters
        ----------
        source : a file of the user's
        file : the artwork as the job knows it
        """
        digest = self.add(source)
        space = self.unedited(file).space
        check_profile_fits(self.path(digest).read_bytes(), space, source.name)
        return digest

    def unedited(self, file: ArtworkFile) -> Artwork:
        """The pixels of an artwork as they are in its file.

        Parameters
        ----------
        file : the artwork in a job

        Raises
        ------
        BadInput
            If the file is gone from the store, or cannot be read.
        """
        return self._as_it_is(file, None)

    def _as_it_is(self, file: ArtworkFile, work: InkWork | None) -> Artwork:
        wanted = Wanted(
            file.page, file.box, file.groups,
            tuple((layer.name, layer.on) for layer in file.layers),
            # A name that tells it is looked after anyway.
            tuple(use.name for use in file.plates
                  if use.meaning in REACH_UNDER and told_by(use.name) not in REACH_UNDER),
            tuple(use.name for use in file.plates if use.whole), work,
        )  # fmt: skip
        try:
            return self._read(file.digest, wanted)
        except BadInput as error:
            raise BadInput(str(error).replace(file.digest, file.file_name)) from error

    def font(self, box: TextBox) -> bytes:
        """The font file of a text box; one without its file, which stops a job, looks medium.

        Parameters
        ----------
        box : the text
        """
        if box.face is TypeFace.OWN and box.font is not None:
            return self._read_font(box.font)
        return shipped_font(TypeFace.MEDIUM if box.face is TypeFace.OWN else box.face)

    def add_font(self, source: Path) -> str:
        """Copy a font in, once it is seen to be one; its digest.

        Parameters
        ----------
        source : the file

        Raises
        ------
        BadInput
            If it is no font.
        """
        if source.is_file() and source.stat().st_size > MAX_FONT_BYTES:
            raise BadInput(say("{source} is too large to be a font.", source=source.name))
        digest = self.add(source)
        check_font(self._read_font(digest), source.name)
        return digest

    def profile(self, job: Faced) -> bytes:
        """The printer's CMYK profile for a job.

        Parameters
        ----------
        job : as one of its faces has it
        """
        condition = job.condition
        chosen = job.conversion.profile or (None if condition is None else condition.profile)
        if chosen is None:
            return shipped_profile()
        return self._bytes(chosen, say("The printer's profile"))

    def lit_profile(self, job: Faced) -> bytes | None:
        """The printer's CMYK profile of light from behind, where it was measured.

        Parameters
        ----------
        job : as one of its faces has it
        """
        condition = job.condition
        if condition is None or condition.lit is None:
            return None
        return self._bytes(condition.lit, say("The profile of light from behind"))

    def profile_bytes(self, digest: str) -> bytes:
        """A profile that is kept.

        Parameters
        ----------
        digest : of the profile

        Raises
        ------
        BadInput
            If it is gone.
        """
        return self._bytes(digest, say("The printer's profile"))

    def has(self, digest: str) -> bool:
        """Whether a file is kept.

        Parameters
        ----------
        digest : of the file
        """
        return self.path(digest).exists()

    def add_profile(self, source: Path) -> str:
        """Copy a CMYK profile in, once it is seen to be one; its digest.

        Parameters
        ----------
        source : a file of the user's
        """
        digest = self.add(source)
        check_cmyk_profile(self.path(digest).read_bytes(), source.name)
        return digest

    def digests(self, job: Job) -> tuple[str, ...]:
        """The files that a job needs.

        Parameters
        ----------
        job : as one of its faces has it
        """
        sides = faces_of(job)
        needed = [art.digest for side in sides for art in side.artworks]
        needed += [art.profile for side in sides for art in side.artworks if art.profile]
        needed += [box.font for side in sides for box in side.texts if box.font]
        if job.conversion.profile is not None:
            needed.append(job.conversion.profile)
        needed += [digest for one in job.printer.conditions for digest in one.profiles]
        return tuple(dict.fromkeys(needed))


#: All that there are, by their folders.
_STORES: WeakValueDictionary[Path, ArtStore] = WeakValueDictionary()


def store_at(folder: Path) -> ArtStore:
    """The store of a folder, the same one each time, with what it has read.

    Parameters
    ----------
    folder : of the store
    """
    return _STORES.get(folder) or _lasting(folder)


@lru_cache(maxsize=2)
def _lasting(folder: Path) -> ArtStore:
    return ArtStore(folder)


def _gone(what: str) -> BadInput:
    return BadInput(
        say("{what} is gone from Farbe's store; open the job again, or choose it again.", what=what)
    )


def _refuse_unprintable(name: str, artwork: Artwork, plates: int) -> None:
    """Refuse what is larger than any job, or has more plates than any printer."""
    width, height = artwork.size_mm()
    if max(width, height) > LONGEST:
        raise BadInput(
            say(
                "{name} comes out {width} × {height} m, more than {longest} m; state a higher "
                "resolution in it.",
                name=name,
                width=decimal(width / 1000, 1),
                height=decimal(height / 1000, 1),
                longest=f"{LONGEST / 1000:g}",
            )
        )
    if plates > MOST_PLATES:
        raise BadInput(
            say(
                "{name} has {plates} plates, more than {most_plates}; leave out what is not "
                "printed.",
                name=name,
                plates=plates,
                most_plates=MOST_PLATES,
            )
        )
