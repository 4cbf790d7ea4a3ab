"""What `draft` says."""

STRIP_WIRE_AND_INSULATION = "strip, wire and insulation"
