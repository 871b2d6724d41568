"""What people under a policy are written to about: who, about what, and when."""
