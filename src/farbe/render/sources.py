"""Where pixels, fonts and profiles come from."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from farbe.art.artwork import Artwork, Stated
from farbe.layout.faced import Faced
from farbe.model.artwork import ArtworkFile
from farbe.model.text import TextBox


class Sources(Protocol):
    """Files that jobs name, read."""

    def artwork(self, file: ArtworkFile, job: Faced | None = None) -> Artwork:
        """The pixels of an artwork; BadInput if its file cannot be read.

        Pages whose inks are told apart become ink as the job says, or as new jobs do.

        Parameters
        ----------
        file : the artwork as the job knows it
        job : as one of its faces has it

        Raises
        ------
        BadInput
            With one sentence that says what is wrong.
        """

    def stated(self, file: ArtworkFile, job: Faced | None = None) -> Stated:
        """What is known of an artwork besides its pixels, which are not read again for it.

        Parameters
        ----------
        file : the artwork as the job knows it
        job : as one of its faces has it

        Raises
        ------
        BadInput
            With one sentence that says what is wrong.
        """

    def read_ahead(
        self,
        files: tuple[ArtworkFile, ...],
        job: Faced | None = None,
        go_on: Callable[[], object] = lambda: None,
    ) -> None:
        """Read what will be asked for and was not read yet; what is wrong is said when it is.

        Sources that have read all of theirs have nothing to do.

        Parameters
        ----------
        files : artworks as the job knows them
        job : as one of its faces has it
        go_on : is asked after each file; what it raises ends the reading
        """
        return

    def font(self, box: TextBox) -> bytes:
        """The font file of a text box.

        Parameters
        ----------
        box : the text
        """

    def profile(self, job: Faced) -> bytes:
        """The printer's CMYK profile.

        Parameters
        ----------
        job : as one of its faces has it
        """

    def lit_profile(self, job: Faced) -> bytes | None:
        """The printer's CMYK profile of light from behind, where it was measured.

        Parameters
        ----------
        job : as one of its faces has it
        """
