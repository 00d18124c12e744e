"""What follows from the facts of a job: order, mirroring, runs, and the words for them."""
