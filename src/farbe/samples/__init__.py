"""The sample jobs of a made-up honey cooperative, and the script that draws their artwork."""
