"""Photographs beside what they are of."""
