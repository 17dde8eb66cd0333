"""Sweeps: figures varied, results as a map or a line, and the smallest that does it."""
