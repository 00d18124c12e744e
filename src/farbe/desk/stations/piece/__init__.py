"""What is printed on."""
