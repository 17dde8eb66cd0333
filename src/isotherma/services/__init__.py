"""One module per use case: load, call the core, save; each owns its transaction."""
