"""What the shop knows of a pack model: sheets of statements that grow with every job and go from shop to shop as files."""
