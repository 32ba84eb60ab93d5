"""Will it fit the lessons?"""
