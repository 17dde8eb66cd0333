"""Choosing: what may be changed on a design, and which change would mend it."""
