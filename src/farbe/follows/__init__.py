"""What follows from a job for whoever looks at it: pictures and findings, without a window."""
