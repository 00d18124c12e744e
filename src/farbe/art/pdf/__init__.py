"""Pages of PDF files: their boxes, layers, inks, and how they are drawn."""
