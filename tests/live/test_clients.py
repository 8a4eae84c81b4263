"""Clients generated from the OpenAPI by others' generators: complete, and able to do what Cue Jar's own pages do."""

from __future__ import annotations

import importlib
import io
import json
import shutil
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

from tests.running import Running, until, wav

WEB = Path(__file__).parents[2] / "web"
CUE = {
    "id": "kettle",
    "name": "Kettle",
    "beats": [{"id": "steam", "kind": "caption", "text": "Tea!", "length": {"s": 60}}],
}
BINARY = {"application/zip": "application/octet-stream", "application/x-ndjson": "text/plain"}
SEVEN = """
import createClient from 'openapi-fetch'
import type { paths } from './schema'

const [, , address, cue] = process.argv
const api = createClient<paths>({ baseUrl: address ?? '' })

function sure<T>(answer: { data?: T; error?: unknown }): T {
  if (answer.data === undefined) throw new Error(JSON.stringify(answer.error))
  return answer.data
}

const health = sure(await api.GET('/api/health'))
const path = { kind: 'cues' as const, thing: 'kettle' }
const put = sure(await api.PUT('/api/book/{kind}/{thing}', { params: { path }, body: { value: JSON.parse(cue ?? '') } }))
const { book } = sure(await api.GET('/api/book'))
const fired = sure(await api.POST('/api/cues/{cue_id}/fire', { params: { path: { cue_id: 'kettle' } }, body: { text: '' } }))
let lines: { verdict: string }[] = []
while (!lines.length) ({ lines } = sure(await api.GET('/api/ledger', { params: { query: { limit: 5 } } })))
const rested = sure(await api.POST('/api/all-to-rest'))
const refused = await api.POST('/api/cues/{cue_id}/fire', { params: { path: { cue_id: 'nothing' } }, body: { text: '' } })
console.log(
  JSON.stringify({
    ok: health.version,
    put: put.version,
    cues: book.cues.map((one) => one.name),
    fired: fired.verdict,
    lines: lines.map((line) => line.verdict),
    rested: rested.what,
    refused: (refused.error as { what: string } | undefined)?.what,
  }),
)
"""


def test_a_generated_python_client_does_eight_calls(
    running: Running, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "openapi.json").write_text(running.api.get("/api/openapi.json").text, "utf-8")
    (tmp_path / "config.json").write_text(json.dumps({"content_type_overrides": BINARY, "post_hooks": []}), "utf-8")
    made = subprocess.run(
        [
            Path(sys.executable).with_name("openapi-python-client"),
            *["generate", "--path", "openapi.json", "--meta", "none"],
            *["--config", "config.json", "--output-path", "halt_client", "--fail-on-warning"],
        ],
        cwd=tmp_path,
        capture_output=True,
        text=True,
        check=False,
    )
    assert made.returncode == 0, made.stdout + made.stderr
    monkeypatch.syspath_prepend(tmp_path)
    models, types = importlib.import_module("halt_client.models"), importlib.import_module("halt_client.types")
    client = importlib.import_module("halt_client.client").Client(base_url=str(running.api.base_url))

    def call(where: str, **asks: Any) -> Any:
        return importlib.import_module(f"halt_client.api.{where}").sync(client=client, **asks)

    assert call("health.app_health").version
    call(
        "book.book_put_part",
        kind=models.BookPutPartKind.CUES,
        thing="kettle",
        body=models.PartIn.from_dict({"value": CUE}),
    )
    cue = next(cue for cue in call("book.book_get_book").book.cues if cue.id == "kettle")
    assert cue.beats[0].text == "Tea!" and cue.beats[0].length.s == 60
    call("live.live_fire", cue_id="kettle", body=models.FireIn())
    until(lambda: call("live.live_holds") is not None and call("ledger.ledger_ledger").lines)
    assert call("ledger.ledger_ledger").lines[0].cue == "kettle"
    bell = types.File(payload=io.BytesIO(wav(0.2)), file_name="bell.wav", mime_type="audio/wav")
    assert call("media.media_add_media", body=models.BodyMediaAddMedia(files=[bell])).media[0].name == "bell"
    assert call("live.live_all_to_rest").what
    refused = importlib.import_module("halt_client.api.live.live_fire").sync_detailed(
        client=client, cue_id="nothing", body=models.FireIn()
    )
    assert refused.status_code == 404 and "nothing" in refused.parsed.what


def test_a_generated_typescript_client_does_seven_calls(running: Running, tmp_path: Path) -> None:
    # Where its packages are, and where nothing is stored.
    folder = WEB / "node_modules" / f".clients-{tmp_path.name}"
    folder.mkdir()
    try:
        (folder / "openapi.json").write_text(running.api.get("/api/openapi.json").text, "utf-8")
        (folder / "package.json").write_text('{"type": "module"}', "utf-8")
        (folder / "seven.ts").write_text(SEVEN, "utf-8")
        strict = [
            "--strict",
            "--target",
            "es2022",
            "--module",
            "esnext",
            "--moduleResolution",
            "bundler",
            "--types",
            "node",
        ]
        for command in (
            ["openapi-typescript", "openapi.json", "-o", "schema.ts"],
            ["tsc", *strict, "--outDir", ".", "seven.ts"],
        ):
            made = subprocess.run(
                [WEB / "node_modules/.bin" / command[0], *command[1:]],
                cwd=folder,
                capture_output=True,
                text=True,
                check=False,
            )
            assert made.returncode == 0, made.stdout + made.stderr
        address = str(running.api.base_url).rstrip("/")
        asked = ["node", "seven.js", address, json.dumps(CUE)]
        told = subprocess.run(asked, cwd=folder, capture_output=True, text=True, check=False)
        assert told.returncode == 0, told.stderr
        said = json.loads(told.stdout)
        assert said["ok"] and said["put"] > 0 and "Kettle" in said["cues"] and said["fired"] and said["rested"]
        assert said["lines"] == ["let_in"] and "nothing" in said["refused"]
    finally:
        shutil.rmtree(folder)
