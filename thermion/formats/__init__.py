"""Open formats in and out: CSV, JSON."""
