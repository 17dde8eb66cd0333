"""Page classes: one frozen class per template, with display-ready values."""
