"""Isotherma: hot water and a shower for a vehicle, designed and computed."""
