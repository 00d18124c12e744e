"""What a job is: frozen, validated values without computation."""
