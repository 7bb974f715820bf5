"""What several tests use."""
