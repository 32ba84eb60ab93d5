"""Outside devices, behind the interface a real one would use, with the stand-ins that ship."""
