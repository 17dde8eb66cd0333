"""Building: what is done next, what waits for whom, how it is tested."""
