"""Rehearsing scripted nights."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from cuejar.cli.base import Data, app, escaped, fail

if TYPE_CHECKING:
    from cuejar.core.nights.tally import Result


def _read_script(path: Path, seed: int | None) -> Any:
    from cuejar.core.nights.scripts import script_from
    from cuejar.core.parts.base import BookError

    try:
        data = json.loads(path.read_text("utf-8"))
        if seed is not None and isinstance(data, dict):
            data["seed"] = seed
        return script_from(data)
    except OSError as error:
        fail(f"{path}: {os.strerror(error.errno or 0)}", 2)
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        fail(f"{path}: is not JSON: {error}", 2)
    except BookError as error:
        fail("\n".join(f"{path}: {problem}" for problem in error.problems), 2)


@app.command(name="rehearse")
def rehearse_command(
    scripts: Annotated[list[Path] | None, typer.Argument(help="Scripts to rehearse.")] = None,
    report_only: Annotated[bool, typer.Option("--report", help="Print the report instead.")] = False,
    as_json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
    beside: Annotated[bool, typer.Option("--beside", help="Write each output to SCRIPT.out.jsonl beside it.")] = False,
    seed: Annotated[int | None, typer.Option(help="Use this seed instead of the script’s.")] = None,
    against: Annotated[Path | None, typer.Option(help="A second book (.json or .zip) to compare with.")] = None,
    audience: Annotated[str, typer.Option(help="An audience of the book, by name, instead of a script.")] = "",
    book: Annotated[
        Path | None, typer.Option(help="With --audience: the book; without it that of the data folder.")
    ] = None,
    nights: Annotated[int, typer.Option(help="With --audience: how many nights.", min=1, max=200)] = 1,
    sweep: Annotated[str, typer.Option(help="With --audience: a setting over a range, lanes.yard.width=1..4.")] = "",
    data: Data = None,
) -> None:
    """Runs scripted nights on a virtual clock and prints every decision and order, one JSON object a line; or nights of an audience.

    \b
    Example: cuejar rehearse night.script.json
    Example: cuejar rehearse night.script.json --report --seed 7
    Example: cuejar rehearse night.script.json --against tomorrow.zip
    Example: cuejar rehearse --audience Friday --book halt.zip --nights 20
    Example: cuejar rehearse --audience Friday --sweep lanes.yard.width=1..4 --nights 10 --json
    """
    if audience:
        from cuejar.cli import audiences

        telling = audiences.told(audience, book, data, against, nights, sweep, as_json)
        for line in telling:
            typer.echo(line)
        return
    if not scripts:
        fail("Name a script, or an --audience.", 2)
    if against is not None:
        from cuejar.cli import audiences

        for path in scripts:
            for line in audiences.held_against(_read_script(path, seed), against, as_json):
                typer.echo(line)
        return
    _scripted(scripts, report_only, as_json, beside, seed)


def _scripted(scripts: list[Path], report_only: bool, as_json: bool, beside: bool, seed: int | None) -> None:
    from cuejar.core.engine.rehearsal import lines
    from cuejar.core.nights.scripts import rehearse, report

    read = [(path, _read_script(path, seed)) for path in scripts]
    for path, script in read:
        if as_json:
            text = json.dumps(report(script).json(), ensure_ascii=False)
        elif report_only:
            text = "\n".join(_told(report(script)))
        else:
            text = "\n".join(lines(rehearse(script)))
        if beside:
            out = path.with_name(path.name.removesuffix(".json") + ".out.jsonl")
            out.write_text(text + ("\n" if text else ""), "utf-8")
        elif text:
            if len(read) > 1:
                typer.echo(f"# {path}", err=True)
            typer.echo(text if report_only and not as_json else escaped(text))


def _told(result: Result) -> Iterator[str]:
    from cuejar.core.nights.compare import FIGURES
    from cuejar.core.nights.papers import told

    yield f"{result.length_s:g} s; at rest at the end: {'yes' if result.at_rest else 'NO'}"
    for figure, words in FIGURES.items():
        yield f"{words:42}{told(figure, getattr(result, figure))}"
    for reason, count in result.turned_away.items():
        yield f"refused: {reason} {count}"
    for lane, wait in result.waits_by_lane.items():
        yield f"lane {lane}: {wait.runs} runs, median wait {wait.median_s:g} s, 95th percentile {wait.p95_s:g} s"
    if result.spared_by_pauses:
        yield f"{result.spared_by_pauses} refunds avoided at a channel that can pause rewards"
