"""The stack, its sources and treatments."""
