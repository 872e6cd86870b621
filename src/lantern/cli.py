"""The command line."""

from __future__ import annotations

import argparse
import json
import os
import signal
import sys
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path

from lantern import __version__
from lantern.client import command
from lantern.exchange.designs import add_command as add_design
from lantern.station.terminal import add_commands


def _demo(arguments: argparse.Namespace) -> int:
    from lantern.host.demo import Demo, Settings
    from lantern.host.setup import SetupFailed, say

    try:
        settings = Settings(
            arguments.host,
            arguments.port,
            arguments.desk_port,
            fresh=arguments.fresh,
            empty=arguments.empty,
        )
        return Demo(settings).run()
    except SetupFailed as error:
        say(f"\n{error}")
        return 2


def _serve(arguments: argparse.Namespace) -> int:
    def work() -> int:
        from lantern.host.serve import Serve
        from lantern.host.settings import load

        return Serve(load(arguments.config)).run()

    return _with_settings(arguments, work)


def _backup(arguments: argparse.Namespace) -> int:
    def work() -> int:
        from lantern.host.backing import backup, url_at_hand
        from lantern.host.settings import load
        from lantern.host.setup import say
        from lantern.host.state import KEY

        with url_at_hand(load(arguments.config).database) as url:
            made = backup(Path(arguments.file), url, KEY)
        say(f"{arguments.file} holds all of this Lantern ({made.version}).")
        say("The key of its secrets is in it: keep it safe.")
        return 0

    return _with_settings(arguments, work)


def _restore(arguments: argparse.Namespace) -> int:
    def work() -> int:
        from lantern.host.backing import restore
        from lantern.host.settings import load
        from lantern.host.setup import say

        database = load(arguments.config).database
        made, aside = restore(Path(arguments.file), database, replace=arguments.replace)
        say(f"What {arguments.file} holds of {made.made_at} is in place (Lantern {made.version}).")
        for old in aside:
            say(f"What was there before lies in {old}.")
        return 0

    return _with_settings(arguments, work)


def _upgrade(arguments: argparse.Namespace) -> int:
    def work() -> int:
        from lantern.host.settings import load
        from lantern.host.upgrading import upgrade

        kept = Path(arguments.backup) if arguments.backup else None
        return upgrade(
            load(arguments.config), check=arguments.check, kept=kept, careless=arguments.no_backup
        )

    return _with_settings(arguments, work)


def _with_settings(arguments: argparse.Namespace, work: Callable[[], int]) -> int:
    """Do what needs settings; the data folder that they name holds before anything is looked at."""
    from lantern.host.place import SetupFailed, take

    try:
        take(arguments.config)
        return work()
    except SetupFailed as error:
        print(error, file=sys.stderr)
        return 2


def _stop(arguments: argparse.Namespace) -> int:
    def work() -> int:
        from lantern.host.state import stop

        return stop()

    return _with_settings(arguments, work)


def _status(arguments: argparse.Namespace) -> int:
    def work() -> int:
        from lantern.host.state import status

        return status()

    return _with_settings(arguments, work)


def _test(arguments: argparse.Namespace) -> int:
    from lantern.host.checks import run_changed, run_checks

    if arguments.changed:
        return run_changed(arguments.rest)
    return run_checks(arguments.part, arguments.rest)


def _run(arguments: argparse.Namespace) -> int:
    if arguments.server or arguments.plan:
        return command.run(arguments)
    if not arguments.test:
        print("Say which test, or --server and --plan.", file=sys.stderr)
        return 2
    from lantern.host.running import run_test

    return run_test(arguments.test, arguments.rows, arguments.junit, arguments.json)


def _client(arguments: argparse.Namespace) -> int:
    from lantern.client.packing import packed

    file = Path(arguments.file)
    file.write_bytes(packed())
    file.chmod(0o755)
    return 0


def _wheel(arguments: argparse.Namespace) -> int:
    from lantern.host.wheel import build

    return _with_settings(argparse.Namespace(config=None), lambda: build(Path(arguments.folder)))


def _bench(arguments: argparse.Namespace) -> int:
    from lantern.host.checks import run_bench

    return run_bench(arguments.name, arguments.rest)


def _station(arguments: argparse.Namespace) -> int:
    if arguments.join:
        from lantern.host.joining import Asked, run_joined

        return run_joined(
            Asked(
                address=arguments.join,
                token=arguments.token or os.environ.get("LANTERN_JOIN_TOKEN", ""),
                name=arguments.name,
                places=arguments.places,
                folder=Path(arguments.folder),
                in_clear=arguments.in_clear,
            )
        )

    def work() -> int:
        from lantern.host.running import run_station

        return run_station()

    return _with_settings(arguments, work)


def _export(arguments: argparse.Namespace) -> int:
    from lantern.host.projects import export_project

    return export_project(arguments.folder)


def _import(arguments: argparse.Namespace) -> int:
    from lantern.host.projects import import_project

    return import_project(arguments.folder, dry=arguments.dry_run)


def _openapi(arguments: argparse.Namespace) -> int:
    """Write the OpenAPI document; needs no database."""
    from lantern.store.vault import make_key
    from lantern.web.app import create_app

    with tempfile.TemporaryDirectory() as folder:
        key = Path(folder) / "key"
        make_key(key)
        app = create_app("postgresql://nobody@127.0.0.1:1/none", str(key))
    Path(arguments.file).write_text(json.dumps(app.api_doc, indent=1), encoding="utf-8")
    return 0


def parser() -> argparse.ArgumentParser:
    """Return the parser of the command line."""
    main = argparse.ArgumentParser(
        prog="./lantern",
        description="Record, feed, run and debug automated UI tests, and review the results.",
    )
    main.add_argument("--version", action="version", version=f"Lantern {__version__}")
    commands = main.add_subparsers(dest="command", required=True, metavar="COMMAND")

    demo = commands.add_parser("demo", help="start everything, with the sample application")
    demo.add_argument("--port", type=int, default=8090, help="the web port (default 8090)")
    demo.add_argument(
        "--desk-port", type=int, default=8190, help="the sample application's (default 8190)"
    )
    demo.add_argument("--host", default="127.0.0.1", help="where to listen (default 127.0.0.1)")
    demo.add_argument("--fresh", action="store_true", help="start over with new data")
    demo.add_argument("--empty", action="store_true", help="start without the sample project")
    demo.set_defaults(work=_demo)

    serve = commands.add_parser("serve", help="start Lantern for real use, without sample data")
    serve.set_defaults(work=_serve)
    backup = commands.add_parser("backup", help="write all that Lantern keeps into one file")
    backup.add_argument("file", help="such as lantern-2026-11-27.tar")
    backup.set_defaults(work=_backup)
    restore = commands.add_parser("restore", help="make this Lantern what such a file holds")
    restore.add_argument("file")
    restore.add_argument(
        "--replace", action="store_true", help="put aside what is there already, or write over it"
    )
    restore.set_defaults(work=_restore)
    upgrade = commands.add_parser(
        "upgrade", help="bring the database to this release: checked, backed up, done"
    )
    upgrade.add_argument("--check", action="store_true", help="only say what would be done")
    upgrade.add_argument("--backup", help="where the backup is kept, else in the data folder")
    upgrade.add_argument("--no-backup", action="store_true", help="keep none")
    upgrade.set_defaults(work=_upgrade)
    stop = commands.add_parser("stop", help="end a running demo from another terminal")
    stop.set_defaults(work=_stop)
    status = commands.add_parser("status", help="say what runs")
    status.set_defaults(work=_status)

    test = commands.add_parser("test", help="check everything, or a part")
    test.add_argument(
        "part", nargs="?", default="all", help="all, or lint, types, unit, core, api, station, ui …"
    )
    test.add_argument(
        "--changed", action="store_true", help="what differs from the last commit concerns"
    )
    test.add_argument("rest", nargs=argparse.REMAINDER, help="passed on to pytest")
    test.set_defaults(work=_test)

    run = commands.add_parser(
        "run",
        help="run a test here, or a plan on a Lantern elsewhere: exit 0 all passed, 1 something "
        "failed, 2 could not run, 3 unsteady (with --unsteady)",
    )
    run.add_argument("test", nargs="?", help="the test's name or number")
    command.add_arguments(run)
    run.add_argument(
        "--rows",
        default="all",
        help="all, ticked, 3, 2-5, 4-, 1,3,6-8, “where clay = Raku” or “failed of 12”",
    )
    run.add_argument("--junit", help="write JUnit XML to this file")
    run.add_argument("--json", help="write the results as JSON to this file")
    run.set_defaults(work=_run)

    client = commands.add_parser("client", help="write the client of pipelines as one file")
    client.add_argument("file", help="such as lantern-client.pyz")
    client.set_defaults(work=_client)

    wheel = commands.add_parser("wheel", help="build the package that pip installs")
    wheel.add_argument("folder", help="where the .whl and its locked requirements are put")
    wheel.set_defaults(work=_wheel)

    bench = commands.add_parser(
        "bench",
        help="measure something: one of the modules of bench/, such as yard",
    )
    bench.add_argument("name")
    bench.add_argument("rest", nargs=argparse.REMAINDER)
    bench.set_defaults(work=_bench)

    station = commands.add_parser("station", help="start one more station for a running Lantern")
    station.add_argument(
        "--join", metavar="ADDRESS", help="be a station of a Lantern elsewhere, over its address"
    )
    station.add_argument(
        "--token", help="the token to join with, the first time; better by LANTERN_JOIN_TOKEN"
    )
    station.add_argument("--name", help="what it is called (default: the machine's name)")
    station.add_argument("--places", type=int, default=2, help="rows at once (default 2)")
    station.add_argument(
        "--folder", default="lantern-station", help="where it keeps who it is (lantern-station)"
    )
    station.add_argument(
        "--in-clear", action="store_true", help="join over http:// although others can read it"
    )
    station.set_defaults(work=_station)
    for one in (serve, backup, restore, upgrade, stop, status, station):
        one.add_argument("--config", help="a file of settings in TOML; see the manual")

    export = commands.add_parser("export", help="write tests, flows, pages and tables as text")
    export.add_argument("folder")
    export.set_defaults(work=_export)
    take_in = commands.add_parser(
        "import", help="take such a folder in: exit 0 done, 1 something in it is wrong, 2 could not"
    )
    take_in.add_argument("folder")
    take_in.add_argument("--dry-run", action="store_true", help="only say what would change")
    take_in.set_defaults(work=_import)

    add_commands(commands)
    add_design(commands)

    openapi = commands.add_parser("openapi", help="write the API's OpenAPI document to a file")
    openapi.add_argument("file")
    openapi.set_defaults(work=_openapi)
    return main


def _end(number: int, _frame: object) -> None:
    sys.exit(128 + number)


def main(arguments: Sequence[str] | None = None) -> int:
    """Run a command; returns the exit code."""
    chosen = parser().parse_args(arguments)
    os.environ.setdefault("PYTHONDONTWRITEBYTECODE", "1")
    for number in (signal.SIGTERM, signal.SIGHUP):  # so that what a command opened is closed
        signal.signal(number, _end)
    return int(chosen.work(chosen))


def entry() -> None:
    """Run the command of an installed Lantern."""
    sys.exit(main())


if __name__ == "__main__":
    entry()
