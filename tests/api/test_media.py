"""The library over the API: pasted paths, replacing everywhere, trims and their effects, converting, stopping; many
cues at once.
"""

from __future__ import annotations

import sqlite3
import threading
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from pathlib import Path

from cuejar.demo.make import FILES
from cuejar.store.database import FILE
from tests.media.odd import write_clip, write_sound
from tests.running import Running, until, wav


def entry(running: Running, media_id: str) -> dict:
    return next(m for m in running.api.get("/api/media").json() if m["id"] == media_id)


def test_pasted_paths_and_what_is_missing_among_them(running: Running, tmp_path: Path) -> None:
    folder = tmp_path / "some sounds"
    folder.mkdir()
    write_sound(folder / "one.wav", "pcm_s16le", "wav", 0.5)
    write_sound(folder / "two.wav", "pcm_s16le", "wav", 0.7)
    (folder / "notes.txt").write_text("not a sound")
    bell = FILES / "poster-dusk.gif"
    text = f"\"{bell}\"\n\n  '{folder}'\n{tmp_path}/gone.png\nrelative.png\n"
    answer = running.api.post("/api/media/paths", json={"text": text}).json()
    assert sorted(m["name"] for m in answer["media"]) == ["one", "poster-dusk", "two"]
    refused = {Path(row["name"]).name: row["what"] for row in answer["refused"]}
    assert set(refused) == {"notes.txt", "gone.png", "relative.png"}
    assert "This file doesn’t exist" in refused["gone.png"]
    assert "Only PNG" in refused["notes.txt"]
    # Again: nothing is there twice.
    running.api.post("/api/media/paths", json={"text": text})
    names = [m["name"] for m in running.api.get("/api/media").json()]
    assert len(names) == len(set(names))


def test_a_trim_a_replacement_and_undo(running: Running, tmp_path: Path) -> None:
    sound = running.add_file("long.wav", write_sound(tmp_path / "a", "pcm_s16le", "wav", 4.0).read_bytes())
    beats = [{"id": "s", "kind": "sound", "media": {"file": sound}}]
    running.book(cues=[{"id": "trimmed", "name": "Trimmed", "beats": beats}])
    uses = running.api.post(f"/api/media/{sound}/trim-use", json={"from_s": 1, "to_s": 2.5}).json()
    assert uses == [{"cue": "Trimmed", "before_s": 4.0, "after_s": 1.5}]
    assert entry(running, sound)["trimmed_s"] == 4.0, "asking changes nothing"
    known = {**running.api.get("/api/book").json()["book"]["media"][-1], "trim": {"from_s": 1, "to_s": 2.5}}
    running.book(media=[known])
    assert entry(running, sound)["trimmed_s"] == 1.5
    running.api.post("/api/cues/trimmed/fire").raise_for_status()
    run = next(run for lane in running.state()["lanes"] for run in lane["running"] if run["cue"] == "trimmed")
    assert 1_400 <= run["until"] - run["started"] <= 1_600

    other = {"file": ("short.wav", write_sound(tmp_path / "b", "pcm_s16le", "wav", 0.8).read_bytes())}
    replaced = running.api.post(f"/api/media/{sound}/replace", files=other)
    assert replaced.status_code == 200
    now = entry(running, sound)
    assert (now["length_s"], now["trim"], now["used_by"]) == (0.8, None, ["Trimmed"])
    picture = {"file": ("p.gif", (FILES / "poster-dusk.gif").read_bytes())}
    no = running.api.post(f"/api/media/{sound}/replace", files=picture)
    assert no.status_code == 422 and "is used as a sound" in no.json()["what"]
    running.api.post("/api/book/undo")
    assert entry(running, sound)["length_s"] == 4.0


def test_convert_with_progress_and_stop(running: Running, tmp_path: Path) -> None:
    film = write_clip(tmp_path / "film", "mpeg4", "mp4", frames=30)
    media = running.add_file("film.mp4", film.read_bytes())
    assert entry(running, media)["plays"] == "nowhere"
    running.api.post(f"/api/media/{media}/convert", timeout=60).raise_for_status()
    after = entry(running, media)
    assert (after["plays"], after["format"], after["name"]) == ("everywhere", "webm", "film")
    assert any(job["what"] == "converting" and job["state"] == "done" for job in running.api.get("/api/jobs").json())

    long = write_clip(tmp_path / "long", "mpeg4", "mp4", frames=4_000, rate=25)
    media = running.add_file("long.mp4", long.read_bytes())
    answers: list = []
    work = threading.Thread(target=lambda: answers.append(running.api.post(f"/api/media/{media}/convert", timeout=90)))
    work.start()

    def at_work() -> dict | None:
        jobs = running.api.get("/api/jobs").json()
        return next((j for j in jobs if j["what"] == "converting" and j["state"] == "running" and j["share"] > 0), None)

    job = until(at_work)
    assert running.api.delete(f"/api/jobs/{job['id']}").status_code == 200
    work.join()
    assert answers[0].status_code == 422 and "stopped" in answers[0].json()["what"]
    assert entry(running, media)["plays"] == "nowhere", "the file stays as it was"
    assert running.api.delete(f"/api/jobs/{job['id']}").status_code == 404
    # And the workers still work.
    assert running.add_file("after.wav", write_sound(tmp_path / "c", "pcm_s16le", "wav", 0.6).read_bytes())


def test_many_cues_at_once_and_a_copy(running: Running) -> None:
    beats = [{"id": "c", "kind": "caption", "text": "hi", "length": {"s": 1}}]
    cues = [{"id": f"many-{n}", "name": f"Many {n}", "beats": beats, "calls": [{"kind": "follow"}]} for n in range(3)]
    running.book(lanes=[{"id": "side", "name": "Side"}], cues=cues)
    ids = ["many-0", "many-2"]
    done = running.api.post("/api/cues/many", json={"cues": ids, "on": False, "tag": "loud", "lane": "side"})
    assert done.status_code == 200
    book = {cue["id"]: cue for cue in running.api.get("/api/book").json()["book"]["cues"]}
    assert [(book[f"many-{n}"]["on"], book[f"many-{n}"]["tags"], book[f"many-{n}"]["lane"]) for n in range(3)] == [
        (False, ["loud"], "side"),
        (True, [], None),
        (False, ["loud"], "side"),
    ]
    running.api.post("/api/book/undo")
    assert running.api.get("/api/book").json()["book"]["cues"][-1]["on"]
    copied = running.api.post("/api/cues/many-1/copy").json()["cue"]
    assert copied["name"] == "Many 1 (copy)" and copied["beats"] == book["many-1"]["beats"] and not copied["calls"]
    assert running.api.post("/api/cues/many-1/copy").json()["cue"]["name"] == "Many 1 (copy 2)"
    assert running.api.post("/api/cues/many", json={"cues": ["nobody"]}).status_code == 404
    twice = {"cues": ["many-1-copy", "many-1-copy"], "remove": True}
    assert running.api.post("/api/cues/many", json=twice).raise_for_status().json()["what"] == ""
    assert [cue["id"] for cue in running.now["cues"]][-1] == "many-1-copy-2"
    call = {"kind": "chat", "match": "starts", "text": "!Tint"}
    heard = running.api.post("/api/cues/match", json={"calls": [call], "text": "!tint  sea green"}).json()
    assert heard == [{"matches": True, "text": "sea green"}]


def test_files_that_an_older_cue_jar_read_are_read_again_at_its_start(running: Running, tmp_path: Path) -> None:
    media = running.add_file("bell.wav", write_sound(tmp_path / "bell", "pcm_s16le", "wav", 1.3).read_bytes())
    lufs = entry(running, media)["lufs"]
    assert lufs is not None
    running.kill_server()
    with closing(sqlite3.connect(running.data / FILE)) as database, database:
        assert database.execute("update media set probed = probed - 1, lufs = null").rowcount == 1
    running.start_server()
    until(lambda: entry(running, media)["lufs"] == lufs)
    jobs = running.api.get("/api/jobs").json()
    assert [job["what"] for job in jobs if job["state"] == "done"] == ["measuring"]
    running.kill_server()
    running.start_server()
    running.in_step()
    assert "measuring" not in {job["what"] for job in running.api.get("/api/jobs").json()}, "once"


def test_what_is_dropped_at_once_is_one_edit(running: Running) -> None:
    """Three files and the cue that draws from them: each is one step back, and nothing of it is left behind."""
    before = running.api.get("/api/book").json()
    files = [("files", (f"Bell {number}.wav", wav(0.1 + number / 10))) for number in range(3)]
    added = running.api.post("/api/media", files=files, timeout=480).raise_for_status().json()
    assert running.api.get("/api/book").json()["undoes"] == "added 3 files"
    ids = [row["id"] for row in added["media"]]
    made = running.api.post("/api/cues/from-media", json={"media": ids, "name": "Bells", "one_of_them": True})
    assert made.raise_for_status().json()["version"] == added["version"] + 1
    assert [len(running.now[kind]) for kind in ("jars", "cues")] == [1, 1 + len(before["book"]["cues"])]
    running.api.post("/api/book/undo").raise_for_status()
    assert (
        running.now["jars"] == [] and running.now["cues"] == before["book"]["cues"] and len(running.now["media"]) == 3
    )
    running.api.post("/api/book/undo").raise_for_status()
    assert running.now == before["book"]


def test_edits_at_the_same_time_are_all_there(running: Running) -> None:
    """An edit changes the newest book, not one that was read before somebody else's."""
    rewards = [{"id": f"r{number}", "title": f"Reward {number}", "cost": 100} for number in range(8)]
    running.book(rewards=rewards)

    def tag(number: int) -> None:
        body = {"rewards": [f"r{number}"], "change": {"tag": "yard"}}
        running.api.post("/api/rewards/change", json=body).raise_for_status()

    with ThreadPoolExecutor(8) as at_once:
        list(at_once.map(tag, range(8)))
    assert [reward["tags"] for reward in running.now["rewards"]] == [["yard"]] * 8
    running.book(cues=[{"id": "whistle", "name": "Whistle"}])
    with ThreadPoolExecutor(8) as at_once:
        list(at_once.map(lambda _: running.api.post("/api/cues/whistle/copy").raise_for_status(), range(8)))
    names = [cue["name"] for cue in running.now["cues"] if cue["name"].startswith("Whistle (copy")]
    assert len(names) == len(set(names)) == 8
