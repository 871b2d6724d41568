"""Machines with templates of their own that should agree."""
