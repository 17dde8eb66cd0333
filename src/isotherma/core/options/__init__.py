"""Choosing the heat: what a way of heating needs, for whoever will not have some of it."""
