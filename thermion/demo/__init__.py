"""The Skerry Light week, built through the same functions that a user's actions call."""

from thermion.demo.week import build_demo

__all__ = ["build_demo"]
