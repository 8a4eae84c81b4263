"""A past night replayed: the same with its own book, whatever was in it; with another one no earlier edit counts; and
no viewer's name gets through if others are wanted.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from cuejar.cli import app
from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.rehearsal import lines
from cuejar.core.engine.state import SPEECH_GRACE_MS, snapshot_of
from cuejar.core.facts import happenings as h
from cuejar.core.facts.orders import Hide, Show
from cuejar.core.kinds.table import is_spoken
from cuejar.core.nights import papers
from cuejar.core.nights.compare import Nights
from cuejar.core.nights.madeup import MadeUp, viewers_of
from cuejar.core.nights.recorded import recording_of
from cuejar.core.nights.scripts import rehearse, script_from
from cuejar.core.nights.timeline import Drawing
from cuejar.demo.load import demo_book
from cuejar.demo.yesterday import READY_MS, yesterday
from tests.core import whole


@given(st.data())
def test_any_night_is_the_same_again_out_of_what_was_kept(data: st.DataObject) -> None:
    book = data.draw(whole.whole_books())
    before, night = data.draw(whole.whole_nights(book)), data.draw(whole.whole_nights(book))
    engine = Engine(book, 3, dict(whole.MEDIA), tracing=True, speech_grace=SPEECH_GRACE_MS)
    engine.handle(h.Rest(dict(whole.REST)), 0)
    for at, happening in before:
        engine.handle(happening, at)
    # What was saved is text; the night begins with its stream, this long after the previous one.
    shift = before[-1][0] + data.draw(st.sampled_from([0, 700, 60_000]))
    rows = [(at + shift, happening) for at, happening in night]
    begin = next(i for i, (_, happening) in enumerate(rows) if isinstance(happening, h.Stream))
    for at, happening in rows[:begin]:
        engine.handle(happening, at)
    state = json.loads(json.dumps(snapshot_of(engine)))
    entries = [(i, at, json.loads(json.dumps(h.happening_json(one)))) for i, (at, one) in enumerate(rows[begin:])]
    live = [timed for at, happening in rows[begin:] for timed in engine.handle(happening, at)]

    recording = recording_of(state, entries)
    script = papers.script_of(recording, entries, with_state=True)
    again = [json.loads(line) for line in lines(rehearse(script_from(json.loads(papers.script_text(script)))))]
    told = [json.loads(line) for line in lines(live)]
    start = rows[begin][0] / 1000
    for row in told:
        for key in ("at", "until"):
            if row.get(key) is not None:
                row[key] = round(row[key] - start, 3)
    assert again[: len(told)] == [{**row, "at": round(row["at"], 3)} for row in told]

    result, _, timeline, _ = Nights([None], "", recording).drawn(0, 0)
    verdicts = [row for row in again if row["type"] == "verdict" and row["verdict"] != "ignored"]
    assert result.calls == len({row["call"] for row in verdicts}) and len(timeline.turned) == len(
        [r for r in verdicts if r["verdict"] == "turned_away"]
    )
    assert result.redemptions == sum(isinstance(one, h.Redemption) for _, one in rows[begin:])
    for run in timeline.runs:
        assert run.start is None or run.end is None or run.came <= run.start <= run.end
    on = [
        (run.lane, run.row, run.start, run.end if run.end is not None else timeline.length)
        for run in timeline.runs
        if run.start is not None
    ]
    for i, (lane, row, start, end) in enumerate(on):
        for other, there, begins, ends in on[i + 1 :]:
            assert (lane, row) != (other, there) or end <= begins or ends <= start


BOOK = {
    "lanes": [{"id": "main", "name": "Main"}],
    "rewards": [{"id": "tea", "title": "Tea", "cost": 100}],
    "cues": [
        {
            "id": "tea",
            "name": "Tea",
            "lane": "main",
            "calls": [{"kind": "reward", "reward": "tea"}],
            "beats": [{"id": "c", "kind": "caption", "text": "{{viewer}}: {{text}}", "length": {"s": 5}}],
        }
    ],
}
OWL, SUE = h.Viewer("v-1", "owlpost"), h.Viewer("v-2", "saltmarsh_sue")


def _night() -> tuple[dict[str, Any], list[tuple[int, int, Any]]]:
    """Sue has been waiting; the owl calls twice, and the book is edited on air."""
    engine = Engine(book_from(BOOK), 1)
    engine.handle(h.Redemption("r-0", "tea", SUE, "for owlpost"), 0)
    engine.handle(h.Redemption("r-1", "tea", SUE, "more"), 10)
    narrow = json.loads(json.dumps({**book_json(book_from(BOOK)), "house": {"open": False}}))
    rows: list[tuple[int, h.Happening]] = [
        (1_000, h.Stream("live")),
        (2_000, h.Redemption("r-2", "tea", OWL, "saltmarsh_sue, is there tea?")),
        (3_000, h.NewBook(narrow)),
        (4_000, h.Redemption("r-3", "tea", OWL, "again")),
        (600_000, h.Stream("ended")),
    ]
    return snapshot_of(engine), [(i, at, h.happening_json(one)) for i, (at, one) in enumerate(rows)]


def test_under_another_book_its_own_edits_do_not_count() -> None:
    state, entries = _night()
    recording = recording_of(state, [*entries, (9, 700_000, {"kind": "nonsense"})])
    assert recording.odd == 1 and recording.begin == 1_000
    wide = book_from({**BOOK, "lanes": [{"id": "main", "name": "Main", "width": 3}]})
    nights = Nights([None, wide], "", recording)
    own, other = nights.drawn(0, 0), nights.drawn(1, 0)
    assert (own[0].let_in, own[0].turned_away) == (1, {"house_closed": 1}), "the house was shut on air"
    assert (other[0].let_in, other[0].turned_away) == (2, {})
    assert other[0].wait_longest_s < own[0].wait_longest_s
    assert own[2].length == 599_000 and own[0].length_s == 599
    assert [mark.words for mark in own[2].marks] == ["On air", "The book was changed", "The stream ended"]


def test_a_kept_nights_script_is_held_against_a_book_on_the_command_line(tmp_path: Path) -> None:
    state, entries = _night()
    script, book = tmp_path / "night.script.json", tmp_path / "wide.json"
    script.write_text(papers.script_text(papers.script_of(recording_of(state, entries), entries, True)), "utf-8")
    wide = book_from({**BOOK, "lanes": [{"id": "main", "name": "Main", "width": 3}]})
    book.write_text(json.dumps(book_json(wide)), "utf-8")
    done = CliRunner().invoke(app, ["rehearse", str(script), "--against", str(book), "--json"], catch_exceptions=False)
    figures = json.loads(done.output)["figures"]
    assert done.exit_code == 0 and figures["let_in"]["by"]["median"] == 1
    script.write_text(script.read_text("utf-8").replace('"on_air"', '"on_the_air"'), "utf-8")
    done = CliRunner().invoke(app, ["rehearse", str(script)], catch_exceptions=False)
    assert done.exit_code == 2 and "isn’t a complete show state" in done.output


def test_made_up_names_are_everywhere_the_same() -> None:
    state, entries = _night()
    names = MadeUp(viewers_of(state, entries))
    owl, sue = names.name("v-1"), names.name("v-2")
    assert {owl, sue} & {"owlpost", "saltmarsh_sue"} == set() and owl != sue
    assert names.name("v-9", "stranger") == "somebody" and names.name("", "") == "" and names.id("") == ""
    # Played as it was, then renamed.
    _, _, timeline, shows = Nights([None], "", recording_of(state, entries)).drawn(0, 0)
    shown = [(at, one._replace(value=names.deep(one.value)) if isinstance(one, Show) else one) for at, one in shows]
    said = papers.said_vtt(shown, names.timeline(timeline)) + names.timeline(timeline).model_dump_json()
    assert "owlpost" not in said and "saltmarsh" not in said and f"{owl}: {sue}, is there tea?" in said
    script = papers.script_of(recording_of(state, entries), entries, with_state=False)
    text = papers.script_text({**script, "happenings": [names.deep(row) for row in script["happenings"]]})
    assert "v-1" not in text and "saltmarsh" not in text
    assert "state" not in json.loads(text) and list(lines(rehearse(script_from(json.loads(text)))))


FORMS = (
    "{}", "{}s", "@{}!", "~{}~", "xX{}Xx", "hello {}, is it you", "{}'s tea", "“{}”",
)  # fmt: skip


def looks_like(name: str) -> list[str]:
    """Yields spellings of a name that a plain search doesn't find."""
    wide = "".join(chr(ord(c) + 0xFEE0) if "!" <= c <= "~" else c for c in name)
    signs = name.translate(str.maketrans("oieas", "01345"))
    return [name, name.upper(), wide, signs, " ".join(name), ".".join(name), name.replace("o", "о"), name.replace("e", "é"),
            name.replace("s", "sss", 1), name.replace("_", " "), name.replace("_", "-"), "\u200b".join(name)]  # fmt: skip


@pytest.mark.parametrize("form", FORMS)
def test_a_name_is_found_however_it_is_written(form: str) -> None:
    names = MadeUp([("v1", "saltmarsh_sue"), ("v2", "bramble_99"), ("v3", "owlpost")])
    for name in ("saltmarsh_sue", "bramble_99", "owlpost"):
        for written in looks_like(name):
            text = names.text(form.format(written))
            here = [word for word in ("saltmarsh", "bramble_99", "owlpost") if word in text.casefold()]
            assert not here and text != form.format(written), (form, written, text)


def test_words_that_are_nobodys_stay() -> None:
    names = MadeUp([("v1", "owl"), ("v2", "este"), ("v3", "tea_pot"), ("v4", "Al")])
    for text in ("a bowl of steam", "the steamer", "Mind the gap", "tea, pottery and more", "all aboard", "as tea"):
        assert names.text(text) == text
    assert names.text("the owl and two owls") != "the owl and two owls"
    crowd = MadeUp((f"v{n}", f"{name}_{n}") for n in range(200) for name in ("bramble", "owl"))
    assert all(crowd.text(crowd.name(f"v{n}")) == crowd.name(f"v{n}") for n in range(200)), (
        "no made-up name is somebody's"
    )


def test_quiet_and_what_is_drawn_of_a_night() -> None:
    drawing = Drawing(book_from(BOOK))
    engine = Engine(book_from(BOOK), 1)
    for at, happening in (
        (0, h.Stream("live")),
        (120_000, h.Redemption("r", "tea", OWL, "")),
        (400_000, h.Stream("ended")),
    ):
        drawing.note(at, happening)
        for when, order in engine.handle(happening, at):
            drawing.add(when, order)
    drawing.over(400_000)
    timeline = drawing.timeline({})
    assert timeline.quiet == [(0, 120_000), (125_000, 400_000)]
    assert [(span.what, span.begin, span.end) for span in timeline.shown] == [("caption", 120_000, 125_000)]
    page = papers.page("Night <b>", "19:00", "", Nights([book_from({**BOOK, "audiences": [{"id": "a", "name": "A", "calls": 3}]})], "a").result(0, 1),
                       [], timeline, book_from(BOOK))  # fmt: skip
    assert "Night &lt;b&gt;" in page and "owlpost" in page and "0:02:00" in page


def test_texts_of_the_demos_past_night_were_heard_when_they_were_read() -> None:
    """Otherwise each of them would last as long as the show waits for one that never comes."""
    book = book_from(demo_book())
    engine = Engine(Book.model_validate({}), 5, speech_grace=SPEECH_GRACE_MS)
    night = list(yesterday(book, {}, 5))
    timed = [one for at, happening in night for one in engine.handle(happening, at)]
    shown = {(order.run, order.beat): at for at, order in timed if is_spoken(order)}
    hidden = {(order.run, order.beat): at for at, order in timed if isinstance(order, Hide)}
    heard = {(told.run, told.beat): told.length_s for _, told in night if isinstance(told, h.SpeechReady)}
    assert len(shown) > 50 and shown.keys() <= heard.keys()
    # Of one that is up before it is ready, the wait counts as well.
    over = [(hidden[one] - at) / 1000 - heard[one] for one, at in shown.items() if one in hidden]
    assert min(over) > -0.001 and max(over) <= READY_MS / 1000 + 0.001
    assert [at for at, _ in night] == sorted(at for at, _ in night)
