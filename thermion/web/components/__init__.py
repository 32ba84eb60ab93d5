"""What pages are made of: the frame, forms, teams, the parts of a brief."""
