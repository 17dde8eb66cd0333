"""Simulated instruments that ship with Isotherma, for practice and for tests."""
