"""One repair: its facts, the pack as it now is, what stands against an act, and what is concluded."""
