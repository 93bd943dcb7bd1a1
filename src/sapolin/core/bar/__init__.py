"""What the bar will be: qualities, adjustments, expectations, uncertainty, each with its explanation."""
