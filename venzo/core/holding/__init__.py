"""What holds the pieces: tabs and where they go."""
