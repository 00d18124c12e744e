"""The test press: a simulated printer in a process of its own. It knows only hand-offs."""
