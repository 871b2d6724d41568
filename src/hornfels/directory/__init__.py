"""Speaks LDAP (RFC 4511) to a domain's own directory servers."""
