"""The Bed station's inspector, group by group."""
