"""Benches stay true: each runs in its short form, and what became worse is told."""

import json
import os
import subprocess
import sys

import pytest
from bench import all as every
from bench._bench import LENT

from lantern.host.setup import ROOT


@pytest.mark.parametrize("bench", every.BENCHES)
def test_a_bench_runs_in_its_short_form(bench, make_database):
    env = {**os.environ, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}", LENT: make_database()}
    command = [sys.executable, "-m", f"bench.{bench}", "--short"]
    ran = subprocess.run(
        command, cwd=ROOT, env=env, check=False, capture_output=True, text=True, timeout=300
    )
    assert ran.returncode == 0, ran.stderr[-2000:]
    told = json.loads(ran.stdout.strip().rpartition("\n")[2])
    assert told["bench"] == bench
    assert told["figures"]
    assert all(isinstance(value, int | float) for value in told["figures"].values())
    for name, value in told["figures"].items():
        if name.endswith(".passed"):  # the story of everything, in each engine
            assert value == told["figures"][name.replace(".passed", ".of")], ran.stderr[-2000:]


def test_all_of_them_are_known():
    here = {
        path.stem
        for path in (ROOT / "bench").iterdir()
        if not path.stem.startswith("_")
        and (path.suffix == ".py" or (path / "__main__.py").exists())
    }
    assert here - {"all"} == set(every.BENCHES)


def test_what_became_worse_by_more_than_a_fifth_is_told():
    before = {"still_s": 1.0, "plain_right": 1.0, "nodes": 10, "wrong": 0}
    now = {"still_s": 1.3, "plain_right": 0.7, "nodes": 900, "wrong": 1, "fresh": 2}
    told = every.worse("page", before, now)
    assert [line.split(":")[0] for line in told] == [
        "page still_s",
        "page plain_right",
        "page wrong",
    ]
    assert every.worse("page", now, before) == []
    assert every.worse("spread", {"ratio": 1.8}, {"ratio": 1.2})
    assert every.worse("playback", {"ratio": 1.8}, {"ratio": 1.2}) == []


def test_the_table_tells_commit_time_and_load():
    one = {
        "figures": {"still_s": 1.2}, "commit": "abc", "at": "2026-11-27T00:00+00:00",
        "seconds": 3.0, "work_before_s": 0.2, "work_after_s": 0.3,
    }  # fmt: skip
    said = every.table({"machine": "Linux x86_64, 2 cores", "benches": {"page": one}})
    assert "| page | `still_s` 1.2 | abc | 2026-11-27T00:00 | 3.0 s | 0.2, 0.3 |" in said
    assert 0 < every.fixed_work() < 60
