"""What the desk remembers; read here only and passed on as values."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QByteArray, QSettings

from farbe.desk.theme import Look, TextSize
from farbe.files.paper import Paper
from farbe.folders import config_folder
from farbe.layout.figures import Units
from farbe.model.meaning import Meaning

MAX_RECENT = 10
#: The test press's usual pace.
PACE = 60.0
#: Days for which hand-offs are kept that came to their end.
KEEP_DAYS = 30.0


class Preferences:
    """Recent jobs, window place, theme, currency, in a file of the user's configuration."""

    def __init__(self) -> None:
        self._settings = QSettings(str(config_folder() / "farbe.ini"), QSettings.Format.IniFormat)

    def meaning(self, plate: str) -> Meaning | None:
        """What a plate of this name was said to be for."""
        stored = str(self._settings.value(f"plates/{plate.casefold()}", ""))
        return next((m for m in Meaning if m.value == stored), None)

    def remember_plate(self, plate: str, meaning: Meaning) -> None:
        self._settings.setValue(f"plates/{plate.casefold()}", meaning.value)

    @property
    def recipe(self) -> str:
        """Name of the recipe for artwork that is dropped without a job."""
        return str(self._settings.value("recipe", ""))

    @recipe.setter
    def recipe(self, name: str) -> None:
        self._settings.setValue("recipe", name)

    @property
    def recent(self) -> list[Path]:
        stored = self._settings.value("recent", [])
        names = stored if isinstance(stored, list) else [stored] if stored else []
        return [Path(str(name)) for name in names if Path(str(name)).is_file()]

    def remember(self, path: Path) -> None:
        paths = [path.absolute(), *(p for p in self.recent if p != path.absolute())]
        self._settings.setValue("recent", [str(p) for p in paths[:MAX_RECENT]])

    @property
    def currency(self) -> str:
        return str(self._settings.value("currency", "€"))

    @currency.setter
    def currency(self, value: str) -> None:
        self._settings.setValue("currency", value.strip() or "€")

    @property
    def pace(self) -> float:
        """How many times faster than a real press the test press prints; 0 as fast as it can."""
        try:
            return max(0.0, float(str(self._settings.value("pace", PACE))))
        except ValueError:
            # Somebody wrote something else into the file.
            return PACE

    @pace.setter
    def pace(self, value: float) -> None:
        self._settings.setValue("pace", value)

    @property
    def plan_folder(self) -> Path | None:
        """The plan of orders that was looked at last; None before the first."""
        stored = str(self._settings.value("orders/folder", ""))
        return Path(stored) if stored else None

    @plan_folder.setter
    def plan_folder(self, folder: Path) -> None:
        self._settings.setValue("orders/folder", str(folder))

    @property
    def scheduler(self) -> str:
        """Address of the scheduler on whose cluster loads are prepared; empty is this machine."""
        return str(self._settings.value("orders/scheduler", ""))

    @scheduler.setter
    def scheduler(self, address: str) -> None:
        self._settings.setValue("orders/scheduler", address.strip())

    @property
    def watch_folder(self) -> str:
        """The folder that is watched while the window is open; empty without one."""
        return str(self._settings.value("watch/folder", ""))

    @watch_folder.setter
    def watch_folder(self, folder: str) -> None:
        self._settings.setValue("watch/folder", folder)

    @property
    def watch_recipe(self) -> str:
        """Name of the recipe for what is dropped there."""
        return str(self._settings.value("watch/recipe", ""))

    @watch_recipe.setter
    def watch_recipe(self, name: str) -> None:
        self._settings.setValue("watch/recipe", name)

    @property
    def keep_days(self) -> float:
        """Days for which hand-offs of jobs that are done are kept."""
        try:
            return max(0.0, float(str(self._settings.value("keep_days", KEEP_DAYS))))
        except ValueError:
            return KEEP_DAYS

    @keep_days.setter
    def keep_days(self, value: float) -> None:
        self._settings.setValue("keep_days", value)

    @property
    def look(self) -> Look:
        """Light, dark, of high contrast, or as the desktop is."""
        stored = str(self._settings.value("look", ""))
        earlier = str(self._settings.value("dark", "")).lower()
        if not stored and earlier:
            return Look.DARK if earlier == "true" else Look.LIGHT
        return next((look for look in Look if look.value == stored), Look.FOLLOW)

    @look.setter
    def look(self, value: Look) -> None:
        self._settings.setValue("look", value.value)

    @property
    def text_size(self) -> TextSize:
        """How large text is, or as large as the desktop's."""
        stored = str(self._settings.value("text", ""))
        return next((size for size in TextSize if size.value == stored), TextSize.FOLLOW)

    @text_size.setter
    def text_size(self, value: TextSize) -> None:
        self._settings.setValue("text", value.value)

    @property
    def language(self) -> str:
        """The code of the language from the next start on; empty for the desktop's."""
        return str(self._settings.value("language", ""))

    @language.setter
    def language(self, code: str) -> None:
        self._settings.setValue("language", code)

    @property
    def units(self) -> Units:
        """In what lengths are told and typed."""
        stored = str(self._settings.value("units", ""))
        return next((units for units in Units if units.value == stored), Units.MM)

    @units.setter
    def units(self, value: Units) -> None:
        self._settings.setValue("units", value.value)

    @property
    def paper(self) -> Paper:
        """Paper of the sheets."""
        stored = str(self._settings.value("paper", ""))
        return next((paper for paper in Paper if paper.value == stored), Paper.A4)

    @paper.setter
    def paper(self, value: Paper) -> None:
        self._settings.setValue("paper", value.value)

    @property
    def jobs_folder(self) -> str:
        """Where new jobs are saved; empty for the user's own folder."""
        return str(self._settings.value("folders/jobs", ""))

    @jobs_folder.setter
    def jobs_folder(self, folder: str) -> None:
        self._settings.setValue("folders/jobs", folder)

    @property
    def exports_folder(self) -> str:
        """Where sheets and guides are written; empty for beside the job."""
        return str(self._settings.value("folders/exports", ""))

    @exports_folder.setter
    def exports_folder(self, folder: str) -> None:
        self._settings.setValue("folders/exports", folder)

    @property
    def geometry(self) -> QByteArray | None:
        value = self._settings.value("geometry")
        return value if isinstance(value, QByteArray) else None

    @geometry.setter
    def geometry(self, value: QByteArray) -> None:
        self._settings.setValue("geometry", value)
