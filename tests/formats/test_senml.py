"""Packs of measurements as programs send them: base fields resolved, what cannot be used named, the rest read."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from thermion.core.judging.probing import Measured
from thermion.formats.senml import NotSenml, read_pack


def pack(*records) -> bytes:
    return json.dumps(list(records)).encode()


def test_base_fields_hold_for_the_records_after_them():
    body = pack(
        {"bn": "box:", "bt": 1_780_000_000, "bu": "Cel", "bv": 20},
        {"n": "A", "v": 1.5, "t": -2},
        {"n": "B", "u": "K", "v": 273.15, "t": 0},
    )
    assert read_pack(body) == (
        [
            Measured(name="box:A", unit="Cel", stored_unit="degC", value=21.5, time_s=1_779_999_998),
            Measured(
                name="box:B", unit="K", stored_unit="degC", value=pytest.approx(20.0), time_s=1_780_000_000
            ),
        ],
        [],
    )


def test_a_time_that_is_small_counts_from_the_arrival():
    ((now, before), _) = read_pack(
        pack({"n": "A", "u": "Cel", "v": 1}, {"n": "A", "u": "Cel", "v": 1, "t": -30})
    )
    assert [(m.time_s, m.ago_s) for m in (now, before)] == [(None, 0), (None, 30)]


@pytest.mark.parametrize(
    ("record", "why"),
    [
        ({"n": "A", "u": "furlong", "v": 1}, "its unit 'furlong' is none of Cel"),
        ({"n": "A", "v": 1}, "its unit '' is none"),
        ({"n": "A", "u": "Cel", "vs": "warm"}, "no number"),
        ({"n": "A", "u": "Cel", "v": "21.5"}, "no number"),
        ({"n": "A", "u": "Cel", "v": True}, "no number"),
        ({"n": "A", "u": "Cel", "v": None}, "no number"),
        ({"n": "A", "u": "Cel", "v": 10**400}, "no number"),
        ({"n": "A", "u": "Cel", "v": 1, "t": "noon"}, "its time is no number"),
        ({"n": "<b>", "u": "Cel", "v": 1}, "its name"),
        ({"n": "", "u": "Cel", "v": 1}, "its name"),
        ({"n": "A", "u": "Cel", "v": 1, "x_": 1}, "x_ must be understood"),
        ({"n": "A", "u": "Cel", "v": -127}, "-127 is what a device writes when no probe answers"),
        ({"n": "A", "u": "Cel", "v": 9999}, "9999 is what a device writes when it has no reading"),
        ({"n": "A", "u": "Cel", "v": -300}, "-300 is colder than anything can be"),
        ({"n": "A", "u": "K", "v": -1}, "-1 is colder than anything can be"),
        ({"n": "A", "u": "Cel", "v": 1, "t": 1_780_000_000_000}, "seconds since 1970 are expected"),
    ],
)
def test_a_record_that_cannot_be_used_is_named_and_the_others_are_read(record, why):
    found, unread = read_pack(pack(record, {"n": "B", "u": "Cel", "v": 2}))
    assert [m.name for m in found] == ["B"]
    assert [u.index for u in unread] == [0]
    assert why in unread[0].why


@pytest.mark.parametrize(
    ("body", "why"),
    [
        (b"", "expected JSON"),
        (b"\xff\xfe", "expected JSON"),
        (b"[" * 100_000, "expected JSON"),
        (b"{}", "a list of records"),
        (b"[]", "a list of records"),
        (b"[1]", "a list of records"),
        (pack({"bver": 11, "n": "A", "u": "Cel", "v": 1}), "newer version"),
        (pack(*({"n": "A", "u": "Cel", "v": 1} for _ in range(10_000))), "at most 2000"),
    ],
)
def test_what_is_no_pack_is_refused_whole(body, why):
    with pytest.raises(NotSenml, match=why):
        read_pack(body)


json_values = st.recursive(
    st.none() | st.booleans() | st.floats() | st.integers() | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=4), inner, max_size=3),
    max_leaves=6,
)
keys = st.sampled_from(["bn", "bt", "bu", "bv", "bver", "n", "u", "v", "t", "vs", "ut", "z_"])


@given(st.lists(st.dictionaries(keys, json_values, max_size=6), min_size=1, max_size=4))
def test_no_pack_can_break_the_reader_and_no_value_is_made_up(records):
    try:
        found, unread = read_pack(json.dumps(records).encode())
    except NotSenml:
        return
    numbers = [r for r in records if isinstance(r.get("v"), int | float) and not isinstance(r.get("v"), bool)]
    assert len(found) <= len(numbers)
    assert len(found) + len(unread) <= len(records)
