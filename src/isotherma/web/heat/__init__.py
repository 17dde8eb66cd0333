"""Heat: ways of heating the water, each with what it would do on these answers."""
