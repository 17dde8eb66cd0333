"""Versions: what was kept and what differs."""
