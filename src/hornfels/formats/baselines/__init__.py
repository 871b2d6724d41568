"""Baselines as files (YAML of our own form), and those that come with Hornfels."""
