"""A day of hands and channels over many tasks: what to begin when, by an exact plan or, where there are too many, by a rule."""
