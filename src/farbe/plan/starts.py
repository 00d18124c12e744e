"""What a job can begin with besides a recipe."""

from __future__ import annotations

ON_FILM, ON_BODY = "film from a roll", "round body on rollers"
#: In the order in which they are offered.
STARTS_ON = (ON_FILM, ON_BODY)
