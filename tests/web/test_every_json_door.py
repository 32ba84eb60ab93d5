"""Whatever JSON comes to any door of the web: an answer in JSON, never a fault of ours."""

from __future__ import annotations

import json

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from thermion.records.tables import Reading, Version

NUMBERS = st.one_of(
    st.sampled_from([0, 1, -1, 2**31, 2**63 - 1, 2**63, 10**30, 1e308, -0.0, 0.5, 300, 1e-9]),
    st.integers(),
    st.floats(allow_nan=False, allow_infinity=False),
)
TEXTS = st.one_of(
    st.sampled_from(["", "20", "20,5", "1e9", "nan", "∞", "−5", "0:30", "2 m", "heating", "Avocet", "<b>"]),
    st.text(max_size=60),
)
VALUES = st.recursive(
    st.one_of(st.none(), st.booleans(), NUMBERS, TEXTS),
    lambda inner: st.one_of(st.lists(inner, max_size=3), st.dictionaries(TEXTS, inner, max_size=3)),
    max_leaves=6,
)
SOUND = {
    "entry": 1,
    "phase": "heating",
    "mark": 300,
    "typed": "30",
    "client_id": "x",
    "entered_at": "2026-06-01T12:05:08Z",
    "pressed_at": "2026-06-01T12:05:08Z",
    "revision": 2,
    "parts": [{"place": "window", "material": "cling_film", "form": "flat", "units": 1}],
    "factors": {"height_m": 12, "gap_m": 4, "reflector_m": 30, "reflector_deg": 110},
    "prediction": "60",
    "text": "0, 5",
    "item": "Thermometer",
}
MORE = ("supersedes", "at", "keep", "note", "idea", "toggle", "every", "until", "have", "pack", "pack_cost")
FIELDS = (*SOUND, *MORE, "minutes", "lesson", "key", "at_target", "seen", "sure")
DOORS = (
    ("POST", "/runs/1/readings"),
    ("POST", "/runs/1/start.json"),
    ("POST", "/runs/1/probe"),
    ("POST", "/runs/1/races/start"),
    ("POST", "/runs/1/races/probe"),
    ("POST", "/runs/1/races/stop"),
    ("POST", "/runs/1/races/false_start"),
    ("PUT", "/versions/2"),
    ("POST", "/challenges/1/brief/marks/read"),
    ("POST", "/challenges/1/brief/lessons/step"),
    ("POST", "/classes/1/kit"),
    ("POST", "/runs/1/probes/put"),
)
ONLY_READ = settings(max_examples=100, suppress_health_check=[HealthCheck.function_scoped_fixture])


@given(
    door=st.sampled_from(DOORS),
    change=st.dictionaries(st.sampled_from(FIELDS), VALUES, max_size=4),
    whole=st.one_of(st.just(None), VALUES),
)
@ONLY_READ
def test_any_json_gets_an_answer_in_json(crew, client, door, change, whole):
    if not hasattr(crew, "set_up"):
        crew.set_up = crew.run(crew.plan("Avocet")), crew.plan("Dunlin", until="draft")
    method, address = door
    sent = {**SOUND, **change} if whole is None else whole
    answer = client.open(address, method=method, data=json.dumps(sent), content_type="application/json")
    assert answer.status_code in (200, 400, 409, 410, 422), (answer.status_code, address, sent)
    assert answer.is_json
    if answer.status_code != 200:
        assert answer.json.get("error") or answer.json.get("ask")
    with crew.database.session() as session:
        for reading in session.query(Reading):
            assert reading.value is None or -50 < reading.value < 400  # what a thermometer can show
        for version in session.query(Version):
            assert all(part.units >= 0 for part in version.parts)
