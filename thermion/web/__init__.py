"""The application: what a teacher sees, one folder for each place."""

from thermion.web.app import create_app

__all__ = ["create_app"]
