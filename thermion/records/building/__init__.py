"""Builds and their versions, their pictures, and the store they are made from."""
