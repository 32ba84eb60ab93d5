"""What may be claimed, in words: how much, how sure, from what, and what would settle it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import ceil

from thermion.core.judging.budget import budget
from thermion.core.judging.claims import Claim
from thermion.core.judging.findings import Findings
from thermion.core.judging.gains import Gain, Settling
from thermion.core.judging.standings import Standing
from thermion.core.kinds.briefing import AgeBand, Condition
from thermion.core.kinds.when import difference_unit
from thermion.core.planning.week import Timing, tries_length
from thermion.core.subjects import Subject
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Team
from thermion.web.components.words import count
from thermion.web.places.findings.places import OLD, YOUNG
from thermion.web.places.findings.scores import in_score

Teams = Mapping[int, Team]  # by number


def _names(subjects: Sequence[Subject], teams: Teams) -> str:
    names = [teams[s.team_id].name for s in subjects]
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


@dataclass(frozen=True)
class Headline:
    """What may be claimed, and what may not, each as a sentence that can be repeated."""

    may: str
    may_not: str


def headline(found: Findings, teams: Teams, brief: Brief, age: AgeBand, *, ranked: bool = True) -> Headline:
    """The first sentence of the page, and the second; `ranked`: the rule gives places."""
    if not found.places and not found.facts:
        return Headline("No build has a score under this rule yet.", "")
    if not ranked:
        return Headline("There are no places here: each team looks at its own change.", "")
    leaders = [s for s, place in found.facts.items() if place == 1]
    if len(found.places) == 1:
        return Headline(f"{_names([found.places[0].key], teams)} alone has a result.", "")
    return _compared(leaders, found, teams, brief, age)


def _compared(
    leaders: Sequence[Subject], found: Findings, teams: Teams, brief: Brief, age: AgeBand
) -> Headline:
    """What may be said of several builds that have a result."""
    if found.still_on:
        share = "are ahead" if len(leaders) > 1 else "is ahead"
        return Headline(f"So far {_names(leaders, teams)} {share}.", "The test is not over.")
    first = [p for p in found.places if p.first == 1]
    if not first:
        return _unknown(leaders, found, teams, age)
    if len(first) == 1:
        return _sole(first[0], found, teams, brief, age)
    return _open(first, leaders, found, teams, brief, age)


def _unknown(leaders: Sequence[Subject], found: Findings, teams: Teams, age: AgeBand) -> Headline:
    who = _names(leaders or [found.places[0].key], teams)
    share = "share the first place" if len(leaders) > 1 else "came first"
    if any(p.value is None for p in found.places):
        return Headline(f"{who} {share} in what was read.", "How sure that is, nobody knows yet.")
    again = (
        "It may be different if we did it again."
        if age == YOUNG
        else ("Nobody can say that it would be so again: nothing was tried twice.")
    )
    return Headline(f"{who} {share} today.", again)


def _sole(best: Standing[Subject], found: Findings, teams: Teams, brief: Brief, age: AgeBand) -> Headline:
    who, odd = teams[best.key.team_id].name, ""
    if found.lead is None or found.rival is None:
        return Headline(f"{who} is first for certain.", f"{_rest(found)}".strip())
    score = found.latest()[best.key.team_id].score
    ahead = in_score(abs(found.lead.difference), score, brief)
    rival = teams[found.rival.team_id].name
    if age == YOUNG:
        return Headline(f"{who} is the best. We are sure.", _rest(found))
    if age == OLD and found.lead.low is not None and found.lead.high is not None:
        low, high = sorted(abs(x) for x in (found.lead.low, found.lead.high))
        odd = f" (95 %: {in_score(low, score, brief)} to {in_score(high, score, brief)})"
    return Headline(f"{who} is best for certain, {ahead}{odd} ahead of {rival}.", _rest(found))


def _rest(found: Findings) -> str:
    """What the places behind the first do not say."""
    others = [p for p in found.places if p.first is not None and p.first > 1]
    if any(p.first != p.last for p in others):
        return "The places behind are not all sure."
    return ""


def _open(
    first: Sequence[Standing[Subject]],
    leaders: Sequence[Subject],
    found: Findings,
    teams: Teams,
    brief: Brief,
    age: AgeBand,
) -> Headline:
    names = _names(leaders, teams) if leaders else ""
    share = "share the first place" if len(leaders) > 1 else "came first"
    may = f"{names} {share} today." if names else ""
    many = f"any of {len(first)} builds" if len(first) > 4 else _names([p.key for p in first], teams)
    if len(first) <= 4:
        many = many.replace(" and ", " or ")
    if found.lead is not None and found.lead.word == "leaning" and found.rival is not None:
        rival = teams[found.rival.team_id].name
        best = teams[found.places[0].key.team_id].name
        if age == YOUNG:
            return Headline(may, f"Maybe {best} is better than {rival}. We are not sure.")
        return Headline(may, f"{best} is likely better than {rival}, but not for certain.")
    if age == YOUNG:
        return Headline(may, f"The best may be {many}. We cannot tell.")
    return Headline(may, f"Who is truly best cannot be told: it may be {many}.")


@dataclass(frozen=True)
class ClaimBox:
    """A claim at one look: how much, how sure, from what, what would settle it; `wait_s` what that
    takes on the clock."""

    who: str
    amount: str
    interval: str
    word: str
    tone: str
    source: str
    settle: str
    wait_s: float | None = None


TONES = {
    "clear": "clear",
    "leaning": "leaning",
    "too close to call": "close",
    "not known": "draft",
    "not comparable": "ask",
}


def lead_box(found: Findings, teams: Teams, brief: Brief, timing: Timing) -> ClaimBox | None:
    """The first over the build that is least surely behind it."""
    lead, rival = found.lead, found.rival
    if lead is None or rival is None:
        return None
    best = found.places[0].key
    score = found.latest()[best.team_id].score
    size = in_score(abs(lead.difference), score, brief)
    interval = ""
    if lead.low is not None and lead.high is not None:
        ends = [in_score(x, score, brief) for x in sorted((_ahead(lead.low, lead), _ahead(lead.high, lead)))]
        interval = f"95 %: {ends[0]} to {ends[1]}"
    names = (teams[best.team_id].name, teams[rival.team_id].name)
    says, wait = _settle(found.settling, lead, names, brief, timing)
    return ClaimBox(
        f"{names[0]} over {names[1]}" if lead.difference else f"{names[0]} and {names[1]}",
        size if lead.difference else "equal",
        interval,
        lead.word,
        TONES[lead.word],
        _source(found, lead),
        says,
        wait,
    )


def _ahead(end: float, claim: Claim) -> float:
    """An end of the interval, positive where the first is ahead."""
    return end if claim.difference >= 0 else -end


def _source(found: Findings, claim: Claim) -> str:
    if claim.word == "not known":
        return claim.why
    repeats = 0 if found.score is None else found.score.repeats
    spread = found.spread
    if spread is None:
        return claim.why
    if spread.source == "repeats":
        return f"from {count(repeats, 'repeat')} in this class"
    if spread.source == "earlier classes":
        return "nothing was tried twice here; how much a try varies is taken from earlier challenges"
    return f"from {count(repeats, 'repeat')} in this class together with earlier challenges"


def _settle(
    settling: Settling | None, claim: Claim, names: tuple[str, str], brief: Brief, timing: Timing
) -> tuple[str, float | None]:
    """What would settle a claim, and the seconds it takes."""
    if claim.word == "not known" and not claim.why.startswith("different runs"):
        wait = tries_length(brief.kind, timing, 2, 1, brief.marks)
        return f"To know, try one build once more ({_minutes(wait)}); two are better.", wait
    if settling is None:
        return "", None
    if settling.more is not None:
        wait = tries_length(brief.kind, timing, 2, settling.more, brief.marks)
        tries = count(settling.more, "more try", "more tries")
        return f"{tries} of each of {names[0]} and {names[1]} would settle it: {_minutes(wait)}.", wait
    if settling.common:
        return (
            "More tries alone do not settle it: what all of a build's tries share is as large. "
            "Check the thermometers in one glass, or run one unchanged build beside the new ones."
        ), None
    return "It would take more than 20 more tries of each: call it a tie.", None


def _minutes(seconds: float) -> str:
    return f"about {max(ceil(seconds / 60), 1)} min"


def before_bell(wait_s: float | None, until_s: float | None) -> str:
    """Whether what would settle a claim still fits into the lesson that is on."""
    if wait_s is None or until_s is None:
        return ""
    if wait_s <= until_s:
        return "It fits before the bell."
    return "It does not fit before the bell: keep the builds for next time."


@dataclass(frozen=True)
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


def gain_said(g: Gain) -> str:
    if g.claim.word == "not known":
        decided = next((b for b in g.bounds if b.good is not None), None)
        if decided is not None:
            return "better" if decided.good else "worse"
        return "not comparable" if g.how == "not comparable" else "not known how sure"
    return f"{g.verdict}, {g.claim.word}" if g.claim.word in ("clear", "leaning") else g.claim.word


def gain_tone(g: Gain) -> str:
    if g.claim.word == "not known":
        return TONES["not comparable"] if g.how == "not comparable" else TONES["not known"]
    return TONES[g.claim.word]


def gain_settle(g: Gain, teams: Teams, brief: Brief, timing: Timing) -> str:
    team = teams[g.after.team_id].name
    if g.how == "not comparable":
        return "Next time run one unchanged build beside the new ones, so that the day's own effect is known."
    if g.settling is None or g.settling.common:
        return ""  # what is common is said once, above
    if g.settling.more is None:
        return "It would take more than 20 more tries of each: call it a tie."
    wait = _minutes(tries_length(brief.kind, timing, 2, g.settling.more, brief.marks))
    tries = count(g.settling.more, "more try", "more tries")
    return f"{tries} of each version of {team}, if the old one still stands, would settle it: {wait}."


def common_part(found: Findings, teams: Teams, brief: Brief) -> str:
    """What all gains share, said once: by what they compare, how much that leaves open, and why."""
    gains = [g for g in found.gains if g.how != "not comparable" and g.claim.word != "not known"]
    if not gains:
        return ""
    unit = difference_unit(brief.kind.analysis.metric(gains[0].metric).unit)
    out = []
    yard = [g for g in gains if g.how == "yardsticks"]
    if yard:
        size = brief.setting.show(max(map(_open_by, yard)), unit)
        sticks = dict.fromkeys(s for g in yard for s in g.yardsticks)
        who = _yardsticks(list(sticks), teams, brief)
        out.append(
            f"The day's own effect is taken out by {who}, tested unchanged in both runs; "
            f"that leaves everyone's gain open by up to {size} together."
        )
    carried = [g for g in gains if g.how == "physics" and g.common > 0]
    if carried:
        widest = max(carried, key=lambda g: g.common)
        size = brief.setting.show(_open_by(widest), unit)
        named = {c.key: c for c in brief.kind.brief.conditions}
        why = _because([named[key] for key in widest.leans_on if key in named])
        words = brief.kind.analysis.corrected_words
        out.append(f"All gains are {words}; everyone's gain is uncertain by {size} together{why}.")
    return " ".join(out)


def _open_by(g: Gain) -> float:
    """Half the width of a gain's 95 % interval that comes from what all share."""
    if g.claim.se is None or g.claim.high is None:
        return 0.0
    return g.common * (g.claim.high - g.claim.difference) / g.claim.se


def _yardsticks(subjects: Sequence[Subject], teams: Teams, brief: Brief) -> str:
    known = [s for s in subjects if s.team_id in teams]
    names = [f"{teams[s.team_id].name} {s.version}" for s in known]
    if len(known) < len(subjects):
        names.append(f"the {brief.kind.test.control or 'control'}")
    return " and ".join([", ".join(names[:-1]), names[-1]]) if len(names) > 1 else names[0]


def _because(conditions: Sequence[Condition]) -> str:
    if not conditions:
        return ""
    first = conditions[0]
    better = "measure it at each run" if first.measured else "hold it closer"
    return f", mostly because of “{first.label.lower()}”: {better}, or run one unchanged build again"


@dataclass(frozen=True)
class BudgetRow:
    """Where the uncertainty of a figure comes from: shares of each source, largest first."""

    label: str
    shares: tuple[tuple[str, int], ...]
    advice: str


def budget_rows(found: Findings, brief: Brief) -> list[BudgetRow]:
    """Of each headline figure, over the newest builds."""
    out = []
    for metric in brief.kind.analysis.headline_for(brief.choices):
        sums: dict[str, float] = {}
        figures = [v.figures[metric.key] for v in found.latest().values() if metric.key in v.figures]
        known = [shares for f in figures if f.value is not None and (shares := budget(f))]
        for share in (s for shares in known for s in shares):
            sums[share.source] = sums.get(share.source, 0.0) + share.share / len(known)
        ranked = sorted(sums.items(), key=lambda item: -item[1])
        parts = tuple((name, round(100 * part)) for name, part in ranked if part >= 0.01)
        if not parts:
            continue
        largest, most = parts[0]
        advice = "" if most < 50 else f"{_share_words(most)} of this ± comes from {largest}."
        out.append(BudgetRow(metric.label, parts, advice))
    return out


def _share_words(percent: int) -> str:
    tenths = round(percent / 10)
    words = {5: "Half", 6: "Six tenths", 7: "Seven tenths", 8: "Eight tenths", 9: "Nine tenths"}
    return words.get(tenths, "Nearly all")
