"""Pads on other devices over the real port: what is served there, who may connect, their permissions, and their
messages.
"""

from __future__ import annotations

import asyncio
import contextlib
import json
import socket
import ssl
import time
from pathlib import Path
from typing import Any

import httpx
import pytest
import trustme
from websockets.exceptions import ConnectionClosed, InvalidMessage, InvalidStatus
from websockets.sync.client import connect

from cuejar.api.app import create_app
from cuejar.pads.server import PadsServer, _bound, read_certificate
from cuejar.settings import WEB, CannotStart, Settings
from cuejar.studio import Studio
from tests.phone import Phone, signature
from tests.running import Running, client, free_ports, until

CUES: list[dict[str, Any]] = [
    {"id": name, "name": name.title(), "entry": "overlap", "tags": ["yard"],
     "beats": [{"id": "c", "kind": "caption", "text": name, "length": length}]}
    for name, length in [("bell", {"s": 30}), ("gap", "open"), ("mail", {"s": 0.2})]
]  # fmt: skip


@pytest.fixture
def halt(running: Running) -> Running:
    running.book(cues=CUES)
    return running


def pads_of(running: Running) -> str:
    return f"http://127.0.0.1:{running.port + 5}"


def offer(running: Running, **fields: Any) -> str:
    answer = running.api.post("/api/pads/offers", json={"here": True, **fields})
    answer.raise_for_status()
    link: str = answer.json()["link"]
    return link


def paired(running: Running, **fields: Any) -> Phone:
    return Phone.of_link(offer(running, **fields)).join()


def device(running: Running, phone: Phone) -> dict[str, Any]:
    found: dict[str, Any] = next(one for one in running.state()["pads"]["devices"] if one["id"] == phone.device)
    return found


def test_nothing_but_the_pads_is_served_there(halt: Running) -> None:
    """Every route of the app, every file of the other pages, odd paths: none is found at the pads' port."""
    http = client(pads_of(halt))
    routes = [*create_app(None, 8700).openapi()["paths"]]
    routes += ["/api/book", "/api/cues/bell/fire", "/overlay/x", "/media/x", "/desk", "/index.html", "/pads.html"]
    routes += ["/assets/../index.html", "/assets/%2e%2e/index.html", "/assets//etc/passwd", "/.vite/manifest.json"]
    assert len(routes) > 80
    for path in routes:
        for method in ("GET", "POST", "PUT", "DELETE"):
            answer = http.request(method, path.replace("{", "").replace("}", ""))
            if path not in ("/", "/{page}", "/assets"):
                assert answer.status_code == 404, (method, path)
    page = http.get("/")
    assert page.status_code == 200 and "<title>Pads</title>" in page.text
    built = [file.name for file in (WEB / "assets").iterdir()]
    served = {name for name in built if http.get(f"/assets/{name}").is_success}
    assert 3 <= len(served) < len(built) / 2 and not any(
        name.startswith(("index", "DeskPage", "CuePage")) for name in served
    )
    for beside in ("manifest.webmanifest", "sw.js", "pads-192.png"):
        assert http.get(f"/{beside}").is_success
    for feed in ("/api/feed", "/overlay/x/feed"):
        with pytest.raises(InvalidStatus), connect(f"ws://127.0.0.1:{halt.port + 5}{feed}", proxy=None):
            pass


def test_a_foreign_host_or_page_may_not_speak_there(halt: Running) -> None:
    address = f"ws://127.0.0.1:{halt.port + 5}/feed"
    http = client(pads_of(halt))
    assert http.get("/", headers={"Host": "evil.example"}).status_code == 403
    assert http.get("/", headers={"Origin": "http://evil.example"}).status_code == 403
    with pytest.raises(InvalidStatus), connect(address, proxy=None, origin="http://evil.example"):  # type: ignore[call-overload]
        pass
    assert http.get("/").headers["content-security-policy"].startswith("default-src 'self'")


def test_a_link_is_good_once_and_the_key_is_never_said(halt: Running) -> None:
    link = offer(halt, name="Signal box phone")
    phone = Phone.of_link(link)
    first_key = phone.key
    phone.join()
    assert phone.told["welcome"]["name"] == "Signal box phone"
    assert [pad["name"] for pad in phone.told["pads"]["pads"]] == ["Bell", "Gap", "Mail"]
    assert {pad["cue"]: pad["holds"] for pad in phone.told["pads"]["pads"]} == {
        "bell": False,
        "gap": True,
        "mail": False,
    }
    told = json.dumps(phone.told)
    assert first_key not in told and phone.key not in told
    again = Phone.of_link(link).join()
    assert again.told["refused"]["why"] == "expired" and again.is_ended()
    assert phone.press("bell") == ""
    phone.until(lambda: (row := phone.row("bell")) and row["runs"] == 1)
    rows = until(lambda: [row for row in halt.api.get("/api/ledger").json()["lines"] if row["kind"] == "pad"])
    assert phone.device in rows[0]["call"]
    # It is remembered across a crash, with its current key and not the link's.
    phone.leave()
    halt.kill_server()
    halt.start_server()
    back = Phone(phone.address, phone.device, phone.key).join()
    assert back.press("mail") == ""
    old = Phone(phone.address, phone.device, first_key).join()
    assert old.told["refused"]["why"] == "wrong"


def test_an_offer_ends_by_itself_or_is_withdrawn(halt: Running) -> None:
    made = halt.api.post("/api/pads/offers", json={"here": True}).json()
    assert made["code"].startswith("data:image/svg+xml") and made["ends"] - time.time() * 1000 == pytest.approx(
        120_000, abs=15_000
    )
    assert halt.api.get(f"/api/pads/offers/{made['id']}").json()["state"] == "waits"
    halt.api.delete(f"/api/pads/offers/{made['id']}").raise_for_status()
    assert Phone.of_link(made["link"]).join().told["refused"]["why"] == "expired"
    assert halt.api.get(f"/api/pads/offers/{made['id']}").status_code == 404


def test_nobody_repeats_alters_or_makes_up_a_press(halt: Running) -> None:
    phone = paired(halt)
    said = phone.signed({"do": "press", "cue": "mail"})
    phone.send(said)
    phone.until(lambda: "done" in phone.told)
    phone.send(said)
    assert phone.until(lambda: phone.told.get("refused"))["why"] == "wrong" and phone.is_ended()
    runs = [row for row in halt.api.get("/api/ledger").json()["lines"] if row["kind"] == "pad"]
    assert len(runs) == 1, "the repeated one did nothing"
    time.sleep(0.6)
    phone.join()
    altered = phone.signed({"do": "press", "cue": "mail"})
    phone.send({**altered, "body": altered["body"].replace("mail", "bell")})
    assert phone.is_ended()
    assert device(halt, phone)["wrong"] == 2
    for odd in ("", "[]", '{"t":"do"}', '{"t":"hello","device":"../x","number":"1"}', "x" * 5000):
        with connect(phone.address, proxy=None) as nobody:
            nobody.send(odd)
            with pytest.raises(ConnectionClosed):
                list(nobody)
    with connect(phone.address, proxy=None) as nobody:
        nobody.send(json.dumps({"t": "do", "n": 1, "body": "{}", "signature": "0" * 64}))
        assert json.loads(nobody.recv(timeout=10))["why"] == "wrong"


THIEF = "127.0.0.2"


def test_wrong_proofs_slow_who_sends_them_and_nobody_else(halt: Running) -> None:
    phone, other = paired(halt, name="Phone"), paired(halt, name="Phone")
    assert [one["name"] for one in halt.state()["pads"]["devices"]] == ["Phone", "Phone 2"]
    thief = Phone(phone.address, phone.device, "00" * 32, of=THIEF)
    begun, slowed = time.monotonic(), 0
    for _ in range(4):
        while (told := thief.hello())["t"] == "refused":
            assert told["why"] == "slow"
            slowed += 1
            time.sleep(told["wait_ms"] / 1000)
        thief.send({"t": "prove", "signature": "0" * 64})
        assert thief.hear()["why"] == "wrong"
    assert time.monotonic() - begun > 0.25 + 0.5 + 1
    # Many at the same moment: none of them had to wait yet.
    time.sleep(2.2)
    crowd = [Phone(phone.address, phone.device, "00" * 32, of=THIEF) for _ in range(12)]
    for one in crowd:
        assert one.hello()["t"] == "challenge"
    for one in crowd:
        one.send({"t": "prove", "signature": "0" * 64})
    assert [one.hear()["why"] for one in crowd] == ["wrong"] * 12
    assert thief.hello()["wait_ms"] > 10_000
    # The device it claimed to be goes on, and can reconnect.
    assert not device(halt, phone)["locked"] and device(halt, phone)["wrong"] == 0
    assert phone.press("mail") == "" and other.press("mail") == ""
    assert Phone(phone.address, phone.device, phone.key).join().press("bell") == ""
    # A guesser doesn't use up a code that is waiting.
    link = halt.api.post("/api/pads/offers", json={"here": True}).json()["link"]
    for number in range(12):
        guess = Phone.of_link(link)
        guess.key, guess.of = "00" * 32, {"source_address": (f"127.0.1.{number + 1}", 0)}
        assert guess.join().told["refused"]["why"] == "expired"
    assert Phone.of_link(link).join().press("bell") == ""


def test_wrong_signatures_on_a_line_that_was_proved_lock_the_device(halt: Running) -> None:
    phone = paired(halt)
    lines = [Phone(phone.address, phone.device, phone.key).join() for _ in range(10)]
    for line in lines:
        line.send({**line.signed({"do": "press", "cue": "mail"}), "signature": "0" * 64})
    until(lambda: device(halt, phone)["locked"])
    assert phone.is_ended(), "what was connected is let go too"
    assert Phone(phone.address, phone.device, phone.key).hello()["why"] == "locked"
    assert "locked" in " ".join(row["what"] for row in halt.api.get("/api/readiness").json())
    halt.kill_server()
    halt.start_server()
    assert Phone(phone.address, phone.device, phone.key).hello()["why"] == "locked", "over a crash too"
    halt.api.post(f"/api/pads/devices/{phone.device}/unlock").raise_for_status()
    assert phone.join().press("mail") == ""


def _is_served(port: int) -> bool:
    """Returns whether a new client gets the page."""
    try:
        with httpx.Client(transport=httpx.HTTPTransport(local_address="127.0.3.1")) as page:
            return page.get(f"http://127.0.0.1:{port}/").is_success
    except httpx.HTTPError:
        return False


def test_silent_connections_take_nobody_elses_place(halt: Running) -> None:
    phone = paired(halt)
    port = halt.port + 5
    silent: list[socket.socket] = []
    for number in range(1_100):
        one = socket.socket()
        one.bind((f"127.0.2.{number % 200 + 1}", 0))
        one.settimeout(1)
        with contextlib.suppress(OSError):
            one.connect(("127.0.0.1", port))
        silent.append(one)
    try:
        assert halt.server is not None
        assert halt.server.num_fds() < 500
        assert phone.press("mail") == "", "who is there stays"
        assert Phone(phone.address, phone.device, phone.key).join().press("bell") == "", "and comes in anew"
        assert halt.api.get("/api/health").is_success
        # A silent client is dropped, and then there is room for anybody.
        until(lambda: _is_served(port), patience_s=20)
        until(lambda: halt.server is not None and halt.server.num_fds() < 150, patience_s=20)
    finally:
        for one in silent:
            one.close()


def test_sockets_that_prove_nothing_do_not_fill_it(halt: Running) -> None:
    phone = paired(halt)
    with contextlib.ExitStack() as there:
        for number in range(105):
            with contextlib.suppress(OSError, TimeoutError, ConnectionClosed, InvalidMessage):
                there.enter_context(connect(phone.address, proxy=None, source_address=(f"127.0.4.{number + 1}", 0)))
        assert Phone(phone.address, phone.device, phone.key).join().press("bell") == ""
        time.sleep(6)
        stranger = Phone(phone.address, "d" + "0" * 12, "00" * 32, of="127.0.5.1")
        assert stranger.hello()["t"] == "challenge", "those before said nothing for 5 s"


def test_a_limited_device_may_press_its_own_pads_alone(halt: Running) -> None:
    phone = paired(halt, cues=["mail"])
    assert phone.told["welcome"]["limited"]
    assert [pad["cue"] for pad in phone.told["pads"]["pads"]] == ["mail"]
    assert phone.press("mail") == ""
    assert phone.press("bell") == "This pad no longer exists."
    for wish in ({"do": "rest"}, {"do": "volume", "value": 3}, {"do": "house", "open": False}):
        assert phone.ask(**wish) == "This device can only press its own pads."
    house = halt.api.get("/api/book").json()["book"]["house"]
    assert house["open"] and house["volume"] == 80
    halt.api.put(f"/api/pads/devices/{phone.device}", json={"name": "Porter", "cues": None}).raise_for_status()
    assert phone.is_ended()
    assert phone.join().told["welcome"] | {"signature": ""} == {
        "t": "welcome",
        "name": "Porter",
        "limited": False,
        "signature": "",
    }
    assert phone.ask(do="volume", value=41) == "" and phone.ask(do="house", open=False) == ""
    house = halt.api.get("/api/book").json()["book"]["house"]
    assert not house["open"] and house["volume"] == 41
    assert phone.press("mail") == "the house is closed"
    halt.api.delete(f"/api/pads/devices/{phone.device}").raise_for_status()
    assert phone.is_ended()
    assert phone.join().told["refused"]["why"] == "unknown"
    assert halt.state()["pads"]["devices"] == []


def test_two_phones_and_a_desk_stay_in_step_and_a_sleeping_one_lets_go(halt: Running) -> None:
    """What one phone holds the other sees and may release; what a lost phone held ends by the house's cap."""
    halt.book(house={"open_cap_s": 8})
    one, two = paired(halt, name="One"), paired(halt, name="Two")
    assert one.press("gap") == ""
    row = two.until(lambda: two.row("gap"))
    assert row["open"] and row["until"] is None
    assert [r["cue"] for r in halt.state()["pads"]["rows"]] == ["gap"]
    assert two.let_go("gap") == ""
    one.until(lambda: one.row("gap") is None)
    assert one.press("gap") == ""
    two.until(lambda: two.row("gap"))
    one.leave()
    two.until(lambda: two.row("gap") is None)
    assert halt.state()["pads"]["devices"][0]["connected"] == 0
    # Held across a crash of the server, however long its start takes, and released by the one who came back.
    halt.book(house={"open_cap_s": 600})
    assert two.press("gap") == ""
    halt.kill_server()
    halt.start_server()
    two.join()
    two.until(lambda: two.row("gap"))
    assert two.let_go("gap") == ""
    two.until(lambda: two.row("gap") is None)
    # The desk's own hand: fire and release, as its pads do.
    halt.api.post("/api/cues/gap/fire", json={}).raise_for_status()
    two.until(lambda: two.row("gap"))
    assert halt.api.post("/api/cues/gap/let-go").json()["what"] == "Released."
    two.until(lambda: two.row("gap") is None)
    assert halt.api.post("/api/cues/gap/let-go").json()["what"] == "Nothing was held."


def test_too_much_at_once_is_left_out(halt: Running) -> None:
    phone = paired(halt)
    for _ in range(210):
        phone.send(phone.signed({"do": "let_go", "cue": "gap"}))
    phone.until(lambda: phone.told.get("done", {}).get("n") == 210)
    assert phone.told["done"]["what"].startswith("Too much at once")
    assert phone.socket is not None and halt.api.get("/api/health").json()["ok"]


def test_only_an_address_of_this_computer_is_listened_on(halt: Running) -> None:
    refused = halt.api.put("/api/pads/beyond", json={"address": "203.0.113.9"})
    assert refused.status_code == 422 and "not an address of this computer" in refused.json()["what"]
    where = halt.api.get("/api/pads").json()
    assert where["beyond"] == "" and where["link"] == f"{pads_of(halt)}/"
    assert halt.api.put("/api/pads/beyond", json={"address": ""}).json()["listens"]


def certificate(folder: Path, *names: str) -> tuple[Path, Path, trustme.CA]:
    ours = trustme.CA()
    made = ours.issue_cert(*names)
    cert, key = folder / "pads.pem", folder / "pads.key"
    made.cert_chain_pems[0].write_to_path(str(cert))
    made.private_key_pem.write_to_path(str(key))
    return cert, key, ours


def test_a_certificate_is_looked_at_before_anything_starts(tmp_path: Path) -> None:
    cert, key, _ = certificate(tmp_path, "jar.halt.example", "127.0.0.1")
    assert read_certificate(None, None) is None
    found = read_certificate(cert, key)
    assert found is not None and found.names == ["jar.halt.example", "127.0.0.1"]
    for given, words in [
        ((cert, None), "needs both"),
        ((tmp_path / "no.pem", key), "can’t be used"),
        ((key, cert), "can’t be used"),
    ]:
        with pytest.raises(CannotStart, match=words):
            read_certificate(*given)


def test_others_are_let_in_by_https_on_the_address_that_is_switched_on(tmp_path: Path) -> None:
    """The server beyond this computer, alone, with a certificate; the address that disappears, and comes back."""
    cert, key, ours = certificate(tmp_path, "127.0.0.1")
    trust = ssl.create_default_context()
    ours.configure_trust(trust)

    async def scene() -> None:
        studio = Studio(Settings(data=tmp_path / "data", key_store=False))
        await studio.start()
        server = PadsServer(studio, free_ports(), read_certificate(cert, key))
        occupied = _bound("127.0.0.1", server.port)
        occupied.listen()
        studio.watch.keep("pads’ port beyond", server._keep_beyond)
        await server.listen_beyond("127.0.0.1")
        await asyncio.sleep(0.3)
        assert "used by another program" in studio.troubles.rows()[0].what
        occupied.close()
        while "127.0.0.1" not in server.listens:
            await asyncio.sleep(0.1)
        assert studio.troubles.rows() == [] and server.listens == {"127.0.0.1": True}
        assert server.link() == f"https://127.0.0.1:{server.port}/"
        made = studio.devices.offer("Phone", None)
        assert made is not None
        link = f"{server.link()}#pair.{made.id}.{made.key.hex()}"
        phone = await asyncio.to_thread(lambda: Phone.of_link(link, trust).join())
        assert phone.told["welcome"]["name"] == "Phone"
        assert [one.connected for one in studio.pads.told_to_the_desk(studio.hands).devices] == [1]
        assert PadsServer(studio, server.port).beyond == "127.0.0.1", "the address is kept"
        await server.listen_beyond("")
        assert await asyncio.to_thread(phone.is_ended)
        while server.listens:
            await asyncio.sleep(0.05)
        await studio.watch.stop("pads’ port beyond")
        await studio.stop()

    asyncio.run(scene())


def test_a_stranger_cannot_play_cue_jar(halt: Running) -> None:
    """Without a key nobody can produce the welcome that the phone waits for."""
    phone = paired(halt)
    assert phone.told["welcome"]["signature"] == signature(phone.key, "welcome", phone.mine, phone.theirs)
    assert phone.told["welcome"]["signature"] != signature("00" * 32, "welcome", phone.mine, phone.theirs)


def test_a_device_that_may_do_everything_shows_the_desk(halt: Running) -> None:
    """What is on, who waits and what arrived; nothing of viewers goes to a device that doesn't show it, or may not."""
    yard = {"id": "main", "name": "Yard", "width": 1}
    halt.book(
        lanes=[yard],
        rewards=[{"id": f"r_{cue['id']}", "title": f"Ring the {cue['name'].lower()}", "cost": 10} for cue in CUES],
        cues=[{**cue, "entry": "queue", "lane": "main", "calls": [{"kind": "reward", "reward": f"r_{cue['id']}"}]}
              for cue in CUES],
    )  # fmt: skip
    until(lambda: len(halt.channel.get("/rewards").json()) == 3)
    phone, limited = paired(halt), paired(halt, cues=["bell"])
    assert limited.ask(do="desk", on=True) == "This device can only press its own pads."
    first = halt.redeem("bramble_jo", "Ring the gap")
    second = halt.redeem("owlpost", "Ring the bell")
    until(lambda: halt.state()["lanes"][0]["waits"] == 1)
    phone.until(lambda: (row := phone.row("bell")) and row["waits"] == 1)
    assert "bramble_jo" not in json.dumps([phone.told, limited.told])
    assert phone.ask(do="desk", on=True) == ""
    phone.until(lambda: phone.told.get("desk", {}).get("lanes", [{"waits": 0}])[0]["waits"] == 1)
    lane = phone.told["desk"]["lanes"][0]
    assert [run["viewer"] for run in (*lane["running"], *lane["waiting"])] == ["bramble_jo", "owlpost"]
    rows = phone.told["arrivals"]["rows"]
    assert [(row["viewer"], row["what"]) for row in rows] == [("owlpost", "Bell"), ("bramble_jo", "Gap")]
    # One that waits is sent back, with a refund; what is on is ended; neither can be done twice.
    assert phone.ask(do="end", run=lane["waiting"][0]["run"]) == "It has ended already."
    assert phone.ask(do="send_back", run=lane["running"][0]["run"]) == "It no longer waits."
    assert phone.ask(do="send_back", run=lane["waiting"][0]["run"]) == ""
    until(lambda: halt.state_of(second) == "refunded")
    phone.until(lambda: phone.told["arrivals"]["rows"][0]["outcome"] == "refunded")
    assert phone.ask(do="end", run=lane["running"][0]["run"]) == ""
    phone.until(lambda: phone.told["desk"]["lanes"][0]["runs"] == 0)
    assert phone.ask(do="end", run=lane["running"][0]["run"]) == "It has ended already."
    until(lambda: halt.state_of(first) == "fulfilled")
    assert limited.ask(do="end", run=lane["running"][0]["run"]) == "This device can only press its own pads."
    # No longer shown, nothing of it is sent.
    assert phone.ask(do="desk", on=False) == ""
    phone.told.pop("arrivals")
    halt.redeem("bramble_jo", "Ring the mail")
    phone.until(lambda: phone.row("mail"))
    assert phone.ask(do="volume", value=50) == "" and "arrivals" not in phone.told
