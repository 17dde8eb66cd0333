"""Checks: what could hurt somebody, found by computing, with its number.

One module per group; each check is a function of a `Look` at the design in one state, registered
under its id. A check judges: what it judges was computed elsewhere.
"""
