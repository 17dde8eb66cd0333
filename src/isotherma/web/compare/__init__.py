"""Compare: two to four designs side by side on one trip."""
