"""What a challenge file may hold: whatever a page would refuse, a file is refused for, with the place.

The schema has looked at the shape. Here texts are held against the columns that keep them, numbers against the
quantity, condition, factor or limit that a page takes them by, and everything against its family. What a page
would ask about is listed by `asked`, and once it is stored by `let_through`.
"""

from __future__ import annotations

from thermion.core.kinds import all_kinds
from thermion.formats.checking.asked import asked
from thermion.formats.checking.brief import check_brief
from thermion.formats.checking.builds import check_builds
from thermion.formats.checking.let_through import let_through
from thermion.formats.checking.shape import check_shape
from thermion.formats.checking.tests import check_tests
from thermion.formats.schema import ChallengeFile
from thermion.records.errors import Refused

__all__ = ["asked", "check_file", "let_through"]


def check_file(file: ChallengeFile) -> None:
    """Refused, with the place in the file, at the first thing that could not be stored or shown."""
    kind = all_kinds().get(file.challenge.kind)
    if kind is None:
        raise Refused(f"This Thermion does not know the family “{file.challenge.kind}”.", "file")
    check_shape(file)
    check_brief(file, kind)
    check_builds(file, kind)
    check_tests(file, kind)
