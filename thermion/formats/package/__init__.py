"""A package: challenges as tidy tables, files that Thermion reads again, pictures and a page, in one zip."""

from thermion.formats.package.reading import changed_tables, is_package, read_package
from thermion.formats.package.writing import Extra, write_package

__all__ = ["Extra", "changed_tables", "is_package", "read_package", "write_package"]
