"""What is read of viewers' text, and why: scripts, evasions, look-alikes, markup; no false alarms; the mouth."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.book.book import Part, WordList
from cuejar.core.facts.happenings import Viewer
from cuejar.core.measures.mouth import LEAST_MS, levels, openings
from cuejar.core.rules.playscript import speakable, speakable_name, speeches
from cuejar.core.rules.words import blocked, censored, filled, linked, normalised

CAST = [
    Part(id="clerk", name="Clerk", may=["echo"]),
    Part(id="pip", name="Pip", may=["small"]),
    Part(id="dorrie", name="Aunt Dorrie", who=["member"]),
    Part(id="gone", name="Old Harbour", on=False),
]
LISTS = [
    WordList.model_validate({"id": "a", "name": "House", "entries": [{"text": "grot"}, {"text": "twerp"}]}),
    WordList.model_validate({"id": "b", "name": "Anywhere", "entries": [{"text": "blather", "anywhere": True}]}),
    WordList.model_validate({"id": "c", "name": "Gentler", "replace": "teapot", "entries": [{"text": "noodle"}]}),
    WordList.model_validate({"id": "d", "name": "Off", "on": False, "entries": [{"text": "kettle"}]}),
]
AWAY = None
READ: list[tuple[str, list[tuple[str, str, str]] | None]] = [
    # plain
    ("mind the gap", [("clerk", "", "mind the gap")]),
    ("  mind   the\tgap ", [("clerk", "", "mind the gap")]),
    ("", []),
    ("   ", []),
    ("…!?", []),
    ("kettle", [("clerk", "", "kettle")]),
    ("soooooo good", [("clerk", "", "sooo good")]),
    ("9 and 3/4", [("clerk", "", "9 and 3/4")]),
    ("1234567890123456", [("clerk", "", "a long number")]),
    ("platform 12", [("clerk", "", "platform 12")]),
    # scripts
    ("Pip: tickets please", [("pip", "", "tickets please")]),
    ("PIP: tickets please", [("pip", "", "tickets please")]),
    ("pip (small): mind the gap", [("pip", "small", "mind the gap")]),
    ("pip (SMALL) : mind the gap", [("pip", "small", "mind the gap")]),
    ("pip (echo): mind the gap", [("pip", "", "mind the gap")]),
    ("pip (): mind the gap", [("clerk", "", "pip (): mind the gap")]),
    ("Nobody: mind the gap", [("clerk", "", "Nobody: mind the gap")]),
    ("at 9:30 it leaves", [("clerk", "", "at 9:30 it leaves")]),
    ("Pip: one / Clerk: two", [("pip", "", "one"), ("clerk", "", "two")]),
    ("Pip: one\nClerk (echo): two", [("pip", "", "one"), ("clerk", "echo", "two")]),
    ("one / two", [("clerk", "", "one"), ("clerk", "", "two")]),
    ("and/or", [("clerk", "", "and/or")]),
    (" / / ", []),
    ("Pip: / Clerk: x", [("clerk", "", "Pip:"), ("clerk", "", "x")]),
    ("a / b / c / d / e / f", [("clerk", "", w) for w in ("a", "b", "c")] + [("clerk", "", "d e f")]),
    ("Aunt Dorrie: tea?", [("clerk", "", "tea?")]),
    ("Old Harbour: fog", [("clerk", "", "fog")]),
    ("Pip: Clerk: both", [("pip", "", "Clerk: both")]),
    # evasions: refused
    ("grot", AWAY),
    ("GROT", AWAY),
    ("you GrOt!", AWAY),
    ("gr0t", AWAY),
    ("g r o t", AWAY),
    ("g.r.o.t", AWAY),
    ("g-r-o-t", AWAY),
    ("grrroooot", AWAY),
    ("gr\u00f3t", AWAY),
    ("\uff47\uff52\uff4f\uff54", AWAY),
    ("gr\u043et", AWAY),
    ("g\u200br\u200bo\u200bt", AWAY),
    ("g\u0300\u0301\u0302r\u0300o\u0301t", AWAY),
    ("gro7", AWAY),
    ("7werp", AWAY),
    ("tw3rp", AWAY),
    ("t w e r p", AWAY),
    ("Pip: grot", AWAY),
    ("(grot)", AWAY),
    ("superblatherer", AWAY),
    ("BL4THER", AWAY),
    # replaced
    ("you noodle", [("clerk", "", "you teapot")]),
    ("N00DLE", [("clerk", "", "teapot")]),
    ("n o o d l e soup", [("clerk", "", "teapot soup")]),
    # markup, commands, templates
    ("<b>hi</b>", [("clerk", "", "hi")]),
    ("<speak><break time='9s'/></speak>", []),
    ("[[h@l'oU]]", [("clerk", "", "h@l'oU")]),
    ("{{viewer}}", [("clerk", "", "viewer")]),
    ("<script>alert(1)</script>", [("clerk", "", "alert(1)")]),
    ("&lt;i&gt;", [("clerk", "", "&lt;i&gt;")]),
    ("a\\b|c^d", [("clerk", "", "a b c d")]),
    ("**bold** _words_", [("clerk", "", "bold words")]),
    # links, emoji, other scripts
    ("see https://halt.example/x?y=1 now", [("clerk", "", "see link now")]),
    ("www.halt.example", [("clerk", "", "link")]),
    ("\U0001f989", [("clerk", "", "owl")]),
    ("\U0001f682\U0001f682\U0001f682 go", [("clerk", "", "steam locomotive go")]),
    ("\U0001f989\U0001f682\u2615\U0001f33b\U0001f427", [("clerk", "", "owl steam locomotive hot beverage")]),
    ("\u202eevil\u202c", [("clerk", "", "evil")]),
    ("\u05e9\u05dc\u05d5\u05dd", [("clerk", "", "\u05e9\u05dc\u05d5\u05dd")]),
    ("Z\u0351\u036b\u0343\u036a\u0302a\u034c\u0361lgo", [("clerk", "", "Z\u0351\u036ba\u034c\u0361lgo")]),
    ("\x00\x07hi", [("clerk", "", "hi")]),
]


@pytest.mark.parametrize(("text", "wanted"), READ)
def test_what_is_read(text: str, wanted: list[tuple[str, str, str]] | None) -> None:
    plain, refused = censored(normalised(text), LISTS)
    if wanted is AWAY:
        assert refused
        return
    assert not refused
    viewer = Viewer("v", "hopper_kit", ("follower",))
    assert [(s.part, s.effect, s.said) for s in speeches(plain, CAST, "clerk", viewer)] == wanted


def test_long_texts_are_bounded() -> None:
    long = normalised("word " * 4_000)
    assert len(long) <= 10_000
    assert sum(len(s.said) for s in speeches(long, CAST, None)) <= 10_000


def test_why_another_reads() -> None:
    viewer = Viewer("v", "hopper_kit", ("follower",))
    member = Viewer("m", "owlpost", ("member",))
    why = {text: speeches(text, CAST, None, viewer)[0].instead for text in ("Old Harbour: a", "Aunt Dorrie: a")}
    assert why == {
        "Old Harbour: a": "Old Harbour is switched off",
        "Aunt Dorrie: a": "Aunt Dorrie is not for this viewer",
    }
    assert speeches("Aunt Dorrie: a", CAST, None, member)[0].part == "dorrie"
    assert speeches("mind the gap", CAST, "gone", viewer)[0].part == "clerk", "a default that is shut out reads nothing"
    assert speeches("mind the gap", [], None) == []
    assert linked("see halt.example.com") and not linked("no. Yes. At 9.30")


INNOCENT = [
    "grotten",
    "grotesk",
    "noodlish",
    "noodlery",
    "grotto",
    "grottoes",
    "agrotech",
    "begrotten",
    "twerpish-looking",
    "twerpology",
    "noodles",
    "noodling",
    "canoodle",
    "kettlegrot-free",
    "grotesque",
    "grotesquely",
    "Grotius",
    "grotwell",
    "ingrot-less",
    "grotling",
    "groton",
    "egrotic",
    "grots-hill",
    "twerpson",
    "untwerped",
    "midgrot",
    "grottier",
    "grottiest",
    "grotted",
    "noodledom",
    "noodleish",
    "noodlehut",
    "pronoodle",
    "noodleworks",
    "macaronoodle",
    "groth",
    "Grothe",
    "grotz",
    "grotsch",
    "grotowski",
    "grotrian",
    "twerpling",
    "twerpdom",
    "twerpery",
    "grotjahn",
    "grotefend",
    "grotrix",
]


def test_no_false_alarms() -> None:
    whole = [words for words in LISTS if words.id in ("a", "c")]
    checked = [word for word in INNOCENT if "-" not in word]
    assert [word for word in checked if blocked(word, whole)] == []
    assert blocked("I go to the grotto to eat noodles, by train at 7 or 8", whole) == []


@pytest.mark.parametrize(
    ("name", "said"),
    [
        ("xX_bramble_99", "bramble 99"),
        ("xXbrambleXx", "bramble"),
        ("NineGauge7", "Nine Gauge 7"),
        ("saltmarsh_sue", "saltmarsh sue"),
        ("x", "x"),
        ("___", "___"),
        ("puddlejump", "puddlejump"),
        ("kettle.wright-2", "kettle wright 2"),
    ],
)
def test_names_as_one_says_them(name: str, said: str) -> None:
    assert speakable_name(name) == said


@given(st.text(max_size=300))
def test_nothing_that_is_said_is_a_command(text: str) -> None:
    said = speakable(normalised(text))
    assert not set("<>[]{}|\\") & set(said)
    assert said == "" or any(c.isalnum() for c in said)
    assert filled("{{text}}", {"text": text}) == text, "a text is put in as it is, never as a template"


def test_the_mouth_follows_known_pauses() -> None:
    rate = 22_050
    parts = [(0.3, 0.0), (0.9, 0.5), (0.4, 0.0), (0.6, 0.2), (0.5, 0.0)]
    luck = np.random.default_rng(5)
    sound = np.concatenate([luck.normal(0, 1, int(s * rate)) * level + 0.0 for s, level in parts])
    changes = openings(levels(sound, rate), 2)

    def state(at_ms: float) -> int:
        return [picture for at, picture in changes if at <= at_ms][-1]

    at = 0.0
    for seconds, level in parts:
        for inside in np.arange(at * 1000 + 50, (at + seconds) * 1000 - 50, 10):
            assert state(inside) == (1 if level else 0), (inside, changes)
        at += seconds


@given(st.lists(st.floats(-90, 0), max_size=120), st.integers(2, 5))
def test_a_mouth_stays_a_while_in_each_state(level: list[float], pictures: int) -> None:
    changes = openings(np.array(level), pictures)
    assert changes[0][0] == 0
    assert all(0 <= picture < pictures for _, picture in changes)
    times = [at for at, _ in changes]
    assert all(b - a >= LEAST_MS - 1 for a, b in zip(times[1:], times[2:], strict=False))
    assert all(a[1] != b[1] for a, b in zip(changes, changes[1:], strict=False))
    assert openings(np.full(90, -80.0), pictures) == [(0, 0)]
