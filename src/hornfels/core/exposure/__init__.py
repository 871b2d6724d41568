"""Accounts whose passwords others already know, found by their hashes."""
