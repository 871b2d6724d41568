"""What reports tell: a domain, or a change of it, in plain words."""
