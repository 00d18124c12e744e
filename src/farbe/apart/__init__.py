"""Work that a process of its own does, so that whoever asks for it never waits for Python."""
