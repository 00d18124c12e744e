"""Orders from a list: what they ask for, the loads that print them, and what became of each."""
