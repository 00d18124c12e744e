"""Ink, time and cost before anything is printed."""
