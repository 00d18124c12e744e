"""Names of the sample jobs, which the start page shows before anything of them is drawn."""

from __future__ import annotations

from farbe.said import say

#: Each under its name, with the words that are read.
NAMES = {
    "jar-lids": say("Jar lids"),
    "name-tags": say("Name tags"),
    "jar-labels": say("Jar labels"),
    "designer-labels": say("Designer labels"),
    "stall-sign": say("Stall sign"),
    "shop-window": say("Shop window"),
    "apron-transfers": say("Apron transfers"),
    "apron-gang": say("Apron gang"),
    "hanging-banners": say("Hanging banners"),
    "mead-bottles": say("Mead bottles"),
    "tapered-beaker": say("Tapered beaker"),
    "market-pens": say("Market pens"),
}
