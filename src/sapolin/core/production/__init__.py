"""Make day: what was done, as a record that only grows, and what to do about what went differently."""
