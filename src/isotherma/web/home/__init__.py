"""Home: the vehicles, their variants and verdicts."""
