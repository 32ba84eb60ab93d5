"""Silent ideas, side by side, and what teams take from each other on a walk round."""
