"""A private PostgreSQL cluster on loopback, also for root, whom PostgreSQL refuses to serve."""

from __future__ import annotations

import hashlib
import os
import pwd
import shutil
import subprocess
import time
from collections.abc import Sequence
from pathlib import Path

import psycopg

from lantern.host.ports import free_port
from lantern.host.setup import SetupFailed, postgres_programs

NAME = "lantern"


class Cluster:
    """A cluster whose data lies in `folder`; `careless` gives up safety for speed, for tests."""

    def __init__(self, folder: Path, *, careless: bool = False) -> None:
        self.folder = folder
        self._careless = careless
        self._root = os.geteuid() == 0
        self.port = 0

    @property
    def url(self) -> str:
        """The address of Lantern's database in the cluster."""
        return self.url_of(NAME)

    def url_of(self, name: str) -> str:
        """The address of a database in the cluster."""
        return f"postgresql://postgres@127.0.0.1:{self.port}/{name}"

    def start(self) -> None:
        """Start the cluster, made first if need be; raises SetupFailed."""
        self._place()
        if not (self._data / "PG_VERSION").exists():
            self._make()
        self._stop_leftover()
        self.port = free_port()
        options = [
            f"-p {self.port}",
            "-c listen_addresses=127.0.0.1",
            f"-c unix_socket_directories={self.folder}",
            "-c max_connections=200",
        ]
        if self._careless:
            options += ["-c fsync=off", "-c synchronous_commit=off", "-c full_page_writes=off"]
        log = str(self.folder / "log")
        self._run(
            "pg_ctl", ["-D", str(self._data), "-w", "-l", log, "-o", " ".join(options), "start"]
        )
        self.create_database(NAME)

    def create_database(self, name: str) -> None:
        """Create a database unless it exists."""
        with psycopg.connect(self.url_of("postgres"), autocommit=True) as connection:
            there = connection.execute(
                "SELECT 1 FROM pg_database WHERE datname = %s", [name]
            ).fetchone()
            if not there:
                connection.execute(
                    psycopg.sql.SQL("CREATE DATABASE {}").format(psycopg.sql.Identifier(name))
                )

    def stop(self) -> None:
        """Stop the cluster if it runs."""
        if (self._data / "postmaster.pid").exists():
            try:
                self._run("pg_ctl", ["-D", str(self._data), "-w", "-m", "fast", "stop"])
            except SetupFailed:
                pass  # it is gone already

    def remove(self) -> None:
        """Stop the cluster and remove its data."""
        self._place()
        self.stop()
        shutil.rmtree(self.folder.resolve(), ignore_errors=True)
        if self.folder.is_symlink():
            self.folder.unlink()

    @property
    def _data(self) -> Path:
        return self.folder / "data"

    def _place(self) -> None:
        """Make the folder, where the user that runs PostgreSQL can reach it."""
        if not self.folder.exists():
            self.folder.parent.mkdir(parents=True, exist_ok=True)
            if self._root and not self._reachable(self.folder.parent):
                tag = hashlib.sha256(str(self.folder).encode()).hexdigest()[:10]
                elsewhere = Path("/var/lib/postgresql") / f"lantern-{tag}"
                elsewhere.mkdir(exist_ok=True)
                self.folder.unlink(missing_ok=True)
                self.folder.symlink_to(elsewhere)
            else:
                self.folder.mkdir(exist_ok=True)
        if self._root:
            account = pwd.getpwnam("postgres")
            os.chown(self.folder, account.pw_uid, account.pw_gid)
        self.folder.chmod(0o700)

    def _reachable(self, folder: Path) -> bool:
        command = ["runuser", "-u", "postgres", "--", "test", "-x", str(folder)]
        return subprocess.run(command, capture_output=True, check=False).returncode == 0

    def _make(self) -> None:
        shutil.rmtree(self._data, ignore_errors=True)
        options = ["-A", "trust", "-U", "postgres", "-E", "UTF8", "--locale=C.UTF-8"]
        self._run("initdb", ["-D", str(self._data), *options])

    def _stop_leftover(self) -> None:
        """Stop a server that an earlier start left behind."""
        status = self._call("pg_ctl", ["-D", str(self._data), "status"])
        if status.returncode == 0:
            self.stop()
            end = time.monotonic() + 10
            while (self._data / "postmaster.pid").exists() and time.monotonic() < end:
                time.sleep(0.1)

    def _call(self, program: str, arguments: Sequence[str]) -> subprocess.CompletedProcess[str]:
        folder = postgres_programs()
        if folder is None:
            raise SetupFailed("PostgreSQL is not installed: apt-get install postgresql")
        command = [str(folder / program), *arguments]
        if self._root:
            command = ["runuser", "-u", "postgres", "--", *command]
        # A file, not a pipe: the server inherits it and would keep a pipe open for ever.
        output = self.folder / "pg_ctl.out"
        with output.open("w") as file:
            result = subprocess.run(
                command, cwd="/", stdout=file, stderr=subprocess.STDOUT, text=True, check=False
            )
        result.stdout = output.read_text(errors="replace")
        return result

    def _run(self, program: str, arguments: Sequence[str]) -> None:
        result = self._call(program, arguments)
        if result.returncode != 0:
            log = self.folder / "log"
            tail = log.read_text(errors="replace").splitlines()[-8:] if log.exists() else []
            raise SetupFailed(f"{program} failed: {result.stdout.strip()}\n" + "\n".join(tail))
