"""After the pour: unmoulding, cutting, trays, drying, and whether a bar is fit to use."""
