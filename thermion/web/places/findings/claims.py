"""What may be claimed, in words: how much, how sure, from what, and what would settle it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from thermion.core.ages import AgeBand, reader
from thermion.core.judging.claims import Claim
from thermion.core.judging.findings import Findings
from thermion.core.judging.scoring import Score
from thermion.core.judging.standings import Standing
from thermion.core.judging.telling import design_chance
from thermion.core.planning.week import Timing, tries_length
from thermion.core.subjects import Subject
from thermion.records.planning.briefs import Brief
from thermion.records.tables import Team
from thermion.web.components.advice import LONG_S, about, often
from thermion.web.components.words import count, listed
from thermion.web.places.findings.scores import in_score

Teams = Mapping[int, Team]  # by number


def _names(subjects: Sequence[Subject], teams: Teams) -> str:
    return listed([teams[s.team_id].name for s in subjects])


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
    if reader(age).plain:
        return Headline(f"{who} {share} today.", "It may be different if we did it again.")
    again = "Nothing was tried twice, so how much a try varies is not known."
    far = _far_apart(found)
    if far:
        again = f"{again} But {far} is more than tries of one build usually differ by."
    return Headline(f"{who} {share} today.", again)


def _far_apart(found: Findings) -> str:
    """How many times as much the first is as the second, where that is far more than luck."""
    if found.score is None or not found.score.factor or len(found.places) < 2:
        return ""
    best, second = (p.value for p in found.places[:2])
    if not best or not second or best * second < 0:
        return ""
    times = max(best / second, second / best)
    return f"{times:.0f} times as much" if times >= FAR else ""


def _sole(best: Standing[Subject], found: Findings, teams: Teams, brief: Brief, age: AgeBand) -> Headline:
    who, odd = teams[best.key.team_id].name, ""
    if found.lead is None or found.rival is None:
        return Headline(f"{who} came first, and would very likely again.", f"{_rest(found)}".strip())
    score = found.latest()[best.key.team_id].score
    ahead = ahead_words(found.lead, score, brief)
    rival = teams[found.rival.team_id].name
    if reader(age).plain:
        return Headline(f"{who} is the best. It would very likely be so again.", _rest(found))
    if reader(age).symbols and found.lead.low is not None and found.lead.high is not None:
        odd = f" (95 %: {between_words(found.lead, score, brief)})"
    return Headline(
        f"{who} came first, {ahead} {rival}{odd}, and would very likely come first again.", _rest(found)
    )


LARGE = 1.5  # times as much, from which a difference is said as a factor
FAR = 3.0  # times as much, which no tries of one build differ by


def is_factor(claim: Claim) -> bool:
    """Whether a difference is so large that it is said as a factor."""
    return claim.times is not None and not 1 / LARGE < claim.times[0] < LARGE


def ahead_words(claim: Claim, score: Score, brief: Brief) -> str:
    """By how much the first is ahead: an amount, or how many times as much where that is large."""
    if claim.times is not None and is_factor(claim):
        return f"with {as_much(claim.times)} as"
    return f"{in_score(abs(claim.difference), score, brief, apart=True)} ahead of"


def between_words(claim: Claim, score: Score, brief: Brief) -> str:
    """The 95 % interval of a lead, positive where the first is ahead."""
    if claim.times is not None and is_factor(claim):
        return factor_between(claim.times)
    if claim.low is None or claim.high is None:
        return ""
    low, high = sorted((_ahead(claim.low, claim), _ahead(claim.high, claim)))
    return spanned(*(in_score(x, score, brief, apart=True) for x in (low, high)))


def spanned(low: str, high: str) -> str:
    """Two amounts as an interval, their common unit said once: “−2.6 to +2.6 cm”."""
    number, _, unit = low.partition(" ")
    return f"{number} to {high}" if unit and high.endswith(f" {unit}") else f"{low} to {high}"


def as_much(times: tuple[float, float, float]) -> str:
    """A factor in words: “2.1 times as much”, “52 % as much”."""
    return f"{times[0]:.1f} times as much" if times[0] >= 1 else f"{100 * times[0]:.0f} % as much"


def factor_between(times: tuple[float, float, float]) -> str:
    """The interval of a factor."""
    if times[0] >= 1:
        return f"{times[1]:.1f} to {times[2]:.1f} times"
    return f"{100 * times[1]:.0f} to {100 * times[2]:.0f} %"


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
        if reader(age).plain:
            return Headline(may, f"Maybe {best} is better than {rival}. We are not sure.")
        return Headline(may, f"{best} is likely better than {rival}, but we cannot be sure.")
    if reader(age).plain:
        return Headline(may, f"The best may be {many}. We cannot tell.")
    return Headline(may, f"Who is truly best cannot be told: it may be {many}.")


@dataclass(frozen=True, kw_only=True)
class ClaimBox:
    """A claim at one look: how much, how sure, from what, what would settle it."""

    who: str
    amount: str
    interval: str
    word: str
    tone: str
    source: str
    settle: str

    @property
    def known(self) -> bool:
        """Whether anything is said of how sure it is."""
        return self.tone != TONES["not known"]


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
    interval = between_words(lead, score, brief)
    names = (teams[best.team_id].name, teams[rival.team_id].name)
    says = _settle(found, lead, names, brief, timing)
    size = in_score(abs(lead.difference), score, brief, apart=True)
    if lead.times is not None and is_factor(lead):
        size = as_much(lead.times)
    totals = [found.latest()[s.team_id].score.total for s in (best, rival)]
    read = None if None in totals else abs((totals[0] or 0.0) - (totals[1] or 0.0))
    if read is not None and abs(read - abs(lead.difference)) > 0.05 * max(read, abs(lead.difference)):
        size += " on a typical try"
    return ClaimBox(
        who=f"{names[0]} over {names[1]}" if lead.difference else f"{names[0]} and {names[1]}",
        amount=size if lead.difference else "equal",
        interval=f"95 %: {interval}" if interval else "",
        word=lead.word,
        tone=TONES[lead.word],
        source=_source(found, lead) + _leans(found, best, rival),
        settle=says,
    )


def _leans(found: Findings, *pair: Subject) -> str:
    """Whether a lead rests on a value that is asked about."""
    doubted = {t.subject for t in found.score.strange} if found.score else set()
    return "; it leans on a value that is asked about above" if doubted & set(pair) else ""


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


def _settle(found: Findings, claim: Claim, names: tuple[str, str], brief: Brief, timing: Timing) -> str:
    """What more tries would tell of a claim, as a chance, and how long they take."""
    builds = len(found.places)
    every = tries_length(brief.kind, timing, builds, 1, brief.marks)
    if claim.word == "not known":
        return _to_know(found, every)
    more_tries = found.more_tries
    if more_tries is None or more_tries.common:
        own = any(check.of_thermometers for check in brief.kind.test.checks_for(brief.choices))
        first = "Check the thermometers in one glass, or run" if own else "Run"
        said = (
            "More tries alone would hardly help: what is the same for all tries of a build, such as its "
            f"thermometer or the day, leaves as much open. {first} one unchanged build beside the new ones."
        )
        return said if more_tries else ""
    tries = count(more_tries.more, "more try", "more tries")
    if more_tries.tie:
        return f"{tries} of each would tell them apart only {often(more_tries.chance)}: call it a tie."
    wait = tries_length(brief.kind, timing, 2, more_tries.more, brief.marks)
    if wait > LONG_S:
        return f"{tries} of each would take {about(wait)}: call it a tie."
    said = (
        f"{tries} of each of {names[0]} and {names[1]} ({about(wait)}) would tell {often(more_tries.chance)}."
    )
    if more_tries.all_once is not None and more_tries.all_once > more_tries.chance:
        said += f" All builds once more ({about(every)}): {often(more_tries.all_once)}."
    return said


def _to_know(found: Findings, every_s: float) -> str:
    """What to do where nothing was tried twice: `every_s` is what trying all builds once more takes."""
    rival = found.rival or found.places[1].key
    if found.score is None or not found.score.comparable(found.places[0].key, rival):
        return ""
    builds = len(found.places)
    one, all_of = (design_chance(builds, again) for again in (1, builds))
    return (
        f"To know, try every build once more ({about(every_s)}): a lead of three times what a try varies "
        f"by is then told {often(all_of)}; with one build tried again, {often(one)}."
    )
