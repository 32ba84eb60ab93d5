"""Thermion: a bench instrument for design challenges in the classroom."""
