"""Trials: what must come of invented passwords and of stories, run on whatever is shown."""
