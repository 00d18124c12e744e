"""Farbe: layer separations and jig layouts for a specialty print shop."""

import os

__version__ = "0.1.0"
#: What the desktop knows the application by.
APP_ID = "app.farbe_desk.Farbe"

# Farbe works side by side in threads of its own, on small matrices. NumPy's library for these
# would keep a thread for each processor spinning after every product, which takes theirs away.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
