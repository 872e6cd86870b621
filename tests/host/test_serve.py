"""Lantern for real use: settings, the first lead, backups, another machine, a newer release."""

import json
import os
import subprocess
import sys
import urllib.error
import urllib.request
import venv
from http.cookiejar import CookieJar

import pytest
from alembic import command as alembic
from sqlalchemy import text

from lantern.host.ports import free_port
from lantern.host.postgres import Cluster
from lantern.store.database import Database
from lantern.store.migrating import alembic_config, migrate
from tests.ui.pages import until

PASSWORD = "a kiln of one's own"


class Person:
    """Somebody at a browser, as far as the API goes."""

    def __init__(self, address):
        self.address, self.csrf = address, ""
        jar = urllib.request.HTTPCookieProcessor(CookieJar())
        self.opener = urllib.request.build_opener(jar)

    def ask(self, method, path, **body):
        data = json.dumps(body).encode() if body else None
        headers = {"Content-Type": "application/json", "X-CSRF-Token": self.csrf}
        request = urllib.request.Request(self.address + path, data, headers, method=method)
        try:
            with self.opener.open(request, timeout=10) as answer:
                return json.load(answer)
        except urllib.error.HTTPError as error:
            return json.load(error)

    def sign_in(self, username="ada"):
        self.csrf = self.ask("POST", "/api/sign-in", username=username, password=PASSWORD)["csrf"]
        return self


def settings(lantern, **more):
    """A file of settings; returns how commands are told of it."""
    port = free_port()
    values = {"port": port, "data": str(lantern.state), "stations": 0} | more
    lines = [f"{name} = {json.dumps(value)}" for name, value in values.items()]
    file = lantern.state / "lantern.toml"
    file.write_text("\n".join(lines))
    return ["--config", str(file)], f"http://127.0.0.1:{port}"


def up(lantern, told):
    lantern.serve(*told)
    return lantern.ready()


def first_lead(lantern, address):
    token = until(lambda: lantern.said().partition("/first#")[2].split("\n")[0], "its address")
    person = Person(address)
    person.csrf = person.ask(
        "POST", "/api/first", token=token, username="ada", name="Ada Brook", password=PASSWORD
    )["csrf"]
    return person, token


def down(lantern, told):
    assert lantern.run("stop", *told).returncode == 0


def fill(person):
    """An environment with a secret, and a test whose run waits for a station."""
    place = person.ask("POST", "/api/environments", name="Shop", address="http://127.0.0.1:9")
    path = f"/api/environments/{place['id']}/secrets"
    person.ask("PUT", path, name="door", value="a secret of the shop")
    test = person.ask("POST", "/api/tests", name="Open the shop", environment=place["id"])
    step = {"action": "open", "inputs": {"address": "/"}}
    edit = {"do": "insert", "steps": [step]}
    edited = person.ask("POST", f"/api/tests/{test['id']}/edits", base=test["version"], edit=edit)
    assert edited["steps"], edited
    run = person.ask("POST", f"/api/tests/{test['id']}/runs", rows="all")
    assert run["run"]["state"] == "queued"


def test_the_first_lead_comes_in_once_and_a_backup_makes_another_lantern_of_an_empty_machine(
    lantern, elsewhere
):
    told, address = settings(lantern)
    assert up(lantern, told) == address
    person, token = first_lead(lantern, address)
    again = Person(address).ask(
        "POST", "/api/first", token=token, username="eve", name="Eve", password=PASSWORD
    )
    assert again["code"] == "not_invited"
    fill(person)

    # While it runs, with a run that waits.
    file = lantern.state / "kept.tar"
    made = lantern.run("backup", str(file), *told)
    assert made.returncode == 0, made.stderr
    assert file.stat().st_mode & 0o077 == 0
    assert lantern.run("restore", str(file), *told).returncode == 2  # it runs
    person.ask("POST", "/api/environments", name="Later", address="http://127.0.0.1:9")
    down(lantern, told)

    # On an empty machine.
    there, address = settings(elsewhere)
    restored = elsewhere.run("restore", str(file), *there)
    assert restored.returncode == 0, restored.stderr
    assert up(elsewhere, there) == address
    assert "/first#" not in elsewhere.said()
    person = Person(address).sign_in()
    (place,) = person.ask("GET", "/api/environments")["environments"]
    assert (place["name"], place["secrets"]) == ("Shop", ["door"])
    assert [one["state"] for one in person.ask("GET", "/api/runs")["runs"]] == ["queued"]
    down(elsewhere, there)
    trial = elsewhere.run("upgrade", "--check", *there)
    assert "opens all 1 secrets" in trial.stderr

    # Where there are data, they are put aside, and only if asked.
    refused = lantern.run("restore", str(file), *told)
    assert (refused.returncode, "--replace" in refused.stderr) == (2, True)
    replaced = lantern.run("restore", str(file), "--replace", *told)
    assert replaced.returncode == 0, replaced.stderr
    assert list(lantern.state.glob("postgres.before-*"))
    person = Person(up(lantern, told)).sign_in()
    assert len(person.ask("GET", "/api/environments")["environments"]) == 1


def test_a_file_that_is_no_whole_backup_changes_nothing(lantern):
    told, _ = settings(lantern)
    up(lantern, told)
    down(lantern, told)
    file = lantern.state / "kept.tar"
    assert lantern.run("backup", str(file), *told).returncode == 0
    data = file.read_bytes()
    for wrong in (b"no archive", data[: len(data) // 2], data.replace(b"PGDMP", b"PGDMq", 1)):
        file.write_bytes(wrong)
        refused = lantern.run("restore", str(file), "--replace", *told)
        assert refused.returncode == 2
        assert "no backup" in refused.stderr or "damaged" in refused.stderr
    assert not list(lantern.state.glob("postgres.before-*"))
    assert not list(lantern.state.glob("postgres-*"))
    up(lantern, told)


def revision(database):
    with database.engine.connect() as connection:
        return connection.execute(text("SELECT version_num FROM alembic_version")).scalar_one()


def test_a_newer_release_is_tried_backed_up_and_then_done(lantern):
    told, _ = settings(lantern)
    place = lantern.state / "postgres"

    def at(work):
        cluster = Cluster(place)
        cluster.start()
        database = Database(cluster.url)
        try:
            return work(database)
        finally:
            database.close()
            cluster.stop()

    def make_older(database):
        migrate(database)
        with database.engine.begin() as connection:
            alembic.downgrade(alembic_config(connection), "0019")

    at(make_older)
    up_key(lantern, told)
    lantern.serve(*told).wait(60)
    assert "Run lantern upgrade" in lantern.said()

    looked = lantern.run("upgrade", "--check", *told)
    assert looked.returncode == 0, looked.stderr
    assert "0020, 0021" in looked.stderr
    assert at(revision) == "0019"
    done = lantern.run("upgrade", *told)
    assert done.returncode == 0, done.stderr
    (kept,) = (lantern.state / "backups").glob("before-*.tar")
    assert kept.stat().st_size > 10_000
    assert "Nothing is missing" in lantern.run("upgrade", *told).stderr

    def from_the_future(database):
        with database.engine.begin() as connection:
            connection.execute(text("UPDATE alembic_version SET version_num = '9999'"))

    at(from_the_future)
    refused = lantern.run("upgrade", *told)
    assert (refused.returncode, "newer Lantern" in refused.stderr) == (1, True)
    lantern.serve(*told).wait(60)
    assert "newer Lantern" in lantern.said()


def up_key(lantern, told):
    """A start makes the key, and refuses to go on."""
    lantern.serve(*told).wait(60)
    assert (lantern.state / "secret.key").exists()


@pytest.mark.parametrize(
    ("content", "said"),
    [
        ("port = 99999", "port: "),
        ('colour = "red"', "colour: there is no such setting"),
        ('database = "mysql://x"', "begins with postgresql://"),
        ("port = ", "can not be read"),
    ],
)
def test_settings_that_are_wrong_are_told_and_nothing_is_started(lantern, content, said):
    file = lantern.state / "lantern.toml"
    file.write_text(content)
    refused = lantern.run("serve", "--config", str(file))
    assert (refused.returncode, said in refused.stderr) == (2, True), refused.stderr
    assert not (lantern.state / "postgres").exists()


def test_the_environment_goes_before_the_file_and_a_port_in_use_is_no_other(lantern):
    told, address = settings(lantern)
    up(lantern, told)
    other = lantern.state / "other"
    lantern.env |= {"LANTERN_DATA": str(other)}
    refused = lantern.run("serve", *told)
    assert refused.returncode == 2
    assert f"Port {address.rsplit(':')[-1]} of 127.0.0.1 is in use" in refused.stderr


def test_a_database_of_ones_own_is_backed_up_and_restored_as_well(
    lantern, elsewhere, make_database
):
    url = make_database("template0")
    told, address = settings(lantern, database=url)
    up(lantern, told)
    person, _ = first_lead(lantern, address)
    fill(person)
    file = lantern.state / "kept.tar"
    assert lantern.run("backup", str(file), *told).returncode == 0
    down(lantern, told)
    assert not (lantern.state / "postgres").exists()
    there, address = settings(elsewhere, database=make_database("template0"))
    assert elsewhere.run("restore", str(file), *there).returncode == 0
    up(elsewhere, there)
    assert Person(address).sign_in().ask("GET", "/api/environments")["environments"]
    down(elsewhere, there)
    assert elsewhere.run("restore", str(file), *there).returncode == 2
    assert elsewhere.run("restore", str(file), "--replace", *there).returncode == 0


def test_the_package_that_pip_installs_runs_without_the_sources(lantern):
    folder = lantern.state / "wheel"
    built = lantern.run("wheel", str(folder))
    assert built.returncode == 0, built.stderr
    (wheel,) = folder.glob("*.whl")
    home = lantern.state / "venv"
    venv.create(home, with_pip=True)
    pip = [home / "bin" / "pip", "install", "--quiet", "--no-deps", "--no-index", wheel]
    subprocess.run(pip, check=True)
    # What it rests on is that of this environment: only the sources are not there.
    here = next(one for one in sys.path if one.endswith("site-packages"))
    (site,) = (home / "lib").glob("python*/site-packages")
    (site / "here.pth").write_text(here)
    told, address = settings(lantern)
    lantern.env.pop("PYTHONPATH")
    lantern.serve(*told, program=home / "bin" / "lantern")
    assert lantern.ready() == address
    page = urllib.request.urlopen(address).read().decode()
    asset = page.partition('src="')[2].partition('"')[0]
    assert urllib.request.urlopen(address + asset).status == 200
    parts = json.loads((lantern.state / "running.json").read_text())["children"]
    assert {os.readlink(f"/proc/{one}/cwd") for one in parts.values()} == {"/"}
    status = subprocess.run(
        [home / "bin" / "lantern", "status", *told], env=lantern.env, capture_output=True, text=True
    )
    assert address in status.stderr
