"""What runs and must be watched: when it is switched off, and what rings."""
