"""Flow: what every pipe and valve does."""
