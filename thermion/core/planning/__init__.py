"""Lessons, rounds, kit, safety, trying designs out, and where a challenge stands."""
