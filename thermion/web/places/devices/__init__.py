"""Which devices may come in, and which are in?"""
