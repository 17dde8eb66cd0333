"""The Budgets page: what runs out first, on which day, and what stops it."""
