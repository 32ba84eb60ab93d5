"""When is the sun high enough, and where to aim?"""
