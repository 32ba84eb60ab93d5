"""A logger's file into a run."""
