"""Plates of a piece, a bed or a guide, in strips of bounded memory."""
