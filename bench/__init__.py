"""Measurements: ratios taken side by side in one run. `make bench` prints them."""
