"""Home, classes and new challenges."""
