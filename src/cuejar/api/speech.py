"""Reading aloud: voices, a bench that reads a text as some viewer's, word lists, and the sounds themselves."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter
from fastapi.responses import FileResponse, PlainTextResponse, Response, StreamingResponse
from pydantic import Field

from cuejar.api.book import Edited, edited
from cuejar.api.errors import Refused
from cuejar.api.found import TheWords
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.core.facts import happenings as h
from cuejar.core.parts.folding import listed
from cuejar.core.rules.words import blocked, censored, linked, normalised, speech_length_s
from cuejar.live.reader import FALLBACK
from cuejar.media.workers import WorkFailed
from cuejar.speech.effects import CHAINS
from cuejar.speech.espeak import VARIANTS, CannotSpeak
from cuejar.speech.work import Word, voices
from cuejar.store.draft import Draft
from cuejar.studio import Studio

router = APIRouter(tags=["speech"])
LIMIT_S = 20


class VoiceOut(Shape):
    id: str
    name: str
    language: str


class Voices(Shape):
    """The base voices, their variants (``en-gb+f3``), and the available effects."""

    voices: list[VoiceOut]
    variants: list[str]
    effects: list[str]


@router.get("/api/voices")
async def all_voices(studio: TheStudio) -> Voices:
    """Lists the voices of this computer."""
    try:
        found = await studio.speakers.run("speaking", "voices", LIMIT_S, voices, studio.reader.own_voices)
    except (WorkFailed, CannotSpeak, OSError) as error:
        raise Refused(503, "The speech library isn’t answering.", "Nothing can be read aloud until then.") from error
    rows = [VoiceOut(id=voice.id, name=voice.name, language=voice.language) for voice in found]
    return Voices(voices=rows, variants=list(VARIANTS), effects=list(CHAINS))


class BenchIn(Shape):
    """A text as some viewer would write it; ``part``: the part that reads text without a name, otherwise the book's
    default.
    """

    text: Annotated[str, Field(max_length=10_000)]
    viewer: str = "hopper_kit"
    roles: list[str] = ["follower"]
    tier: int = 1
    part: str | None = None
    sound: bool = True


class FoundOut(Shape):
    """A blocked word: what was written, the entry it matched, its list, and what happens to it."""

    written: str
    entry: str
    words: str
    becomes: str | None


class SpeechOut(Shape):
    part: str
    name: str
    effect: str
    written: str
    said: str
    instead: str


class BenchOut(Shape):
    """How a text would be read: what is left of it, what was found in it, who says what, and its sound."""

    text: str
    turned_away: str
    found: list[FoundOut]
    speeches: list[SpeechOut]
    length_s: float
    """The length of the sound; an estimate if none was asked for."""
    sound: dict[str, Any] | None


def found_in(studio: Studio, text: str) -> list[FoundOut]:
    lists = {words.id: words for words in studio.books.book.words}
    return [
        FoundOut(
            written=text[hit.start : hit.end],
            entry=hit.entry,
            words=lists[hit.list_id].name,
            becomes=lists[hit.list_id].replace,
        )
        for hit in blocked(text, studio.books.book.words)
    ]


@router.post("/api/cast/bench")
async def bench(studio: TheStudio, body: BenchIn) -> BenchOut:
    """Reads a text as it would be read for a viewer. Nothing reaches an overlay."""
    book = studio.books.book
    plain = normalised(body.text)
    found = found_in(studio, plain)
    left, refused = censored(plain, book.words)
    why = f"“{refused[0].entry}” is on a list" if refused else ""
    if not why and book.reading.links == "refuse" and linked(body.text):
        why = "there is a link in it"
    viewer = h.Viewer("bench", body.viewer, tuple(body.roles), body.tier)
    script = [] if why else studio.reader.script(book, left, body.part, viewer)
    sound, length = None, 0.0
    if script and body.sound:
        try:
            piece = await studio.reader.make(book, script)
        except (WorkFailed, CannotSpeak, OSError) as error:
            raise Refused(
                422, f"It can’t be read aloud: {error}.", "Choose another base voice for the part."
            ) from error
        sound, length = piece.json(studio.runner.view.book), piece.length_s
    if sound is None:
        rates = {part.id: part.rate for part in book.cast}
        length = sum(speech_length_s(s.said, rates.get(s.part, 1.0)) for s in script)
    names = {part.id: part.name for part in book.cast or [FALLBACK]}
    speeches = [SpeechOut(name=names.get(s.part, s.part), **s._asdict()) for s in script]
    return BenchOut(text=left, turned_away=why, found=found, speeches=speeches, length_s=length, sound=sound)


class CheckIn(Shape):
    text: Annotated[str, Field(max_length=10_000)]


@router.post("/api/words/check")
async def check(studio: TheStudio, body: CheckIn) -> list[FoundOut]:
    """Returns what the active word lists would find in a text."""
    return found_in(studio, normalised(body.text))


@router.get("/api/words/{list_id}/file", response_class=PlainTextResponse)
async def export_words(words: TheWords) -> PlainTextResponse:
    """Returns the list as plain lines; an entry that matches anywhere has a ``*`` before and after it."""
    lines = [f"*{entry.text}*" if entry.anywhere else entry.text for entry in words.entries]
    headers = {"Content-Disposition": f'attachment; filename="{words.id}.txt"'}
    return PlainTextResponse("\n".join(lines) + "\n", headers=headers)


class WordsIn(Shape):
    text: Annotated[str, Field(max_length=1_000_000)]
    how: Literal["add", "replace"] = "add"


@router.post("/api/words/{list_id}/file")
async def import_words(studio: TheStudio, words: TheWords, body: WordsIn) -> Edited:
    """Adds the lines of a plain list to a word list; duplicates are ignored."""
    entries = [] if body.how == "replace" else [entry.model_dump() for entry in words.entries]
    there = {(entry["text"].casefold(), entry["anywhere"]) for entry in entries}
    for line in listed(body.text):
        anywhere = len(line) > 2 and line.startswith("*") and line.endswith("*")
        text = line.strip("*").strip() if anywhere else line
        if text and not line.startswith("#") and (text.casefold(), anywhere) not in there:
            there.add((text.casefold(), anywhere))
            entries.append({"text": text[:200], "anywhere": anywhere})

    def fill(draft: Draft) -> None:
        draft.put("words", words.id, {**(draft.part("words", words.id) or {}), "entries": entries})

    await studio.edit(fill, f"filled the word list {words.name}")
    return edited(studio)


def _time(ms: int) -> str:
    return f"{ms // 3_600_000:02}:{ms // 60_000 % 60:02}:{ms // 1000 % 60:02}.{ms % 1000:03}"


LINE_WORDS = 7


def web_vtt(words: list[Word], names: dict[str, str]) -> str:
    """Returns the words as WebVTT cues of a few words each, with their speakers (W3C WebVTT, voice spans)."""
    out = ["WEBVTT", ""]
    line: list[Word] = []

    def close() -> None:
        if line:
            plain = " ".join(word.text for word in line).replace("&", "&amp;").replace("<", "&lt;")
            name = names.get(line[0].part, "")
            out.extend(
                [f"{_time(line[0].begin)} --> {_time(line[-1].end)}", f"<v {name}>{plain}" if name else plain, ""]
            )
            line.clear()

    for word in words:
        if line and (len(line) >= LINE_WORDS or word.part != line[0].part or word.begin - line[-1].end > 400):
            close()
        line.append(word)
    close()
    return "\n".join(out)


@router.get("/speech/{key}.wav", include_in_schema=False)
async def sound(studio: TheStudio, key: str) -> Response:
    there = studio.reader.beginnings.get(key)
    if there is not None:
        return StreamingResponse(there.parts(), media_type="audio/wav", headers={"Cache-Control": "no-store"})
    path = studio.reader.file(key)
    if path is None:
        raise Refused(404, "This speech no longer exists.")
    return _Sound(path, media_type="audio/wav", headers={"Cache-Control": "private, max-age=86400"})


class _Sound(FileResponse):
    """The file of a speech. Most go out in one piece, as each piece costs a switch between threads."""

    chunk_size = 1 << 20


@router.get("/speech/{key}.vtt", include_in_schema=False)
async def captions(studio: TheStudio, key: str) -> PlainTextResponse:
    words = studio.reader.words(key)
    if words is None:
        raise Refused(404, "This speech no longer exists.")
    names = {part.id: part.name for part in studio.books.book.cast}
    return PlainTextResponse(web_vtt(words, names), media_type="text/vtt")


@router.post("/api/speech/repeat")
async def repeat(studio: TheStudio) -> dict[str, str]:
    """Reads the last text again, as a try: it counts for nobody."""
    last = studio.reader.last
    if last is None:
        raise Refused(409, "Nothing has been read yet.")
    await studio.runner.post(h.Try(last.cue, last.viewer, last.text))
    return {"cue": last.cue}
