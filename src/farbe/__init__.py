"""Farbe: layer separations and jig layouts for a specialty print shop."""

import gc
import os

__version__ = "0.1.0"
#: What the desktop knows the application by.
APP_ID = "app.farbe_desk.Farbe"

# Farbe works side by side in threads of its own, on small matrices. NumPy's library for these
# would keep a thread for each processor spinning after every product, which takes theirs away.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
# Nothing here extends pydantic; to look for what does takes a twentieth of a start.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
# New objects are looked through for cycles once there are so many; Python's own 700 are made dozens
# of times while what is needed is loaded, and twenty times in an edit of a thousand pockets.
gc.set_threshold(10_000, *gc.get_threshold()[1:])
