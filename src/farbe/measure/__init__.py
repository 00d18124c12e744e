"""Measured charts: what is printed, what was read of it, and the condition that follows."""
