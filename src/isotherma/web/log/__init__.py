"""The log: what was measured, beside what was foretold, and what it teaches."""
