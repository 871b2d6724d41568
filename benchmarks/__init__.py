"""Speed, told as ratios within one run: `make bench`. Nothing here decides whether a test
passes.
"""
