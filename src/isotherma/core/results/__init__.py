"""Per draw, ledger, verdict, and the trace of a number."""
