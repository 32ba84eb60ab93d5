"""A class that is not there: pads of its teams that join a running Thermion and work over HTTP, as real ones do.

Each team has ideas, plans within its limits (some beyond them, and then put right), answers what it is asked,
and reads its own build at the marks, or tries and races it when its turn comes, with a hand's delay and now and
then a slip. One team is slow, one pad
drops out and comes back. Nothing here reaches into the record: what a pad may not, this may not either.
"""

from __future__ import annotations

import http.cookiejar
import json
import random
import re
import time
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Any

from thermion.core.kinds import kind_for
from thermion.core.physics.units import Setting
from thermion.core.planning.tryout import spread_of_designs
from thermion.core.plans import Offer, Part, Plan
from thermion.probes.trials_pretended import PretendedRace, PretendedTrial

LOOKS_EVERY_S = 2.0
AWAY_S = 3.0  # until a server that did not answer is asked again
SLIPS, DROPS = 0.06, 0.01  # shares of readings typed wrong, of looks after which a pad drops out
Said = Callable[[str], None]


class Refused(Exception):  # noqa: N818 - an answer, not a fault
    """What was sent was refused; the sentence that came back."""


@dataclass
class Pad:
    """One team's device: what it holds over lost connections, and what it has done."""

    url: str
    code: str
    seed: int
    speed: float = 1.0
    said: Said = print
    sleep: Callable[[float], None] = time.sleep
    done: dict[str, int] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.jar = http.cookiejar.CookieJar()
        self.browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        self.dice = random.Random(self.seed)  # noqa: S311 - a learner's whim
        self.token = ""
        self.trial: tuple[object, PretendedTrial] | None = None

    # ---- as a browser does

    def ask(self, path: str, body: Any = None, method: str = "", *, form: bool = False) -> Any:
        """JSON, or the text of a page. Refused with what was said; OSError while nothing answers."""
        data, headers = None, {"Accept": "application/json"}
        if body is not None:
            data = (urllib.parse.urlencode(body) if form else json.dumps(body)).encode()
            kind = "application/x-www-form-urlencoded" if form else "application/json"
            headers |= {"Content-Type": kind, "X-CSRFToken": self.token}
        asked = urllib.request.Request(  # noqa: S310 - an address a person gave
            self.url + path, data, headers, method=method or ("GET" if body is None else "POST")
        )
        try:
            with self.browser.open(asked, timeout=20) as answer:
                text = answer.read().decode()
        except urllib.error.HTTPError as error:
            found = error.read().decode()
            if error.code >= 500:
                raise OSError(found[:200]) from None
            raise Refused(_sentence(found)) from None
        return json.loads(text) if text.startswith(("{", "[")) else text

    def join(self) -> None:
        self.token = self.ask("/token.json")["token"]
        self.ask("/join", {"code": self.code}, form=True)
        self.token = self.ask("/token.json")["token"]

    # ---- as a team does

    def look(self) -> str:
        """See what is on and do it; what was done."""
        now = self.ask("/pad/now.json")
        act = getattr(self, f"_{now['does']}", None)
        if act is None:
            return str(now["does"])
        try:
            act(now)
        except Refused as refused:
            self._count("refused")
            self.said(f"{now['team']}: {refused}")
        self._count(str(now["does"]))
        return str(now["does"])

    def _count(self, what: str) -> None:
        self.done[what] = self.done.get(what, 0) + 1

    def _design(self, now: dict[str, Any], number: int) -> Plan:
        offers = [Offer(o["material"], o["limit"], 1.0) for o in now["offers"]]
        kind = kind_for(now["kind"], now["age"])
        return spread_of_designs(kind, offers, 1, self.seed, start=number)[0]

    def _idea(self, now: dict[str, Any]) -> None:
        if now["ideas"] >= 2:
            return self._plan(now) if now["phase"] != "ideas" else None
        picks = {p.place: p.material for p in self._design(now, now["ideas"]).parts[:2]}
        wave = [v for x in range(100, 900, 80) for v in (x, 400 + self.dice.randrange(200))]
        sent = {
            "strokes": [wave],
            "picks": picks,
            "why": "It should keep more of it.",
            "client_id": f"{self.seed}-{now['challenge']}-{now['ideas']}",
        }
        self.ask(f"/challenges/{now['challenge']}/ideas/{now['team_id']}", sent)
        return None

    def _plan(self, now: dict[str, Any]) -> None:
        """Draw up the plan; one in five first asks for more than there is, and is put right."""
        if not now["version"]:
            self.ask("/pad/plan", {}, form=True)
            now = self.ask("/pad/now.json")
        plan = self._design(now, now["number"] + 10)
        limited = [o for o in now["offers"] if o["limit"]]
        if limited and plan.parts and self.dice.random() < 0.2:
            first = plan.parts[0]
            much = Part(place=first.place, material=limited[0]["material"], form=first.form, units=90.0)
            self._draft(now, Plan((much, *plan.parts[1:]), plan.factors))
            self._hand_in(now)
            now = self.ask("/pad/now.json")
        self._draft(now, plan)
        self._hand_in(now)

    _change = _plan

    def _draft(self, now: dict[str, Any], plan: Plan) -> None:
        setting = Setting(now["temp_unit"], now["decimal"])
        units = {f.key: f.unit for f in kind_for(now["kind"], now["age"]).build.factors}
        sent = {
            "revision": now["revision"],
            "parts": [
                {"place": p.place, "material": p.material, "form": p.form, "units": p.units}
                for p in plan.parts
            ],
            "factors": {key: setting.from_si(value, units[key]) for key, value in plan.factors.items()},
            "prediction": now["likely"],
            "note": "One thing more, to see what it does." if now["number"] > 1 else "",
        }
        try:
            self.ask(f"/versions/{now['version']}", sent, "PUT")
        except Refused as refused:
            self.said(f"{now['team']}: {refused}")

    def _hand_in(self, now: dict[str, Any]) -> None:
        self.ask(f"/versions/{now['version']}/handin", {}, form=True)

    def _answer(self, now: dict[str, Any]) -> None:
        self.ask("/pad/answer", {"answer": "We think the layer of air does it."}, form=True)
        self._hand_in(now)

    def _build(
        self, now: dict[str, Any], marks: dict[str, tuple[float, ...]] | None = None
    ) -> PretendedTrial:
        """The team's newest version in the test that is on; asked once for each."""
        which = (now["run"], now["version"], marks and tuple(marks.items()))
        if self.trial is None or self.trial[0] != which:
            made = PretendedTrial(
                kind=kind_for(now["kind"], now["age"]),
                plan=Plan(tuple(Part(**part) for part in now["parts"]), now["factors"]),
                conditions=now["conditions"],
                choices=now["choices"],
                setting=Setting(now["temp_unit"], now["decimal"]),
                seed=self.seed,
                marks=marks or {},
            )
            self.trial = which, made
        return self.trial[1]

    def _read(self, now: dict[str, Any]) -> None:
        """Every mark that is due and not read yet, with the model's value and a hand's delay."""
        run = self.ask(f"/pad/read/{now['run']}.json")
        moment = datetime.fromisoformat(run["now"])
        marks = {p["key"]: tuple(float(m["mark"]) for m in p["marks"]) for p in run["phases"]}
        build = self._build(now, marks)
        for phase in (p for p in run["phases"] if p["started"]):
            elapsed = (moment - datetime.fromisoformat(phase["started"])).total_seconds() * run["speed"]
            due = [m for m in phase["marks"] if m["mark"] <= elapsed < m["until"]]
            read = {(c["row"], c["mark"]) for c in run["cells"] if c["phase"] == phase["key"]}
            for mark in due:
                for row in run["rows"]:
                    if (row["id"], mark["key"]) not in read:
                        value = build.at_mark(phase["key"], mark["mark"], row["device"])
                        at = {"row": row["id"], "phase": phase["key"], "mark": mark["mark"]}
                        self._type(f"/pad/read/{now['run']}", at, build, value, moment)

    def _type(
        self, to: str, at: dict[str, Any], build: PretendedTrial, value: float, moment: datetime
    ) -> None:
        """Type a value as a hand does: late, now and then ten times too large, and then put right."""
        delay = self.dice.uniform(1.0, 8.0)
        self.sleep(delay / self.speed)
        slip = self.dice.random() < SLIPS
        name = f"{self.seed}-{to}-{at['row']}-{at['phase']}-{at['mark']:g}"
        sent: dict[str, Any] = {
            **at,
            "typed": build.typed(value * 10 if slip else value),
            "client_id": name,
            "entered_at": (moment + timedelta(seconds=delay)).astimezone(UTC).isoformat(),
        }
        right = {**sent, "typed": build.typed(value), "client_id": f"{name}-right"}
        try:
            cell = self.ask(to, sent)["cell"]
        except Refused:  # as a slip that cannot be: typed once more, rightly
            cell = self.ask(to, right)["cell"]
        else:
            if cell["question"] and slip:
                self.ask(to, {**right, "supersedes": cell["id"]})
        self._count("readings")

    def _try(self, now: dict[str, Any]) -> None:
        """The team's turn at the station: one attempt, or its race from start to stop."""
        build = self._build(now)
        if build.kind.test.shape == "races":
            return self._race(now, build.race)
        typed, attempt = build.attempt(now["tried"])
        self.sleep(self.dice.uniform(15.0, 45.0) / self.speed)  # fitted, tried, talked over
        form = {**typed, "entry": now["row"], "once": f"{self.seed}-{now['run']}-{now['tried']}"}
        if attempt.seen:
            form["seen"] = attempt.seen[0]
        self.ask(f"/runs/{now['run']}/attempts", form, form=True)
        self._count("attempts")
        return None

    def _race(self, now: dict[str, Any], race: PretendedRace) -> None:
        at = f"/runs/{now['run']}/races"
        setting = Setting(now["temp_unit"], now["decimal"])
        began = datetime.fromisoformat(self.ask("/pad/now.json")["now"])

        def press(what: str, after_s: float, **more: Any) -> Any:
            moment = (began + timedelta(seconds=after_s)).isoformat()
            sent = {"pressed_at": moment, "client_id": f"{self.seed}-{now['run']}-{what}-{after_s:g}", **more}
            return self.ask(f"{at}/{what}", sent)

        first = race.shown.value[0]
        start = {"entry": now["row"], "typed": setting.typed(first, "degC", 1), "sure": True}
        key = press("start", 0.0, **start)["race"]["key"]
        gone = 0.0
        for time_s, value in list(zip(race.shown.time_s, race.shown.value, strict=True))[1::3]:
            self.sleep((time_s - gone) / self.speed)
            press("probe", time_s, typed=setting.typed(value, "degC", 1))
            gone = time_s
        self.sleep((race.ends_s - gone) / self.speed)
        press("stop", race.ends_s, key=key, at_target=race.reached)
        self._count("races")

    # ---- as a day goes

    def work(self, until: float, counter: Callable[[], float] = time.monotonic) -> None:
        """Look again and again until a moment of `counter`, over lost connections."""
        joined = False
        while counter() < until:
            try:
                if not joined:
                    self.join()
                    joined = True
                self.look()
            except Refused as refused:
                self.said(f"{self.code}: {refused}")
                return
            except OSError:
                self._count("away")
                self.sleep(AWAY_S / self.speed)
            if self.dice.random() < DROPS:  # falls asleep, and comes back
                self._count("dropped")
                self.sleep(self.dice.uniform(10.0, 40.0) / self.speed)
            slow = 3.0 if self.seed % 5 == 4 else 1.0  # one team falls behind
            self.sleep(self.dice.uniform(0.5, 1.5) * LOOKS_EVERY_S * slow / self.speed)


def _sentence(text: str) -> str:
    """What an answer says: its error, or the sentence on a page."""
    if text.startswith("{"):
        return str(json.loads(text).get("error", ""))
    found = re.search(r'(?:class="wrong[^>]*|role="alert"[^>]*)>([^<]+)<', text)
    return " ".join(found.group(1).split()) if found else "refused"


def door_and_codes(desk: str) -> tuple[str, dict[str, str]]:
    """Where the door is, and the code of each team, asked at the Desk on the same computer."""
    with urllib.request.urlopen(f"{desk}/devices/codes.json", timeout=20) as answer:  # noqa: S310
        found = json.load(answer)
    return str(found["door"]), {str(c["team"]): str(c["code"]) for c in found["codes"]}


def pads(url: str, codes: Sequence[str], speed: float, said: Said) -> list[Pad]:
    """A pad for each code."""
    return [Pad(url, code, seed, speed, said) for seed, code in enumerate(codes, 1)]
