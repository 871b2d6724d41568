"""Who may do what in Hornfels itself, and which passwords its own people may have."""
