"""Preparation in parts: surveys and strips of files made by other processes, here or elsewhere."""
