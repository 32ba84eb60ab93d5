"""What must be there?"""
