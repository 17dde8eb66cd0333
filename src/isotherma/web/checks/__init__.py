"""The page of checks."""
