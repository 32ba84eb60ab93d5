"""Findings: who did what, how sure are we, what made the difference?"""
