"""Edits of a job as pure functions, and the document that makes them, with undo; no Qt."""
