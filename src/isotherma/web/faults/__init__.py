"""Finding a fault: what is seen and read, suspects, the next test, practice."""
