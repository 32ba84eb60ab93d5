"""Gains in words: how sure, what would tell more, and what all of a class's gains share."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from thermion.core.judging.findings import Findings
from thermion.core.judging.gains import Gain
from thermion.core.kinds.analysis import Metric
from thermion.core.kinds.briefing import Condition
from thermion.core.planning.week import Timing, tries_length
from thermion.core.subjects import Subject
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Team
from thermion.web.components.advice import LONG_S, about, often
from thermion.web.components.words import count
from thermion.web.places.findings.claims import TONES
from thermion.web.places.findings.scores import apart_words

Teams = Mapping[int, Team]  # by number


@dataclass(frozen=True, kw_only=True)
class GainRow:
    """A version against the one before."""

    team: Team
    heading: str
    change: str
    said: str
    tone: str
    interval: str
    changes: tuple[str, ...]
    cause: str
    settle: str
    bounds: tuple[str, ...]
    idea: str
    word: str = ""
    verdict: str = ""


def sure_words(verdict: str, word: str) -> str:
    """A verdict as sure as it is: “better”, “probably better”, “no difference seen”."""
    verdict = "different" if verdict == "changed" else verdict
    said = {"clear": verdict, "leaning": f"probably {verdict}", "too close to call": "no difference seen"}
    return said.get(word, word)


def gain_said(g: Gain) -> str:
    if g.claim.word == "not known":
        return "not comparable" if g.how == "not comparable" else "not known how sure"
    return sure_words(g.verdict, g.claim.word)


def gain_tone(g: Gain) -> str:
    if g.claim.word == "not known":
        return TONES["not comparable"] if g.how == "not comparable" else TONES["not known"]
    return TONES[g.claim.word]


def gain_settle(g: Gain, teams: Teams, brief: Brief, timing: Timing) -> str:
    team = teams[g.after.team_id].name
    if g.how == "not comparable":
        return "Next time run one unchanged build beside the new ones: it shows what the other day did."
    if g.more_tries is None or g.more_tries.common:
        return ""  # what is common is said once, above
    tries = count(g.more_tries.more, "more try", "more tries")
    if g.more_tries.tie:
        return f"{tries} of each would tell the two apart only {often(g.more_tries.chance)}: call it a tie."
    length = tries_length(brief.kind, timing, 2, g.more_tries.more, brief.marks)
    wait = about(length)
    if length > LONG_S:
        return f"{tries} of each version would take {wait}: call it a tie."
    return (
        f"{tries} of each version of {team}, if the old one still stands ({wait}), would tell "
        f"{often(g.more_tries.chance)}."
    )


def common_part(found: Findings, teams: Teams, brief: Brief) -> str:
    """What all gains share, said once: by what they compare, how much that leaves open, and why."""
    gains = [g for g in found.gains if g.how != "not comparable" and g.claim.word != "not known"]
    if not gains:
        return ""
    metric = brief.kind.analysis.metric(gains[0].metric)
    said = [_by_yardsticks(gains, found, teams, metric, brief), _by_physics(gains, metric, brief)]
    return " ".join(sentence for sentence in said if sentence)


def _by_yardsticks(gains: Sequence[Gain], found: Findings, teams: Teams, metric: Metric, brief: Brief) -> str:
    """That builds tested unchanged show what the other day did."""
    yard = [g for g in gains if g.how == "yardsticks"]
    if not yard:
        return ""
    size = apart_words(max(map(_open_by, yard)), metric, brief)
    sticks = dict.fromkeys(s for g in yard for s in g.yardsticks)
    who = _yardsticks(list(sticks), teams, brief)
    shows = "shows" if len(sticks) == 1 else "show"
    first, rest = "", "how different the two days were"
    if found.headline is not None and found.headline.carried:
        first = f"All gains are {brief.kind.analysis.corrected_words}. "
        rest = "what is left of the difference"
    return (
        f"{first}{who}, tested unchanged on both days, {shows} {rest}: all gains are corrected for that "
        f"(to within {size}, the same for all)."
    )


def _by_physics(gains: Sequence[Gain], metric: Metric, brief: Brief) -> str:
    """That the conditions of both runs were corrected for, and what that leaves open."""
    carried = [g for g in gains if g.how == "physics" and g.common > 0]
    if not carried:
        return ""
    widest = max(carried, key=lambda g: g.common)
    size = apart_words(_open_by(widest), metric, brief)
    named = {c.key: c for c in brief.kind.brief.conditions}
    why = _because([named[key] for key in widest.leans_on if key in named])
    return f"All gains are {brief.kind.analysis.corrected_words} (to within {size}, the same for all){why}."


def _open_by(g: Gain) -> float:
    """Half the width of a gain's 95 % interval that comes from what all share."""
    if g.claim.se is None or g.claim.high is None:
        return 0.0
    return g.common * (g.claim.high - g.claim.difference) / g.claim.se


def _yardsticks(subjects: Sequence[Subject], teams: Teams, brief: Brief) -> str:
    known = [s for s in subjects if s.team_id in teams]
    names = [f"{teams[s.team_id].name} {s.version}" for s in known]
    if len(known) < len(subjects):
        names.append(f"the {(brief.kind.test.control or 'control').removeprefix('the ')}")
    return " and ".join([", ".join(names[:-1]), names[-1]]) if len(names) > 1 else names[0]


def _because(conditions: Sequence[Condition]) -> str:
    if not conditions:
        return ""
    first = conditions[0]
    better = "measure it at each run" if first.measured else "hold it closer"
    return f", mostly because of “{first.label.lower()}”: {better}, or run one unchanged build again"
