"""The shelf of the workshop and orders over it."""
