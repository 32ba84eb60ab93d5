"""Runs and all that is observed in them."""
