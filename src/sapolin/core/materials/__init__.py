"""What soap is made of: fatty acids, oils, liquids, additives, scents, colours, and what uses up lye."""
