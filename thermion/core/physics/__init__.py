"""What nature does: curves, heat, ovens, lift, sail, rain, melting, the sun, units, materials."""
