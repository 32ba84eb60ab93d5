"""Runs: what is happening now, which mark or whose turn is next, is the number plausible?"""
