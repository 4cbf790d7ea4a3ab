"""Charging one group: forecast, taper, looks along the way, and the fit to a charge that runs."""
