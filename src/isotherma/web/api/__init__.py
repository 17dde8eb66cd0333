"""The interface for programs: what pages do, as JSON, by the same doors."""
