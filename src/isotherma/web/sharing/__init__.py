"""Sharing: with accounts, by links without account, for a licensed person's review; the journal."""
