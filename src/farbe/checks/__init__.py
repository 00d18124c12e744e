"""Findings on a job before it is run."""
