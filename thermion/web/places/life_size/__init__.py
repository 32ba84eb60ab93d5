"""What would it be at life size?"""
