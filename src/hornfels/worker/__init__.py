"""Does long work, in processes of its own: any number of them, on any machines that reach the
database.
"""
