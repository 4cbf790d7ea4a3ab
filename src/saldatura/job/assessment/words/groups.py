"""What `groups` says."""

DRAWERS_FIGURES = "the drawer's figures of its cells"
TWO_SETS_OF_READINGS = "two sets of readings at rest"
