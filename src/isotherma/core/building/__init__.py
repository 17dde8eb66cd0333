"""Building a design: tasks in an order, stages of filling and testing with what to expect."""
