"""What this package says: a module of sentences for each module that tells them."""
