"""The rules and the arithmetic of pack repair: pure functions over frozen values, no I/O."""
