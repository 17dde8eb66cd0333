"""Long work: cancelled by whoever asked for it."""
