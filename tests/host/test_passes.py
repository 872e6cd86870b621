"""Passes by which the web process speaks to a station."""

from itsdangerous import URLSafeTimedSerializer

from lantern.store import passes
from lantern.store.passes import LASTS, read_pass, write_pass


def test_a_pass_says_what_was_written_and_nothing_else_is_one(key_file, monkeypatch):
    good = write_pass({"cast": 7})
    assert read_pass(good) == {"cast": 7}
    body, time, seal = good.split(".")
    changed = ("a" if seal[0] != "a" else "b") + seal[1:]  # the last letter has bits to spare
    for forged in (
        "",
        "x",
        body,
        f"{body}x.{time}.{seal}",
        f"{body}.{time}.{changed}",
        URLSafeTimedSerializer(b"another key", salt="station").dumps({"cast": 7}),
        URLSafeTimedSerializer(key_file.read_bytes(), salt="other").dumps({"cast": 7}),
    ):
        assert read_pass(forged) is None
    monkeypatch.setattr(passes, "LASTS", -1)
    assert read_pass(good) is None
    assert LASTS <= 60
