"""Layout: the route, drawn and changed where it stands."""
