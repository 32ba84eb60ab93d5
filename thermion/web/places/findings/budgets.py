"""Where the uncertainty of a figure comes from, in words: what to read better."""

from __future__ import annotations

from dataclasses import dataclass

from thermion.core.judging.budget import budget
from thermion.core.judging.findings import Findings
from thermion.records.planning.briefs import Brief


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
