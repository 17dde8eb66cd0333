"""Joints: threads, ends that meet, what is cut and bent. Lengths here are millimetres."""
