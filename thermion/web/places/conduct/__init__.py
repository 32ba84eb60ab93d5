"""The lesson that is held: steps and clocks, and what stands on the board."""
