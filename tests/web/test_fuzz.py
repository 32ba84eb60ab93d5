"""Whatever is sent to whichever address: an answer in words, never a broken page.

`FUZZ=20000 pytest tests/web/test_fuzz.py` sends that many.
"""

from __future__ import annotations

import inspect
import os
import re
import traceback
import typing
from collections import Counter
from io import BytesIO

import pytest
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from pydantic import BaseModel

from tests.web.conftest import fields_of
from thermion.web import create_app

REQUESTS = int(os.environ.get("FUZZ", "250"))
_WORDS = """
0 -1 1 2 7 20.5 2,5 ٣ 1e999 -1e308 NaN inf 9223372036854775807 9223372036854775808 -9223372036854775809
0x10 1_000 true null [] {} ../../etc/passwd %00 <b>x</b> {{7*7}} ' " ; 2026-13-45 2026-05-04T25:61 10:99 12:
heating cooling control foil cardboard degF comma point °C 0;2;5 0;0;0 5;2 1e5;1e6 Avocet — x@y 🪟 ﷽
"""
WORDS = [*_WORDS.split(), "\x00", "\x7f"]
odd = st.one_of(
    st.sampled_from([*WORDS, "", " ", "\x00", "\n", "a" * 5000, "9" * 400, "0;" * 3000, "\u202e"]),
    st.text(max_size=20),
    st.integers(-(2**70), 2**70).map(str),
    st.floats().map(str),
)
bodies = st.recursive(
    st.one_of(st.none(), st.booleans(), st.integers(-(2**70), 2**70), st.floats(), odd),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(odd, inner, max_size=4),
    max_leaves=6,
)


# What takes away all that could be broken, and the files themselves.
LEFT_OUT = {"static", "favicon", "home.keep_class", "brief.delete", "data.put_back"}
LEFT_OUT |= {"package.of_all", "package.of_class", "package.of_challenge"}  # whole packages, each time


class Site:
    """The demo week behind a client: its addresses, the forms of its pages, the models of its JSON."""

    def __init__(self, folder) -> None:
        self.app = create_app({"DATA": folder, "TESTING": True, "WTF_CSRF_ENABLED": False})
        self.client = self.app.test_client()
        self.rules = [r for r in self.app.url_map.iter_rules() if r.endpoint not in LEFT_OUT]
        self.models = {r.endpoint: self.model(r.endpoint) for r in self.rules}
        self.forms = [form for rule in self.rules if "GET" in rule.methods for form in self.forms_of(rule)]

    def model(self, endpoint: str) -> type[BaseModel] | None:
        view = inspect.unwrap(self.app.view_functions[endpoint])
        found = re.search(r"\bsent\((\w+)\)", inspect.getsource(view))
        return vars(inspect.getmodule(view))[found[1]] if found else None

    def forms_of(self, rule) -> list[tuple[str, dict[str, list[str]]]]:
        """Every form of a page: where it goes, and what a browser would send untouched."""
        found = []
        for number in ("1", "4", "7") if rule.arguments else ("",):
            page = self.client.get(self.address(rule, lambda _name, usual: usual, number))
            text = page.get_data(as_text=True) if page.mimetype == "text/html" else ""
            for head, inside in re.findall(r"<form\b(.*?)>(.*?)</form>", text, re.S):
                to = re.search(r'action="([^"]*)"', head)
                if 'method="post"' in head and not re.search(
                    r"/classes/1/|/brief/delete|/back$", to[1] if to else ""
                ):
                    found.append((to[1] if to else page.request.path, fields_of(inside)))
        return found

    def address(self, rule, choose, number: str = "1") -> str:
        values = {}
        for name, kind in rule._converters.items():
            usual = next(iter(getattr(kind, "items", (number,))))
            values[name] = choose(name, usual)
        return re.sub(r"<(?:[^<>:]*:)?(\w+)>", lambda m: str(values[m[1]]), rule.rule)

    def close(self) -> None:
        self.app.extensions["thermion"].close()


@pytest.fixture(scope="module")
def site(demo_copy):
    made = Site(demo_copy())
    yield made
    made.close()


def usual_of(data, annotation: object) -> object:
    """A value that a field of a model may well have."""
    named = set(map(str, typing.get_args(annotation))) | {str(annotation)}
    if any("int" in name or "float" in name for name in named):
        return data.draw(st.integers(0, 9) | st.sampled_from([300, 600]))
    if any("datetime" in name for name in named):
        return "2026-05-04T10:00:00Z"
    return data.draw(odd)


def ask(data, site: Site):
    """One request: method, address and what goes with it."""
    rule = data.draw(st.sampled_from(site.rules))
    kind = data.draw(st.sampled_from(["form", "form", "json", "json", "page", "file"]))
    if kind == "form" and data.draw(st.booleans()):
        address, fields = data.draw(st.sampled_from(site.forms))
        fields = dict(fields)
        for name in data.draw(st.lists(st.sampled_from(sorted(fields) or ["x"]), max_size=3)):
            fields[name] = data.draw(st.lists(odd, max_size=2))
        return "POST", address, {"data": fields}
    numbers = st.sampled_from(["1", "2", "3", "5", "8", "10", "0", "99", "9223372036854775808"])
    number = data.draw(numbers)
    is_odd = data.draw(st.integers(0, 6)) == 0
    address = site.address(rule, lambda _name, usual: data.draw(odd) if is_odd else usual, number)
    address = re.sub(r"[^\x20-\x7e]|[#?%\\ ]", "-", address)
    method = data.draw(st.sampled_from(sorted(rule.methods - {"OPTIONS", "HEAD"})))
    query = data.draw(st.dictionaries(st.sampled_from(NAMES), odd, max_size=3))
    more: dict[str, object] = {"query_string": query}
    model = site.models[rule.endpoint]
    if method == "POST" and (model is not None or kind == "json"):
        body = data.draw(bodies)
        if model is not None and data.draw(st.integers(0, 4)):
            body = {name: usual_of(data, f.annotation) for name, f in model.model_fields.items()}
            for name in data.draw(st.lists(st.sampled_from(sorted(body)), max_size=2)):
                body[name] = data.draw(bodies)
        more["json"] = body
    elif method == "POST" and kind == "file":
        content = data.draw(st.binary(max_size=200) | odd.map(lambda t: t.encode("utf-8", "ignore")))
        more["data"] = {name: (BytesIO(content), "x.csv") for name in ("file", "picture")}
    elif method == "POST":
        more["data"] = data.draw(st.dictionaries(st.sampled_from(NAMES), odd, max_size=5))
    return method, address, more


_NAMES = """
typed value mark phase team entry version light school metric order rehearsal apart all wide back once
code back place material units form title name zone date time run note typed_value why after_s shift
column_0 unit_0 file_id rule target start_c time_s distance_cm per page q add drop count reason
"""
NAMES = _NAMES.split()


def test_nothing_that_is_sent_breaks_a_page(site):
    answers: Counter[int] = Counter()
    broken: dict[str, str] = {}  # by what broke, the request that did it

    @settings(
        derandomize=True,
        database=None,
        max_examples=REQUESTS,
        deadline=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @given(st.data())
    def sent(data) -> None:
        method, address, more = ask(data, site)
        try:
            answer = site.client.open(address, method=method, **more)
            answers[answer.status_code] += 1
            if answer.status_code >= 500:
                broken[answer.get_data(as_text=True)] = f"{method} {address} {more}"
        except Exception as error:  # whatever it is, it would be a broken page
            where = traceback.extract_tb(error.__traceback__)[-1]
            broken[f"{error!r:.200} at {where.filename}:{where.lineno}"] = f"{method} {address} {more}"

    sent()
    assert broken == {}
    assert sum(answers.values()) >= REQUESTS
    assert answers[200] > REQUESTS / 20
    print(f"\n{dict(sorted(answers.items()))}")
