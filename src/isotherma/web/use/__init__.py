"""Using it: a warm shower today, lead times, draining, what to shut first."""
