"""What is worth knowing about a formula: the rule book."""
