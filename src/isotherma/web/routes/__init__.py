"""Routes: read the request, call a service, show a page."""
