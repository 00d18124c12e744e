"""Jobs that wait for the printer, and those that were printed."""
