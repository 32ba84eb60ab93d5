"""Record: what goes out, and what comes in again."""
