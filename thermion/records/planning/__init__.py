"""Classes, briefs, lessons and kit as they are kept."""
