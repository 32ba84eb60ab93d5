"""The tables of a package, in the order of the work: one row per value, units in fields, keys between them."""

from __future__ import annotations

from thermion.formats.package import of_brief, of_builds, of_results, of_tests
from thermion.formats.package.of_words import DEFINITIONS

GROUPS = (  # tables that ask for the same of a challenge are written together
    (
        of_brief.CHALLENGES,
        of_brief.TEAMS,
        of_brief.SETTINGS,
        of_brief.CHOICES,
        of_brief.MARKS,
        of_brief.OFFERS,
        of_brief.INSTRUMENTS,
        of_brief.MEASURES,
        of_brief.TERMS,
        of_builds.VERSIONS,
        of_builds.PARTS,
        of_builds.FACTORS,
        of_builds.JUDGED,
        of_tests.RUNS,
        of_tests.PHASES,
        of_tests.CONDITIONS,
        DEFINITIONS,
    ),
    (of_tests.VALUES,),
    (of_tests.ATTEMPTS,),
    (of_tests.THERMOMETERS, of_results.FIGURES, of_results.SCORES),
)
TABLES = tuple(table for group in GROUPS for table in group)
