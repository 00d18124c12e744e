"""The predicted look."""
