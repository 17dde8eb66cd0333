"""Flows and pressures of the route."""
