"""Will this brief tell designs apart?"""
