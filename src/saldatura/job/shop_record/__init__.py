"""What the shop's signed jobs say of the shop: its numbers, its promises, and what would make it faster."""
