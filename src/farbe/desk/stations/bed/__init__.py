"""Where pieces lie: board, film, tray, guide."""
