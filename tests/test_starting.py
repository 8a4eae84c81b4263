"""Workers that can't start: three tries each, then words, whatever work it was."""

from __future__ import annotations

import asyncio
import multiprocessing
import os
import sys
from collections.abc import Iterator
from multiprocessing import popen_spawn_posix
from pathlib import Path

import pytest

from cuejar.core.book.files import book_from
from cuejar.demo.load import demo_book
from cuejar.media import workers
from cuejar.media.workers import Workers, WorkFailed
from cuejar.nights import Task, Work, results
from cuejar.starting import CANNOT_START, TRIES, NoWorkers, can_start


@pytest.fixture(params=["it ends at once", "it is blocked"])
def tries(request: pytest.FixtureRequest, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    """Workers don't start here; the file has a line for each try."""
    told, program = tmp_path / "tries", tmp_path / "python"
    if request.param == "it ends at once":
        program.write_text(
            f'#!/bin/sh\ncase "$*" in *spawn_main*) echo >> {told}; exit 1;; esac\nexec {sys.executable} "$@"\n'
        )
        program.chmod(0o755)
        multiprocessing.set_executable(str(program))
    else:

        def launch(*_: object) -> None:
            with told.open("a") as out:
                out.write("\n")
            raise PermissionError(13, "blocked by a scanner")

        monkeypatch.setattr(popen_spawn_posix.Popen, "_launch", launch)
    yield told
    multiprocessing.set_executable(sys.executable)


def test_a_rehearsal_tries_three_times(tries: Path) -> None:
    with pytest.raises(NoWorkers, match="can’t start on this computer"):
        list(results(Task([book_from(demo_book())], "friday"), [Work(0, 1)], processes=1))
    assert tries.read_text() == "\n" * TRIES


def test_media_and_speech_say_so_and_do_not_wait_for_ever(
    tries: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(workers, "SLOW_S", 0.5)
    pool = Workers(tmp_path / "progress", 1)

    async def work() -> None:
        with pytest.raises(WorkFailed) as failed:
            async with asyncio.timeout(60):
                await pool.apart("reading", "the poster", 30, os.getpid)
        assert failed.value.why == "start"

    asyncio.run(work())
    assert [(job.state, job.problem) for job in pool.jobs] == [("failed", CANNOT_START)]
    assert tries.read_text().count("\n") <= TRIES + 1, "the pool's own and three more"
    multiprocessing.set_executable(sys.executable)
    monkeypatch.undo()
    assert asyncio.run(pool.apart("reading", "the poster", 60, os.getpid)) != os.getpid(), "it recovers"
    pool.close()


def test_a_worker_does_not_start_the_program_again() -> None:
    """What is packed wrongly starts itself as its own worker, which starts itself…"""
    context = multiprocessing.get_context("spawn")
    process = context.Process(target=can_start)
    process.start()
    process.join(60)
    assert process.exitcode == 1
