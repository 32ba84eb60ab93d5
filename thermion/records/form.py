"""What the record is called and which form of it this Thermion writes."""

from __future__ import annotations

from pathlib import Path

FILE_NAME = "thermion.sqlite3"
HEAD = max(f.stem for f in (Path(__file__).parent / "migrations" / "versions").glob("v*.py"))[1:5]
