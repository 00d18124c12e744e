"""``python -m farbe``."""

from farbe.cli import main

main()
