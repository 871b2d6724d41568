"""The policy file: a domain's policies and trials as text (YAML 1.2 or JSON)."""
