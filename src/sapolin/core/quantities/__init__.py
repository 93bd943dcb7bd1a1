"""Values with a unit, a range and a source."""
