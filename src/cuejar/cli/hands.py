"""Keys pressed on this computer for the Cue Jar on another one."""

from __future__ import annotations

import asyncio
from contextlib import suppress
from pathlib import Path
from typing import Annotated

import typer

from cuejar.cli.base import app, fail


@app.command()
def hands(
    address: Annotated[
        str, typer.Argument(help="Where Cue Jar is, as the Rig page shows it under Keys. Only needed once.")
    ] = "",
    code: Annotated[str, typer.Argument(help="The code shown there, for pairing.")] = "",
    state: Annotated[
        Path | None, typer.Option(help="The file with this computer's key and what it pressed.", dir_okay=False)
    ] = None,
    trust: Annotated[
        Path | None, typer.Option(help="Cue Jar's certificate (PEM), if this system doesn't know it.", dir_okay=False)
    ] = None,
    forget: Annotated[bool, typer.Option("--forget", help="Forget the pairing, and end.")] = False,
) -> None:
    """Presses keys on this computer when cues of the Cue Jar on another computer ask for it, until Ctrl-C.

    On the other computer: Rig, Keys, Set up, Press keys on another computer. Type here what it shows.

    \b
    Example: cuejar hands 192.168.1.20 K7QX-2MPA-RB5D-XW3F
    """
    import ssl

    from cuejar.core.rules.pairing import of_code
    from cuejar.hands import Hands, Memory, Over, address_of
    from cuejar.live.drivers.base import AwayError
    from cuejar.live.drivers.keyboard import OwnKeyboard
    from cuejar.platform import Lock, Taken, interrupted_by_stop, remove
    from cuejar.settings import Settings

    path = state or Settings().hands
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        lock = Lock(path.with_suffix(".lock"))
    except Taken:
        fail("cuejar hands is already running on this computer.")
    except OSError as error:
        fail(f"{path} can’t be written: {error.strerror or error}.")
    try:
        if forget:
            remove(path)
            typer.echo("Forgotten. Remove this computer on the Rig page, too.")
            return
        memory = Memory(path)
        where = address_of(address) if address else memory.kept.address
        if not where or not (code or memory.kept.device):
            fail("Not paired yet. On the other computer: Rig, Keys, Set up, Press keys on another computer.", 2)
        if code:
            of_code(code)
        keyboard = OwnKeyboard()
        trusted = ssl.create_default_context(cafile=trust) if trust is not None else ssl.create_default_context()

        async def serve() -> None:
            await keyboard.open()
            await Hands(memory, keyboard, typer.echo, code, trusted).serve(where)

        interrupted_by_stop()  # Keys that are down just then are let go.
        with suppress(KeyboardInterrupt):
            asyncio.run(serve())
    except Over as error:
        fail(str(error))
    except AwayError as error:
        why = str(error)
        fail(f"{why[0].upper()}{why[1:].removesuffix('.')}.")
    except ValueError as error:
        fail(str(error))
    except OSError as error:  # The certificate.
        fail(f"{trust} can’t be used: {error.strerror or error}.")
    finally:
        lock.close()
