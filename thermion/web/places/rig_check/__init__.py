"""Is the rig fair and safe before the first test?"""
