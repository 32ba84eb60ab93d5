"""The job's computation: plain Python and NumPy, no web, no database, no files."""
