"""What to try again with the time that is left before packing up, in words."""

from __future__ import annotations

from collections.abc import Mapping
from math import ceil

from thermion.core.judging.advice import Advice, advise
from thermion.core.judging.findings import Findings
from thermion.core.planning.week import in_turns, tries_that_fit
from thermion.core.subjects import Subject
from thermion.records.judging.evidence import load_evidence
from thermion.records.planning.briefs import Brief
from thermion.records.planning.week import timing_of
from thermion.records.tables import Challenge
from thermion.web.components.frame import until_pack_up
from thermion.web.components.words import count, listed
from thermion.web.sessions import open_challenge, read_session, remembered

LONG_S = 3 * 3600.0  # of more tries: nobody does that for one difference


def advice_now(challenge: Challenge, brief: Brief, school: str = "") -> str:
    """The most telling use of the tries that still fit into the lesson that is on; empty without one, or
    where the first place is decided."""
    left_s = until_pack_up(challenge)
    if left_s is None:
        return ""
    timing = timing_of(read_session(), challenge, brief)
    together = not in_turns(brief.kind)
    builds = max(len(challenge.school_class.present), 1) if together else 1
    most = tries_that_fit(brief.kind, timing, builds, brief.marks, left_s)
    number = challenge.id
    return remembered(("advice", number, school, most), lambda: _advice(number, school, most, together))


def _advice(challenge_id: int, school: str, most: int, together: bool) -> str:
    challenge, brief = open_challenge(challenge_id)
    school = school or challenge.school
    found = load_evidence(read_session(), challenge, brief, school=school).findings
    if found is None or found.still_on or found.lead is None or found.rival is None or found.score is None:
        return ""
    if found.lead.word == "clear" or brief.better_of(school) == "none":
        return ""
    if most < 1:
        return "No more try fits before packing up: keep the builds for next time."
    ranked = [p.key for p in found.places]
    advice = advise(found.score, ranked, found.rival, most, together=together)
    names = {t.id: t.name for t in challenge.school_class.teams}
    return "" if advice is None else _words(advice, found, names, most, together)


def _words(advice: Advice, found: Findings, names: Mapping[int, str], most: int, together: bool) -> str:
    if together:
        times = max(advice.again.values())
        fits = "One more test of all builds fits" if times == 1 else f"{times} more tests of all builds fit"
        return f"{fits} before packing up; {_tells(advice)}."
    whole = len(advice.again) == len(found.places)
    by_times: dict[int, list[Subject]] = {}
    for subject, times in advice.again.items():
        by_times.setdefault(times, []).append(subject)
    parts = []
    for times, subjects in sorted(by_times.items(), reverse=True):
        often_ = "once more" if times == 1 else f"{times} times more"
        every = whole and len(by_times) == 1
        parts.append(f"{'every build' if every else listed([names[s.team_id] for s in subjects])} {often_}")
    fit = count(most, "more try fits", "more tries fit")
    return f"Before packing up {fit}. Try {listed(parts, ', and ')}: {_tells(advice)}."


def _tells(advice: Advice) -> str:
    if advice.known:
        return f"that tells who is first {often(advice.chance)}"
    return f"a lead of three times what a try varies by is then told {often(advice.chance)}"


def often(chance: float) -> str:
    """A chance as a class says it: “in about 3 of 10 classes like this”."""
    tenths = round(chance * 10)
    if tenths == 0:
        return "in fewer than one of 20 classes" if chance < 0.05 else "in about one of 20 classes"
    if tenths == 10:
        return "nearly always"
    return f"in about {tenths} of 10 classes"


def about(seconds: float) -> str:
    """How long more tries take: “about 12 min”, “about 5 hours”."""
    if seconds <= 90 * 60:
        return f"about {max(ceil(seconds / 60), 1)} min"
    return f"about {count(round(seconds / 3600), 'hour')}"
