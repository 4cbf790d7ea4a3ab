"""Groups in series: what they hold between them, how far they lie apart, leads, power path, hazard."""
