"""What the maker decides, whether it can be, and the composition that follows: every weight, the lye, the water."""
