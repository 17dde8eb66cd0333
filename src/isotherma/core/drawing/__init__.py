"""Laying a route out: where parts stand and how lines run, from the network alone."""
