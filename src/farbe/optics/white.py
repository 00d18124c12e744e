"""What white ink is to a surface: how far the one differs from the other."""

from __future__ import annotations

import numpy as np

from farbe.colour.lab import difference
from farbe.layout.faced import Faced
from farbe.model.layer import WHITE_UNDER, Layer
from farbe.model.piece import Material, Reader
from farbe.model.printer import LayerKind
from farbe.optics.inks import InkSet
from farbe.optics.look import look
from farbe.plan.readers import own_layers
from farbe.separate.tones import lab_of


def reader_who_sees(job: Faced) -> Reader:
    """Who sees a job's print: through an opaque piece nobody does, so it is told from its face.

    That nobody sees it is a finding of its own.

    Parameters
    ----------
    job : as one of its faces has it
    """
    opaque = job.piece.surface.material not in (Material.CLEAR, Material.TRANSLUCENT)
    return Reader.FACE if opaque and job.reader is Reader.THROUGH else job.reader


def white_difference(job: Faced, profile: bytes) -> float:
    """Colour difference between the bare surface and the job's white ink on it.

    Parameters
    ----------
    job : whose surface, reader and white layers are meant; one hit where it has no white
    profile : the printer's CMYK profile, ICC bytes

    Returns
    -------
    CIEDE2000, 0 or more, as the reader sees both by daylight.
    """
    layers: tuple[Layer, ...] = tuple(
        layer for layer in own_layers(job) if layer.kind is LayerKind.WHITE
    ) or (WHITE_UNDER,)
    cover = np.array([[0, 255]], np.uint8)
    seen = look(
        layers, [cover] * len(layers), reader=reader_who_sees(job), surface=job.piece.surface,
        profile=profile, inks=InkSet.of(job.printer, job.condition),
    )  # fmt: skip
    bare, white = lab_of(seen[0, 0]), lab_of(seen[0, 1])
    return float(difference(bare, white))
