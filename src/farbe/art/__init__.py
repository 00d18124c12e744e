"""Reading customers' files into pixels with a physical size."""
