"""Artwork and layers into plates: the only place where coverage is computed."""
