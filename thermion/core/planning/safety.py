"""Cautions by tool, and what any caution says and asks for at an age."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from thermion.core.ages import AGES, AgeBand, reader
from thermion.core.kinds.base import Kind
from thermion.core.kinds.briefing import Caution
from thermion.core.physics.units import Setting

CELSIUS = Setting()
DEFER = (
    "Follow your school's and local rules. Where it is their trade, ask your science safety "
    "adviser or a licensed person."
)


@dataclass(frozen=True, kw_only=True)
class Tool:
    """A tool and its caution. `adult_at`: ages at which an adult uses it or stands beside."""

    key: str
    label: str
    text: str
    young: str
    adult_at: tuple[AgeBand, ...]


TOOLS = (
    Tool(
        key="scissors",
        label="Scissors",
        text="Scissors: cut away from the hand that holds; pass them closed.",
        young="Scissors: sit down to cut, and pass them closed.",
        adult_at=("6-8",),
    ),
    Tool(
        key="knife",
        label="Craft knife",
        text="Craft knife: cutting mat, metal ruler, blade in when it rests.",
        young="Craft knife: a grown-up cuts for you.",
        adult_at=AGES,
    ),
    Tool(
        key="glue",
        label="Hot-glue gun",
        text="Hot-glue gun: low-melt, on a mat, cool before touching.",
        young="Hot glue: a grown-up glues for you.",
        adult_at=("6-8", "9-12"),
    ),
    Tool(
        key="saw",
        label="Junior saw",
        text="Saw: work clamped down, fingers behind the blade, eyes protected.",
        young="Saw: a grown-up saws for you.",
        adult_at=("6-8", "9-12"),
    ),
    Tool(
        key="drill",
        label="Hand drill",
        text="Drill: work clamped down, hair and sleeves tied back.",
        young="Drill: a grown-up drills for you.",
        adult_at=("6-8", "9-12"),
    ),
    Tool(
        key="dryer",
        label="Hair dryer",
        text="Hair dryer: never near water, intake free, off between uses.",
        young="Hair dryer: far from water; a grown-up switches it on.",
        adult_at=AGES,
    ),
    Tool(
        key="stapler",
        label="Stapler",
        text="Stapler: fingers off the anvil; pick up every staple.",
        young="Stapler: press with both hands on top.",
        adult_at=("6-8",),
    ),
)
TOOL = {tool.key: tool for tool in TOOLS}


@dataclass(frozen=True)
class Warned:
    """A caution as it is read out: its words, and if an adult's hand is needed."""

    text: str
    adult: bool


def cautions(
    kind: Kind, choices: Mapping[str, str], age: AgeBand, tools: Sequence[str], setting: Setting = CELSIUS
) -> list[Warned]:
    """All cautions of a challenge at an age: the family's, those of its choices, and the tools'.

    An adult's hand is asked for first. At ages 6 to 8 a caution of the family that needs an
    adult says so in its own words too.
    """
    out = [_of_family(c, age) for c in kind.brief.cautions_for(choices)]
    for key in tools:
        tool = TOOL.get(key)
        if tool is not None:
            adult = age in tool.adult_at
            out.append(Warned(tool.young if reader(age).plain else tool.text, adult))
    out = [replace(w, text=setting.in_class(w.text)) for w in out]
    return sorted(out, key=lambda w: not w.adult)


def _of_family(caution: Caution, age: AgeBand) -> Warned:
    if reader(age).plain and caution.young:
        return Warned(caution.young, caution.adult)
    if caution.adult and reader(age).plain:
        return Warned(f"A grown-up does this or stands beside you. {caution.text}", True)
    if reader(age).symbols and caution.adult and caution.older:
        return Warned(caution.older, False)
    return Warned(caution.text, caution.adult)
