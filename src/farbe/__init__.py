"""Farbe: layer separations and jig layouts for a specialty print shop."""

__version__ = "0.1.0"
#: What the desktop knows the application by.
APP_ID = "app.farbe_desk.Farbe"
