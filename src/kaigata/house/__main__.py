"""``python -m kaigata.house``: start, test, lint, golden, shots, worker, loops."""

from __future__ import annotations

import argparse
import sys

from kaigata.house.trouble import Trouble


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="kaigata")
    words = parser.add_subparsers(dest="word", required=True)
    start = words.add_parser("start", help="Start server, worker and database.")
    start.add_argument("--port", type=int, default=8420, help="Port of the web server (8420).")
    start.add_argument("--no-demo", action="store_true", help="Do not load the demo order.")
    start.add_argument("--reset-demo", action="store_true", help="Begin the demo order afresh.")
    words.add_parser("worker", help="Run one more worker.").add_argument(
        "--database", help="Address of the database; otherwise the one of this folder."
    )
    test = words.add_parser("test", help="Run every kind of test.")
    test.add_argument(
        "only", nargs=argparse.REMAINDER, help="Words for pytest; then only the Python tests run."
    )
    words.add_parser("lint", help="Run the house rules alone.")
    words.add_parser("golden", help="Write again what is generated: schema and client types.")
    words.add_parser("loops", help="Build the compiled loops where they are not.")
    words.add_parser("shots", help="Make docs/screenshots anew from the demo order.")
    return parser


def _run(arguments: list[str]) -> int:
    asked = _parser().parse_args(arguments)
    if asked.word == "start":
        from kaigata.house.start import start

        return start(port=asked.port, demo=not asked.no_demo, reset=asked.reset_demo)
    if asked.word == "worker":
        from kaigata.house.start import run_worker

        return run_worker(asked.database)
    if asked.word == "test":
        from kaigata.house.testing import test

        return test(asked.only)
    if asked.word in ("lint", "golden"):
        from kaigata.house import testing

        return testing.lint() if asked.word == "lint" else testing.golden()
    if asked.word == "loops":
        from kaigata.house.loops import build_loops

        build_loops()
        return 0
    from kaigata.house.shots import shots

    return shots()


if __name__ == "__main__":
    try:
        sys.exit(_run(sys.argv[1:]))
    except Trouble as trouble:
        print(f"kaigata: {trouble}", file=sys.stderr)
        sys.exit(1)
    except KeyboardInterrupt:
        sys.exit(130)
