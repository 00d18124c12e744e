"""What the project file cannot say: the guide and its pictures go into the wheel."""

from __future__ import annotations

import shutil
from pathlib import Path

from setuptools import setup
from setuptools.command.build_py import build_py

DOCS = Path(__file__).parent / "docs"


class WithGuide(build_py):
    """Python files, and beside their data the operator's guides as they stand in ``docs``."""

    def run(self) -> None:
        super().run()
        if self.editable_mode:
            return
        target = Path(self.build_lib) / "farbe" / "data" / "guide"
        (target / "screenshots").mkdir(parents=True, exist_ok=True)
        for guide in DOCS.glob("operators-guide*.md"):
            shutil.copy(guide, target)
        for picture in (DOCS / "screenshots").glob("*.png"):
            shutil.copy(picture, target / "screenshots")


setup(cmdclass={"build_py": WithGuide})
