"""Every score and place of a package, worked out with pandas alone: `python scores_from_a_package.py FILE.zip`.

It needs no Thermion: what each column, figure and word means stands in the package itself, in
`datapackage.json`, `data/measures.csv` and `data/definitions.csv`.
"""

from __future__ import annotations

import sys
import zipfile

import pandas as pd

BUILD = ["challenge", "team", "version"]


def table(package: str, name: str) -> pd.DataFrame:
    with zipfile.ZipFile(package) as zipped, zipped.open(f"data/{name}.csv") as file:
        return pd.read_csv(file)


def scores_of(figures: pd.DataFrame, terms: pd.DataFrame) -> pd.Series:
    """The sum of the rule's terms of each version; none where a term is not known."""
    tested = figures[BUILD].drop_duplicates()
    lines = tested.merge(terms, on="challenge").merge(figures, on=[*BUILD, "figure"], how="left")
    for known in ("value", "at_least"):  # from the stored unit into the rule's
        lines[known] = lines[known] * lines["times"] + lines["plus"]
    reaches = lines["at_least"] >= lines["cap"] * (1 - 1e-9)
    counts = lines["value"].where(lines["value"].notna() | ~reaches, lines["cap"])
    capped = counts.where(lines["cap"].isna() | (counts < lines["cap"]), lines["cap"]).where(counts.notna())
    lines["adds"] = lines["weight"] * capped / lines["divisor"]
    return lines.groupby(BUILD)["adds"].sum(skipna=False)


def places_of(scores: pd.Series, better: pd.Series) -> pd.Series:
    """Place of the newest version of each team among those that have a score; equals share the better one."""
    found = scores.reset_index(name="score")
    newest = found["version"] == found.groupby(["challenge", "team"])["version"].transform("max")
    found = found[newest & found["score"].notna()].set_index(BUILD)
    way = found.index.get_level_values("challenge").map(better)
    sign = pd.Series(way, index=found.index).map({"higher": -1.0, "lower": 1.0, "none": 0.0})
    return (found["score"] * sign).groupby("challenge").rank(method="min").astype(int)


def worked_out(package: str) -> pd.DataFrame:
    """Score and place of every version of a package, by challenge, team and version."""
    scores = scores_of(table(package, "figures"), table(package, "terms"))
    better = table(package, "challenges").set_index("challenge")["better"]
    return pd.DataFrame({"score": scores, "place": places_of(scores, better)})


if __name__ == "__main__":
    mine = worked_out(sys.argv[1])
    theirs = table(sys.argv[1], "scores").set_index(BUILD)
    print(mine.join(theirs[["score", "place"]].add_suffix(" by Thermion")).to_string())
