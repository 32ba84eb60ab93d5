"""Builds: what has each team designed, and may it be handed materials?"""
