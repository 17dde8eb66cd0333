"""Start: the few things a person knows, asked once."""
