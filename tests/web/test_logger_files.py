"""A logger's file: brought, asked about once per logger, laid on the run's clock, stored whole, taken back."""

from __future__ import annotations

import io
import re
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import pytest

from tests.conftest import NOON
from tests.formats.logger_files import cases
from tests.web.conftest import flat
from thermion.records.running import runs
from thermion.records.running.series import series_of

LOG = "time (s);Avocet;Outside\n0;20,5;19\n60;24,0;19\n120;27,5;19\n600;x;19\n".replace("\\\n", "\n")


def bring(client, run: int, *files: tuple[bytes, str]) -> str:
    """The address of the first of these files, once they were brought."""
    sent = {"file": [(io.BytesIO(data), name) for data, name in files]}
    answer = client.post(f"/runs/{run}/file", data=sent, content_type="multipart/form-data")
    assert answer.status_code == 303, flat(answer)
    return answer.location


def stored(crew, run: int) -> list[tuple[str, float, float]]:
    """What counts in a run: row, seconds, °C."""
    names = {entry: name for name, entry in crew.entries(run).items()}
    with crew.database.session() as session:
        found = series_of(session, [runs.get_run(session, run)])
    return sorted(
        (names[entry], t, v)
        for (entry, _), series in found.items()
        for t, v in zip(series.trace.time_s, series.trace.value, strict=True)
    )


def test_a_file_is_asked_about_seen_matched_and_stored_once(client, crew):
    run = crew.run(crew.plan("Avocet"), start=False)
    rows = crew.entries(run)
    at = bring(client, run, (LOG.encode(), "bench.csv"))
    page = flat(client.get(at))
    assert "No unit is written for Avocet, Outside. What is it?" in page
    assert "“x” no reading: line 5" in page
    sent = {"phase": "heating", "begin": "-1:00", "row-0": rows["Avocet"], "row-1": rows["Avocet"]}
    early = client.post(f"{at}/store", data=sent)
    assert (early.status_code, "Answer first" in flat(early)) == (422, True)
    assert (
        client.post(f"{at}/answers", data={"q-unit": "degC", "logger": "our grey logger"}).status_code == 303
    )
    page = flat(client.get(at))
    assert "10 min, a reading every 1 min." in page
    assert f'value="{rows["Avocet"]}" data-colour="blue" selected' in page  # its heading names it
    assert "Two columns are matched to the same build" in flat(client.post(f"{at}/store", data=sent))
    assert stored(crew, run) == []
    sent |= {"row-1": rows["Air"]}
    for _ in range(2):
        assert client.post(f"{at}/store", data=sent).status_code == 303
    air = [("Air", t, 19.0) for t in (0, 60, 540)]
    once = [*air, ("Avocet", 0, 24.0), ("Avocet", 60, 27.5)]
    assert stored(crew, run) == once
    assert "This file is in run 1 already (heating)" in flat(client.get(at))
    assert client.post(f"{at}/back", data={"phase": "heating"}).status_code == 303
    assert stored(crew, run) == []
    assert client.post(f"{at}/store", data=sent).status_code == 303
    assert stored(crew, run) == once


def test_what_was_answered_of_one_file_is_known_of_the_next_until_it_is_forgotten(client, crew):
    run = crew.run(crew.plan("Avocet"), start=False)
    at = bring(client, run, (LOG.encode(), "monday.csv"))
    client.post(f"{at}/answers", data={"q-unit": "degF", "logger": "our grey logger"})
    at = bring(client, run, (LOG.replace("20,5", "70,5").encode(), "tuesday.csv"))
    page = flat(client.get(at))
    assert "Read as our grey logger was read before." in page
    assert "What is it?" not in page
    assert "24.0 to 70.5 °F" in page
    assert "our grey logger" in flat(client.get(f"/runs/{run}/file"))
    client.post(f"{at}/forget")
    assert "What is it?" in flat(client.get(at))
    assert "our grey logger" not in flat(client.get(f"/runs/{run}/file"))


@pytest.mark.parametrize(("stamp", "says"), [("2026-06-01 12:02", "0:00"), ("12:02:00", "0:00")])
def test_a_file_with_a_date_or_a_clock_is_laid_on_the_runs_own_clock(client, crew, stamp, says):
    run = crew.run(crew.plan("Avocet"), at=NOON + timedelta(minutes=2))
    data = "Time,Avocet (°C)\n" + "".join(f"{stamp[:-2]}{2 + i:02d}{stamp[16:]},2{i}.5\n" for i in range(5))
    data = data.replace("\\\n", "\n") if stamp[0] == "2" else clocked()
    page = flat(client.get(bring(client, run, (data.encode(), "bench.csv"))))
    assert f'name="begin" value="{says}"' in page
    assert "by the" in page


def clocked() -> str:
    return "Time,Avocet (°C)\n" + "".join(f"12:0{2 + i}:00,2{i}.5\n" for i in range(5))


def test_sliding_a_file_says_what_would_be_left_out_and_what_is_there_already(client, crew):
    run = crew.run(crew.plan("Avocet"))
    rows = crew.entries(run)
    crew.read(rows["Avocet"], 0, "20")
    at = bring(client, run, (LOG.encode(), "a.csv"), (LOG.replace("24,0", "24,5").encode(), "b.csv"))
    client.post(f"{at}/answers", data={"q-unit": "degC"})
    asked = {"phase": "heating", "begin_s": -60, "rows": {"0": rows["Avocet"], "1": 0}}
    said = client.post(f"{at}/where", json=asked).json
    assert said["said"] == [
        "1 value before the test began: left out.",
        "1 reading by hand in that time: kept beside it.",
    ]
    assert (said["begin"], said["store"]) == ("−1:00", "Store 2 values")
    sent = {"phase": "heating", "begin": "0:00", "row-0": rows["Avocet"]}
    client.post(f"{at}/store", data=sent)
    kept = flat(client.get(f"/runs/{run}/file"))
    other = f"/runs/{run}/file/" + kept.split("/file/")[1 if "b.csv" in kept.split("/file/")[1] else 2][:24]
    said = client.post(f"{other}/where", json=asked | {"begin_s": 0}).json
    assert "3 values where a logger or probe has read already." in said["said"]
    assert (
        client.post(f"{other}/where", json=asked | {"begin_s": 0, "overlap": "gaps"}).json["store"]
        == "Store 0 values"
    )


def test_a_teams_whole_name_says_more_than_a_letter_and_no_build_is_proposed_twice(client, crew):
    run = crew.run(crew.plan("Avocet"), crew.plan("Dunlin"))
    rows = crew.entries(run)
    log = "t [s],Dunlin a [°C],Avocet [°C],d [°C],air [°C]\n" + "\n".join(
        f"{t},20,21,22,19" for t in range(9)
    )
    page = flat(client.get(bring(client, run, (log.encode(), "letters.csv"))))
    chosen = re.findall(r'name="row-\d".*?</select>', page)
    found = [re.findall(r'value="(\d+)" data-colour="\w+" selected', box) for box in chosen]
    assert found == [[str(rows["Dunlin"])], [str(rows["Avocet"])], [], [str(rows["Air"])]]


def test_two_people_at_the_same_file_store_it_once_and_take_it_back_once(app, client, crew):
    run = crew.run(crew.plan("Avocet"), start=False)
    at = bring(client, run, (b"t [s],Avocet [\xc2\xb0C]\n0,20\n60,25\n120,30", "both.csv"))
    sent = {"phase": "heating", "begin": "0:00", "row-0": crew.entries(run)["Avocet"]}
    for way, after in (("store", 3), ("back", 0), ("store", 3)):
        hands = [app.test_client() for _ in range(4)]
        with ThreadPoolExecutor(len(hands)) as together:
            codes = list(
                together.map(lambda hand, way=way: hand.post(f"{at}/{way}", data=sent).status_code, hands)
            )
        assert set(codes) == {303}
        assert len(stored(crew, run)) == after


def test_a_column_in_the_wrong_unit_is_refused_before_anything_is_stored(client, crew):
    run = crew.run(crew.plan("Avocet"), start=False)
    rows = "".join(f"{i * 60},{450 + i}\n" for i in range(9))
    at = bring(client, run, (f"t (s),Avocet (°C)\n{rows}".encode(), "a.csv"))
    refused = client.post(f"{at}/store", data={"phase": "heating", "row-0": crew.entries(run)["Avocet"]})
    assert refused.status_code == 422
    assert "Is the column" in flat(refused)
    assert stored(crew, run) == []


@pytest.mark.parametrize("case", [c for c in cases() if not c.refused][::9], ids=lambda c: c.name)
def test_every_sort_of_file_can_be_looked_into_without_a_script(client, crew, case):
    run = crew.run(crew.plan("Avocet"), start=False)
    page = flat(client.get(bring(client, run, (case.data, "<b>&'\".csv"))))
    assert ("How is this file meant?" in page) == bool(case.asked)
    assert "<b>&" not in page
