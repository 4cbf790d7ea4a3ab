"""What each job wants of the day: its next steps as tasks with hands and waits, and why it stands still."""
