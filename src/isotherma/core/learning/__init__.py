"""What readings of a vehicle say of its figures: how likely, how sure, and what to measure next."""
