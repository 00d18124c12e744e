"""Test prints for any printer: what the inks do, and ladders to read values from."""
