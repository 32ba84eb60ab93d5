"""Probes that send values: their keys, where each stands, what they say now; following a run from outside."""
