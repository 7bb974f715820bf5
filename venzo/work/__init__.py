"""Long work: searches that run beside the server with progress, best so far and a stop."""
