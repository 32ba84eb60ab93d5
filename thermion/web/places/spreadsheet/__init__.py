"""Tables noted elsewhere: brought into a run, and made to be filled in."""
