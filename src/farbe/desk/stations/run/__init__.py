"""Steps, cost, receivers, the queue and the press."""
