"""Phrases that the streamer says: what is heard now, and how they are trained."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import Field

from cuejar.api.errors import Refused
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.core.facts.gate import Key
from cuejar.live.listening import SAYINGS, TALK_S
from cuejar.studio import Studio

router = APIRouter(prefix="/api/voice", tags=["voice"])


class PhraseOut(Shape):
    """A phrase of the book: the cues it calls, its sounds, words that the dictionary lacks and the sounds offered for the
    whole phrase, whether it is trained, how surely each saying was found (0 to 1), and what is wrong with it.
    """

    phrase: str
    cues: list[str]
    phones: list[str]
    missing: list[str]
    offer: str
    trained: bool
    sure: list[float]
    problem: str


class TrainingOut(Shape):
    """The training of a phrase: what it waits for, how many sayings and whether talk was recorded, how far it is (0 to 1),
    and what went wrong.
    """

    phrase: str
    step: Literal["idle", "saying", "talking", "finding", "done"]
    sayings: int
    talked: bool
    share: float
    problem: str


class HeardOut(Shape):
    """``open``: the microphone is open; ``level``: its level, 0 to 1; ``latest``: the phrase that was heard last."""

    mode: Literal["off", "held", "always"]
    open: bool
    level: float
    problem: str
    latest: str
    microphones: list[str]
    phrases: list[PhraseOut]
    training: TrainingOut


def _out(studio: Studio) -> HeardOut:
    it = studio.listening
    training = it.training
    return HeardOut(
        mode=studio.books.book.house.listening,
        open=it.is_open,
        level=it.level,
        problem=it.problem,
        latest=it.latest,
        microphones=it.microphones,
        phrases=[PhraseOut(**vars(state)) for state in it.states()],
        training=TrainingOut(
            phrase=training.phrase,
            step=training.step,
            sayings=training.sayings,
            talked=training.talked,
            share=it.share(),
            problem=training.problem,
        ),
    )


@router.get("")
async def voice(studio: TheStudio) -> HeardOut:
    """Returns the phrases, what is heard now, and how far a training is."""
    studio.listening.looked_at()
    return _out(studio)


class HeldIn(Shape):
    """A key is held on a page, or no longer; repeated every half second while it is."""

    page: Key
    on: bool


class HeldOut(Shape):
    """Whether the microphone is open already."""

    open: bool


@router.post("/held")
async def held(studio: TheStudio, body: HeldIn) -> HeldOut:
    """Reports that the key for listening is held, or let go."""
    studio.listening.hold(body.page, body.on)
    return HeldOut(open=studio.listening.is_open)


class PhraseIn(Shape):
    phrase: Annotated[str, Field(min_length=1, max_length=80)]


@router.post("/training")
async def begin(studio: TheStudio, body: PhraseIn) -> HeardOut:
    """Begins the training of a phrase."""
    if not any(state.phrase == body.phrase for state in studio.listening.states()):
        raise Refused(404, f"No cue is called by “{body.phrase}”.")
    studio.listening.train(body.phrase)
    return _out(studio)


class StepIn(Shape):
    """The next step: another saying, ordinary talk for some seconds, or the search for how loosely it must be heard."""

    step: Literal["say", "talk", "find"]
    talk_s: Annotated[float, Field(ge=5, le=300)] = TALK_S


@router.post("/training/step")
async def step(studio: TheStudio, body: StepIn) -> HeardOut:
    """Begins the next step of a training."""
    training = studio.listening.training
    if not training.phrase:
        raise Refused(409, "No phrase is being trained.", "Begin the training of one.")
    if body.step == "say":
        studio.listening.say_again()
    elif body.step == "talk":
        studio.listening.talk(body.talk_s)
    elif training.sayings < SAYINGS or not training.talked:
        raise Refused(409, "Something is missing.", "Say the phrase three times, then talk for a while.")
    else:
        studio.listening.find()
    return _out(studio)


@router.delete("/training")
async def end(studio: TheStudio) -> HeardOut:
    """Ends the training, and forgets what was recorded."""
    studio.listening.end_training()
    return _out(studio)


@router.post("/forget")
async def forget(studio: TheStudio, body: PhraseIn) -> HeardOut:
    """Forgets the training of a phrase."""
    studio.listening.forget(body.phrase)
    return _out(studio)


@router.post("/microphones")
async def microphones(studio: TheStudio) -> HeardOut:
    """Looks for microphones; they are known a moment later."""
    studio.listening.look()
    return _out(studio)
