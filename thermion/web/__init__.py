"""The application: what a teacher sees, one folder for each place."""

from thermion.core.lazy import all_is_kept

with all_is_kept():
    from thermion.web.app import create_app

__all__ = ["create_app"]
