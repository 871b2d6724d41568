"""Recommendations as data, and how far an estate follows them."""
