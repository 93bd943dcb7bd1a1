"""From a formula to a batch: moulds, size, cutting, additions, the sheet, and whether all is ready."""
