"""What the printer was measured to do: a window of its own, with pictures, and how it is taught."""
