"""What a stack of films looks like."""
