"""What a person reads is plain English: no text has the phrases that the wording rules refuse, labels are short,
buttons are verbs.
"""

from __future__ import annotations

import ast
import re
from itertools import pairwise
from pathlib import Path

import pytest

from scripts.words import HOME, Text, every_text

REFUSED = (
    r"of before", r"otherwise", r"so many", r"nobody is", r"is no more", r"that which", r"any more", r"what (one|names)", r"called so",
    r"(take|takes|taken|took) in", r"handed? on", r"shut out", r"spared", r"given back", r"for ever", r"there is no such",
    r"in the place of", r"what became of", r"your yes", r"as the house", r"in step", r"stumbled", r"came down", r"left alone",
    r"it is so", r"at most so", r"names nobody", r"as (it|they) falls?", r"take it (up|back)", r"bring in", r"put down",
    r"the book of now", r"that were$", r"is none of",
)  # fmt: skip
"""Phrases that make a native reader stumble, each with a plain word for it in ``docs/reference/vocabulary.md``."""
PLAIN = re.compile(r"\b(" + "|".join(REFUSED) + r")\b", re.IGNORECASE)
MOST_WORDS = 35
PAGES = [
    HOME / "README.md",
    *sorted((HOME / "docs" / "guide").glob("*.md")),
    *sorted((HOME / "docs" / "reference").glob("*.md")),
]
SENTENCE = re.compile(r"(?<=[.!?])\s+(?=[A-Z“])")


@pytest.fixture(scope="module")
def texts() -> list[Text]:
    return every_text()


def test_no_text_has_a_refused_turn(texts: list[Text]) -> None:
    assert [str(one) for one in texts if PLAIN.search(one.text)] == []


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_no_page_of_the_guide_or_the_reference_has_one(page: Path) -> None:
    prose = re.sub(r"```.*?```|`[^`]*`", "", page.read_text("utf-8"), flags=re.DOTALL)
    assert [line.strip() for line in prose.splitlines() if PLAIN.search(line.replace("otherwise", ""))] == []


def words(listed: str) -> set[str]:
    return set(listed.split())


LABELS = {"label", "h1", "h2", "th", "legend", "dt"}
MOST_LABEL_WORDS = 4
LONGER = {
    "There is no window “…”.", "Messages with one of these words", "Body (JSON); empty uses the hook’s own", "the named part, or the default",
    "…, unless it names another", "a fixed number of nights", "A viewer earns points a minute", "Fields, one per line — name: JSON path",
}  # fmt: skip
"""Labels that are sentences, choices of a list, or carry a hint of what to write."""


def test_a_label_is_short(texts: list[Text]) -> None:
    labels = [
        one for one in texts if one.file.startswith("web/") and one.at in LABELS and not one.text.startswith("Drop")
    ]
    long = [one for one in labels if len(one.text.replace("…", "").split()) > MOST_LABEL_WORDS]
    assert len(labels) > 300 and [str(one) for one in long if one.text not in LONGER] == []
    assert {one.text for one in labels} >= LONGER, "an exception that is not needed any longer"


VERBS = words(
    "Add Allow Apply Become Bring Call Cancel Choose Clear Close Connect Convert Copy Cover Create Delete Done Draw "
    "Duplicate Edit Empty End Export Fill Find Fit Fix Follow Forget Go Have Hide Import Install Keep Learn Let "
    "Listen Look Make Merge Open Paint Pair Paste Pause Play Press Release Remove Rename Renew Repeat Replace "
    "Restore Revoke Run Save Say Select Send Set Show Skip Start Stop Swap Switch Take Test Throw Tip Train Try Uncover "
    "Unhide Unlock Use Write Importing Preparing Reading Come  Tick"
)
OPENERS = words(
    "A All And As Both Chart Dark Differences Else History House It’s Layers More Neither New Next None Nothing On "
    "One Only Outputs Overlays Patterns Playbill Quiet Ready Table The To Unless Volume Whole Would a another no of "
)
"""First words of buttons that open something by its name, switch between two, or answer a question."""


def test_a_button_says_what_it_does(texts: list[Text]) -> None:
    buttons = [one for one in texts if one.at in {"button", "confirm-button-text", "cancel-button-text"}]
    first = {one: word.group() for one in buttons if (word := re.match(r"[\w’]+", one.text))}
    assert len(first) > 200 and [str(one) for one, word in first.items() if word not in VERBS | OPENERS] == []


def test_a_label_is_there_once(texts: list[Text]) -> None:
    """In a component; a heading may label the bar below it, and two lists may offer the same choice."""
    places: dict[tuple[str, str], list[int]] = {}
    for one in texts:
        if one.file.startswith("web/") and one.at in LABELS and one.text not in {"as now", "…"}:
            places.setdefault((one.file, one.text), []).append(one.line)
    twice = {at: lines for at, lines in places.items() if any(b - a > 1 for a, b in pairwise(sorted(lines)))}
    assert len(places) > 300 and twice == {}


SMALL = words("the a an of this is here to")


def test_a_hint_says_more_than_its_label(texts: list[Text]) -> None:
    pages = [one for one in texts if one.file.startswith("web/")]
    hints = [
        (label, hint)
        for label, hint in pairwise(pages)
        if label.file == hint.file and 0 <= hint.line - label.line <= 4
        and label.at in LABELS and hint.at in {"hint", "placeholder", "title", "p", "small", "span"}
    ]  # fmt: skip
    repeats = [
        str(hint)
        for label, hint in hints
        if (said := words(hint.text.lower()) - SMALL) and said <= words(label.text.lower())
    ]
    assert len(hints) > 20 and repeats == []


FOREIGN = re.compile(
    r"\b(of before|that which|is no more|costs itself|given back|handed on|your yes|called so|comes to its end|"
    r"what one|as it falls|brought in|taken up|nobody (is|knows) of)\b"
)


def test_docstrings_and_comments_are_plain_too() -> None:
    said: list[str] = []
    for path in sorted((HOME / "src" / "cuejar").rglob("*.py")):
        code = path.read_text("utf-8")
        said += [
            f"{path.name}: {node.value.value}"
            for node in ast.walk(ast.parse(code))
            if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant) and isinstance(node.value.value, str)
        ]
        said += [f"{path.name}: {comment}" for comment in re.findall(r"# .*", code)]
    assert len(said) > 2000 and [one for one in said if FOREIGN.search(one)] == []


def test_every_noun_of_ours_is_in_the_vocabulary(texts: list[Text]) -> None:
    """The names of the pages, and our own nouns on them."""
    known = (HOME / "docs" / "reference" / "vocabulary.md").read_text("utf-8").lower()
    said = {word.lower() for one in texts if one.file.startswith("web/") for word in re.findall(r"[A-Za-z]+", one.text)}
    ours = words(
        "cue lane beat hold jar desk pad snag ledger night house playbill set purse rig cast part gear score run rest "
        "hand strike draw chance "
    )
    assert [
        word
        for word in sorted(ours & said | {"lane", "beat", "jar"})
        if f"**{word}" not in known and f", {word}" not in known
    ] == []


def test_no_sentence_is_longer_than_one_reads_at_a_glance(texts: list[Text]) -> None:
    long = [one for one in texts for sentence in SENTENCE.split(one.text) if len(sentence.split()) > MOST_WORDS]
    assert [str(one) for one in long] == []


def test_a_refused_turn_is_found() -> None:
    """The check can fail."""
    assert [word for word in ("What was otherwise", "Handed on", "the last so many") if not PLAIN.search(word)] == []
    assert not PLAIN.search("Restore this version")


def test_the_list_has_every_shelf(texts: list[Text]) -> None:
    shelves = {one.file.split("/")[0] for one in texts}
    assert {"web", "src", "docs", "README.md"} <= shelves and len(texts) > 3000


@pytest.mark.parametrize("page", [page for page in PAGES if page.parent.name == "guide"], ids=lambda page: page.stem)
def test_what_the_guide_names_is_on_the_pages(page: Path, texts: list[Text]) -> None:
    """Bold and italic words are labels that a streamer looks for."""
    labels = {one.text.rstrip("…").strip().lower() for one in texts if one.file.startswith("web/")}
    prose = re.sub(r"```.*?```|`[^`]*`", "", page.read_text("utf-8"), flags=re.DOTALL)
    named = re.findall(r"\*\*([^*\n]+)\*\*|(?<!\*)\*([^*\n]+)\*(?!\*)", prose)
    assert [
        said for said in (bold or italic for bold, italic in named) if said.rstrip("….").lower() not in labels
    ] == []
