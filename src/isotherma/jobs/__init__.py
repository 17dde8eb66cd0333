"""Long work, done by workers: processes of low priority that take it from the queue."""
