"""What a job can begin with besides a recipe."""

from __future__ import annotations

from farbe.said import shipped

ON_FILM, ON_BODY = shipped("film from a roll"), shipped("round body on rollers")
#: In the order in which they are offered.
STARTS_ON = (ON_FILM, ON_BODY)
