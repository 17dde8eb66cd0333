"""Bench sums: one question, no vehicle."""
