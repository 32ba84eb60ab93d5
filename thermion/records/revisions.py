"""What the record is called and which form of it this Thermion writes."""

from __future__ import annotations

from pathlib import Path

FILE_NAME = "thermion.sqlite3"
REVISIONS = sorted(f.stem[1:5] for f in (Path(__file__).parent / "migrations" / "versions").glob("v*.py"))
HEAD = REVISIONS[-1]
