"""The command line: the headless contract, and the commands that serve, migrate and load the demo."""

from __future__ import annotations

import argparse
import os
import sys
from pathlib import Path
from typing import Any

import orjson

from .core.errors import CoreError

EXIT_BAD_INPUT = 2


def say(share: float, what: str) -> None:
    """Progress to the error stream, so that stdout stays one document."""
    print(f"{share:4.0%} {what}", file=sys.stderr, flush=True)


def _json_or_name(given: str | None) -> str | dict[str, Any] | None:
    if given is None or not given.endswith(".json"):
        return given
    try:
        read = orjson.loads(Path(given).read_bytes())
    except orjson.JSONDecodeError as reason:
        raise CoreError("bad-json", f"{given} is not JSON: {reason}.") from reason
    if not isinstance(read, dict):
        raise CoreError("bad-json", f"{given} does not hold a JSON object.")
    return read


def _counts(text: str) -> list[int]:
    """Counts with commas between."""
    return [int(part) for part in text.split(",")]


def _parser() -> argparse.ArgumentParser:
    top = argparse.ArgumentParser(
        "tenugui",
        description="Plans prints of miniatures and figurines. Commands below need no server and no database.",
    )
    commands = top.add_subparsers(dest="command", required=True)

    def command(name: str, text: str, printer: bool = True) -> argparse.ArgumentParser:
        sub = commands.add_parser(name, help=text, description=text)
        sub.add_argument("file", metavar="FILE", help="STL, OBJ, PLY, 3MF, glTF, or a ZIP of these")
        sub.add_argument("--json", action="store_true", help="print one JSON document")
        sub.add_argument("--unit", choices=["mm", "cm", "m", "in"], default="mm", help="unit of the file's numbers")
        if printer:
            sub.add_argument("--printer", required=True, help="a preset (heron, kestrel) or a JSON file")
            sub.add_argument("--material", help="a preset or a JSON file")
            sub.add_argument(
                "--up",
                default="auto",
                metavar="{x,y,z,-x,-y,-z,auto}",
                help="which way of the file the figure stands (auto: as it looks)",
            )
        return sub

    health = command("health", "What the file holds and what is wrong with it.", printer=False)
    health.add_argument(
        "--repair", metavar="OUT", help="write a repaired copy (STL, OBJ, PLY or 3MF) and say what was changed"
    )
    health.add_argument("--unite", action="store_true", help="with --repair: make one surface of overlapping shells")
    health.add_argument(
        "--remesh", action="store_true", help="with --repair: as the last resort, a new surface around the inside"
    )
    proof = command("proof", "Read every layer and list the hazards.")
    proof.add_argument("--layer-height", type=float)
    placed = proof.add_mutually_exclusive_group()
    placed.add_argument("--as-is", action="store_true", help="keep the file's height above the plate")
    placed.add_argument("--drop", action="store_true", help="lowest point onto the plate (default)")
    proof.add_argument("--supports", choices=["none", "auto"], default="none")
    proof.add_argument("--marks")
    pose = command("pose", "Which way up: a few poses that no other beats.")
    pose.add_argument("--marks")
    pose.add_argument("--count", type=int, default=4)
    hollow = command("hollow", "Cut out what lies deeper than a wall, and open it.", printer=False)
    hollow.add_argument("--wall", type=float, required=True, help="mm")
    hollow.add_argument("--lattice", type=float, metavar="PITCH", help="struts across the inside, so many mm apart")
    hollow.add_argument("--holes", default="auto", metavar="{auto,none,HOLES.json}")
    hollow.add_argument("--out", help="write the hollow figure (STL, OBJ, PLY or 3MF)")
    hollow.add_argument("--plugs", metavar="OUT", help="countersink the holes and write a plug for each")
    supports = command("supports", "Place supports and prove them.")
    supports.add_argument("--marks")
    supports.add_argument("--risk", type=float)
    supports.add_argument("--style", choices=["pillars", "trees", "mixed", "blocks", "areas"], default="pillars")
    supports.add_argument("--layer-height", type=float)
    supports.add_argument("--out")
    layers = command("layers", "Layer heights side by side.")
    layers.add_argument("--marks")
    layers.add_argument("--heights", help="comma-separated, mm")
    judge = command("judge", "What people look at: up, front, faces, and the importance of every triangle.")
    judge.add_argument("--height", type=float, help="scale the figure to this height in mm first")
    judge.add_argument("--out", metavar="DIR", help="write importance.npy, a value a triangle of the file")
    plan = command("plan", "The whole chain with recommended choices.")
    plan.add_argument("--height", type=float, help="scale the figure to this height in mm first")
    plan.add_argument("--marks")
    plan.add_argument("--out", default=".")
    series = commands.add_parser("series", help="Plan a series of settings, or read its results.")
    series.add_argument("file", metavar="SPEC.json")
    series.add_argument("--results", metavar="RESULTS.csv", help="one row a specimen; columns: factors and responses")
    learn = commands.add_parser("learn", help="What a log of prints says of a machine.")
    learn.add_argument("file", metavar="RUNS.json")
    week = commands.add_parser("week", help="Plan a week of prints, and tell with which chance each date is kept.")
    week.add_argument("file", metavar="WEEK.json")
    week.add_argument("--seconds", type=float, default=2.0, help="how long the solver may look (default 2)")
    plate = commands.add_parser("plate", help="Lay proved plans on plates, and tell what they take and risk.")
    plate.add_argument("plans", metavar="PLAN.json", nargs="+")
    plate.add_argument("--printer", required=True, help="a preset or a JSON file")
    plate.add_argument("--copies", type=_counts, help="how many of each, as 1,3")
    plate.add_argument("--gap", type=float, default=2.0, help="mm between pieces (default 2)")
    plate.add_argument("--vat", type=float, help="ml that the vat holds")
    plate.add_argument("--stock", type=float, help="grams of material that are there")
    plate.add_argument("--out", metavar="DIR")
    finish = commands.add_parser("finish", help="What is done off the plate, and whether a failed print is mended.")
    finish.add_argument("file", metavar="PLAN.json")
    finish.add_argument("--by", metavar="TIME", help="when it must be ready, as 2026-12-05T18:00")
    finish.add_argument(
        "--school", choices=["before", "after"], default="before", help="supports off before or after curing"
    )
    finish.add_argument("--failed", metavar="CAUSE:LAYER", help="what failed, and from which layer on")
    night = commands.add_parser("night", help="Plan a folder of figures on some machines; a table in the morning.")
    night.add_argument("file", metavar="DIR")
    night.add_argument("--printer", dest="printers", action="append", required=True, help="a preset or a JSON file")
    night.add_argument("--material", dest="materials", action="append", help="one for each printer, in their order")
    night.add_argument("--height", type=float, help="scale every figure to this height in mm first")
    night.add_argument("--unit", choices=["mm", "cm", "m", "in"], default="mm", help="unit of the files' numbers")
    night.add_argument("--most-risk", type=float, default=1.0, help="what is riskier is not chosen, 0 to 1")
    night.add_argument("--most-hours", type=float, default=1e6, help="what takes longer is not chosen")
    night.add_argument("--workers", type=int, default=2, help="figures planned at a time (default 2)")
    night.add_argument("--scheduler", metavar="ADDRESS", help="plan on all workers of this Dask scheduler")
    night.add_argument("--again", action="store_true", help="plan also what was planned before")
    night.add_argument("--out", metavar="OUT", help="where the table is written (default DIR/night)")
    for one in (series, learn, week, plate, finish, night):
        one.add_argument("--json", action="store_true", help="one line, for machines")
    serve = commands.add_parser("serve", help="serve the application (the launcher calls this)")
    serve.add_argument("--demo", action="store_true")
    serve.add_argument("--port", type=int, default=8765)
    serve.add_argument(
        "--open", metavar="ADDRESS", help="serve to the house at this address of the computer: encrypted, with accounts"
    )
    serve.add_argument(
        "--invite-keeper",
        nargs="?",
        const="",
        metavar="NAME",
        help="with --open: print an invitation for one more keeper, or for a new password of NAME",
    )
    return top


def main(argv: list[str] | None = None) -> int:
    """Run one command; 0, or 2 with one clear line on stderr for bad input."""
    given = _parser().parse_args(argv)
    try:
        if given.command == "serve":
            from .serve import serve

            return serve(given.demo, given.port, open_at=given.open, invited=given.invite_keeper)
        from .headless import run, tell

        if given.command in ("series", "learn", "week", "plate", "finish"):
            from .headless_workshop import WORKSHOP

            if given.command == "plate":
                given.printer = _json_or_name(given.printer)
            tell(WORKSHOP[given.command](given).model_dump(), given.json)
            return 0
        if given.command == "night":
            from .headless_night import night

            given.printers = [_json_or_name(name) for name in given.printers]
            given.materials = given.materials and [_json_or_name(name) for name in given.materials]
            tell(night(given).model_dump(by_alias=True), given.json)
            return 0
        if given.command == "hollow":
            from .headless_hollow import hollowed

            tell(hollowed(given).model_dump(), given.json)
            return 0
        run(given, _json_or_name(getattr(given, "printer", None)), _json_or_name(getattr(given, "material", None)))
        return 0
    except CoreError as problem:
        print(f"tenugui: {problem}", file=sys.stderr)
    except FileNotFoundError as problem:
        print(f"tenugui: there is no file {problem.filename}.", file=sys.stderr)
    except (IsADirectoryError, PermissionError) as problem:
        print(f"tenugui: {problem.filename} cannot be read: {problem.strerror}.", file=sys.stderr)
    return EXIT_BAD_INPUT


if __name__ == "__main__":
    ended = main()
    sys.stdout.flush()
    sys.stderr.flush()
    # Everything is written and closed: to take a thousand modules down one by one takes half a second.
    os._exit(ended)
