"""Keeping the data: copies that are checked, putting one back, and who uses the folder."""
