"""What a vehicle carries: levers, axles, water that moves."""
