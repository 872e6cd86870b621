"""What the tests share: a private PostgreSQL, fresh databases, the Kiln Desk."""

import os
import tempfile
import uuid
from pathlib import Path

import psycopg
import pytest
from hypothesis import settings

from lantern.demo.data import load_demo
from lantern.host.postgres import Cluster
from lantern.store.database import Database
from lantern.store.migrating import migrate
from lantern.store.vault import Vault, make_key

# A busy machine is no failure: what is slow shows in bench/, not in tests.
settings.register_profile("lantern", deadline=None)
settings.load_profile("lantern")


@pytest.fixture(scope="session")
def cluster(tmp_path_factory):
    """A private PostgreSQL for this test session, without the care that real data gets."""
    folder = Path("/var/tmp") / f"lantern-tests-{uuid.uuid4().hex[:8]}"
    cluster = Cluster(folder, careless=True)
    cluster.start()
    cluster.create_database("template_lantern")
    template = Database(cluster.url_of("template_lantern"))
    migrate(template)
    template.close()
    yield cluster
    cluster.remove()


@pytest.fixture(scope="session")
def key_file():
    """A key where the account that does the work can read it, as it can where Lantern is set up."""
    with tempfile.TemporaryDirectory(prefix="lantern-key-", dir="/var/tmp") as folder:
        os.chmod(folder, 0o711)
        path = Path(folder) / "secret.key"
        make_key(path)
        os.environ["LANTERN_KEY_FILE"] = str(path)
        yield path


@pytest.fixture(scope="session")
def make_database(cluster, key_file):
    """Returns a function that makes a fresh, migrated database and gives its address."""

    def make(template="template_lantern"):
        name = f"t_{uuid.uuid4().hex[:10]}"
        with psycopg.connect(cluster.url_of("postgres"), autocommit=True) as connection:
            connection.execute(f"CREATE DATABASE {name} TEMPLATE {template}")
        return cluster.url_of(name)

    return make


@pytest.fixture(scope="session")
def demo_template(make_database):
    """The name of a database that holds the demo, to be copied."""
    database = Database(make_database())
    with database.session() as session:
        load_demo(session, Vault(), "http://127.0.0.1:8190")
    database.close()
    return database.url.rsplit("/", 1)[-1].split("?")[0]


@pytest.fixture
def database(make_database, demo_template):
    """A fresh database with the demo's accounts, environment and tests."""
    database = Database(make_database(demo_template))
    yield database
    database.close()
