"""One cell or group: its chemistry, its curves, its resistance."""
