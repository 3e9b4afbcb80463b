"""The Board: a row for each shot, a column for each version; sorting, filters, many at once."""
