"""What one pass over the finished plates at output resolution finds."""
