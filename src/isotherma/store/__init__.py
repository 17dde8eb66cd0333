"""The database: vehicles and their revisions, and the queries on them."""
