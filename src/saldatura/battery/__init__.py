"""A library on cells, strings and packs: pure rules and computation that know no job, no clock, no web and no file but their own data."""
