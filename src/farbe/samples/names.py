"""Names of the sample jobs, which the start page shows before anything of them is drawn."""

from __future__ import annotations

NAMES = (
    "jar-lids", "name-tags", "jar-labels", "designer-labels", "stall-sign", "shop-window",
    "apron-transfers", "apron-gang", "hanging-banners", "mead-bottles", "tapered-beaker",
    "market-pens",
)  # fmt: skip
