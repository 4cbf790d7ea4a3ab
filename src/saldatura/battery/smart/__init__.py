"""The words of a pack's own chip, by the Smart Battery Data Specification 1.1: what they say, and what of it cannot be true."""
