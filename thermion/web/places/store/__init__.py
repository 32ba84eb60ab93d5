"""The class store."""
