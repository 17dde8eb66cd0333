"""Spaces and states: where things live, how they stand."""
