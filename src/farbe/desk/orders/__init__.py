"""Orders in a window of their own: a list in, filled boards out, and what became of them."""
