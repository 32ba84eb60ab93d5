"""Where a figure's uncertainty comes from: the share of each source, so that one knows what to
read better."""

from __future__ import annotations

from dataclasses import dataclass

from thermion.core.values import Figure


@dataclass(frozen=True)
class Share:
    """A source of uncertainty, its standard uncertainty in the figure's unit, and its share (0 to
    1) of the figure's variance."""

    source: str
    se: float
    share: float


def budget(figure: Figure) -> list[Share]:
    """The share of each source in the variance of a figure, largest first; they add up to 1.

    Parts of the same source are taken together. Empty where the figure has no uncertainty. A
    figure whose sources were not told apart has the one source "the readings". JCGM 100:2008
    (GUM), 5.1.2 and annex H: uᵢ²(y)/u_c²(y).
    """
    if not figure.se:
        return []
    if not figure.parts:
        return [Share("the readings", figure.se, 1.0)]
    found: dict[str, float] = {}
    for part in figure.parts:
        found[part.name] = found.get(part.name, 0.0) + part.effect**2
    total = sum(found.values())
    shares = [Share(source, v**0.5, v / total) for source, v in found.items()]
    return sorted(shares, key=lambda s: -s.share)
