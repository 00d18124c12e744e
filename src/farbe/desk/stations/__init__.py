"""The five places of the window: each a picture and an inspector."""
