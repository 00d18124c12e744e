"""Draw the icons of the application and of its jobs in the sizes that desktops ask for.

``scripts/make_icons.py`` writes them beside their drawings; they are kept with the sources.
"""

from __future__ import annotations

from pathlib import Path

import resvg_py

FOLDER = Path(__file__).parents[1] / "src" / "farbe" / "data" / "desktop"
SIZES = (16, 24, 32, 48, 64, 128, 256)


def main() -> None:
    for drawing in sorted(FOLDER.glob("*.svg")):
        for size in SIZES:
            picture = bytes(resvg_py.svg_to_bytes(svg_path=str(drawing), width=size, height=size))
            drawing.with_name(f"{drawing.stem}-{size}.png").write_bytes(picture)


if __name__ == "__main__":
    main()
