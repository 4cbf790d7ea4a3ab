"""What is measured beside the readings: resistance, steps, sensors, capacity, and what was seen."""
