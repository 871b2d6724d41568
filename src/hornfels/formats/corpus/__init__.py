"""Corpora of known-exposed passwords as files (docs/corpora.md gives the form byte by byte)."""
