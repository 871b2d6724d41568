"""What is answered at the gate, where a directory server asks about passwords that are being set,
and how long those live that came through it.
"""
