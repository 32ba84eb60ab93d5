"""Is what Thermion says true at the rate it says? Classes simulated through its own functions."""
