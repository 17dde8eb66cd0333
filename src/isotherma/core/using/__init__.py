"""Using what was built: when to switch on, how far to open, what to shut first."""
