"""The job itself, in the order data flows through it; no web, database, file or clock."""
