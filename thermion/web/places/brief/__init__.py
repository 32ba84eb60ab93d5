"""Brief: what are we trying to do, under which rules, with what?"""
