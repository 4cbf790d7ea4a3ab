"""What stands against an act of a job."""
