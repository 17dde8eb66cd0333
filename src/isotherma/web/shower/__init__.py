"""Shower: what comes out of the head."""
