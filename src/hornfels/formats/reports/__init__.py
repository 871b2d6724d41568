"""Reports for people who look at no screen of ours: one file each, nothing fetched from outside."""
