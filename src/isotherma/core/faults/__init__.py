"""Faults: what each would do on this design, how likely it is, and what to look at next."""
