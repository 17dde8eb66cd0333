"""What to buy, to cut and to drill, and the ends that are to meet."""
