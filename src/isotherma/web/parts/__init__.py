"""Parts: every piece by its label, and the run table."""
