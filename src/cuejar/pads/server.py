"""The servers of the pads' port: one for this computer alone, and one on an address that the streamer has switched on."""

from __future__ import annotations

import asyncio
import contextlib
import errno
import ssl
from collections.abc import Callable, Iterator
from pathlib import Path
from socket import AF_INET, SO_REUSEADDR, SOCK_STREAM, SOL_SOCKET, socket
from typing import TYPE_CHECKING, NamedTuple

import ifaddr
import uvicorn
from sqlalchemy import select
from sqlalchemy.dialects.sqlite import insert
from starlette.types import ASGIApp

from cuejar.core.rules.pairing import Known
from cuejar.live.troubles import Troubles
from cuejar.live.watch import Watch
from cuejar.pads.app import pads_app
from cuejar.pads.door import Door
from cuejar.quiet import QuietServer
from cuejar.settings import WEB, CannotStart
from cuejar.store.models import MetaRow
from cuejar.studio import Studio

if TYPE_CHECKING:
    from cryptography import x509

HERE, HERE_TOO = "127.0.0.1", "localhost"
AGAIN_S = 2.0
STOP_S = 2


class Certificate(NamedTuple):
    """A certificate with its key, as files, and its host names."""

    cert: Path
    key: Path
    names: list[str]


def read_certificate(cert: Path | None, key: Path | None) -> Certificate | None:
    """Returns the streamer's certificate; None without one.

    Raises:
        CannotStart: one of the two is missing, they can't be read, or don't belong together.
    """
    if cert is None and key is None:
        return None
    if cert is None or key is None:
        raise CannotStart("A certificate for the pads needs both --pads-cert and --pads-key.")
    from cryptography import x509

    try:
        ssl.create_default_context(ssl.Purpose.CLIENT_AUTH).load_cert_chain(cert, key, password=lambda: "")
        first = x509.load_pem_x509_certificates(cert.read_bytes())[0]
    except (OSError, ValueError) as error:  # An SSLError is an OSError.
        why = getattr(error, "strerror", None) or getattr(error, "reason", None) or str(error)
        raise CannotStart(f"The pads' certificate {cert} with {key} can’t be used: {why}.") from error
    return Certificate(cert, key, _names(first))


def _names(certificate: x509.Certificate) -> list[str]:
    from cryptography import x509
    from cryptography.x509.oid import ExtensionOID

    try:
        found = certificate.extensions.get_extension_for_oid(ExtensionOID.SUBJECT_ALTERNATIVE_NAME).value
    except x509.ExtensionNotFound:
        return []
    assert isinstance(found, x509.SubjectAlternativeName)
    names = [name for name in found.get_values_for_type(x509.DNSName) if "*" not in name]
    return names + [str(address) for address in found.get_values_for_type(x509.IPAddress)]


def addresses() -> list[str]:
    """Returns the IPv4 addresses of this computer that others may reach, those of home networks first."""
    found = {ip.ip for adapter in ifaddr.get_adapters() for ip in adapter.ips if isinstance(ip.ip, str)}
    private = ("192.168.", "10.", "172.")
    return sorted((ip for ip in found if not ip.startswith("127.")), key=lambda ip: (not ip.startswith(private), ip))


class _Server(QuietServer):
    """One of several in a process: it doesn't handle signals. ``listening`` is called once it accepts connections."""

    def __init__(self, config: uvicorn.Config, listening: Callable[[], None], known: Known) -> None:
        super().__init__(config)
        self._listening, self._known = listening, known

    async def startup(self, sockets: list[socket] | None = None) -> None:
        """Accepts connections through our own door."""
        assert sockets is not None
        await self.lifespan.startup()
        config, made = self.config, self.config.http_protocol_class

        def protocol() -> asyncio.Protocol:
            whole: asyncio.Protocol = made(  # type: ignore[call-arg]
                config=config, server_state=self.server_state, app_state=self.lifespan.state
            )
            return whole

        doors = [Door(bound, protocol, config.ssl, self._known) for bound in sockets]
        for door in doors:
            door.start()
        self.servers = doors  # type: ignore[assignment]
        self.started = True
        self._listening()

    @contextlib.contextmanager
    def capture_signals(self) -> Iterator[None]:
        yield


class PadsServer:
    """Serves the pads. ``beyond`` is the address of this computer on which others may connect too; empty: none.

    Attributes:
        key: where the address is stored: it belongs to this computer, not to the book.
        here: whether it is served on this computer itself, too.
    """

    key, name, title = "pads_address", "pads", "Pads"
    mend = "Pads cannot be reached there; look at the Pads page."
    here = True
    most_message = 8_000

    def __init__(self, studio: Studio, port: int, certificate: Certificate | None = None) -> None:
        self._studio, self.port, self.certificate = studio, port, certificate
        self.known = studio.pads.known
        self._again = asyncio.Event()
        self.listens: dict[str, bool] = {}
        """The addresses it listens on, and whether by HTTPS."""
        with studio.sessions() as session:
            self.beyond = session.scalar(select(MetaRow.value).where(MetaRow.key == self.key)) or ""

    @property
    def _watch(self) -> Watch:
        return self._studio.watch

    @property
    def _troubles(self) -> Troubles:
        return self._studio.troubles

    def start(self) -> None:
        if self.here:
            self._watch.keep(f"{self.name}’ port", lambda: self._keep(HERE, [HERE, HERE_TOO], None))
        self._watch.keep(f"{self.name}’ port beyond", self._keep_beyond)

    async def listening(self, patience_s: float) -> None:
        """Waits until it listens where it should; not longer than this, as a port may be taken."""
        asked = {*([HERE] if self.here else []), *([self.beyond] if self.beyond else [])}
        with contextlib.suppress(TimeoutError):
            async with asyncio.timeout(patience_s):
                while not asked <= self.listens.keys():
                    await asyncio.sleep(0.01)

    async def stop(self) -> None:
        await self._watch.stop(f"{self.name}’ port", f"{self.name}’ port beyond")

    def app(self, names: list[str], scheme: str, web: Path) -> ASGIApp:
        """Returns what is served."""
        return pads_app(self._studio.pads, self._studio.hands, web, self.port, names, scheme)

    def names(self) -> list[str]:
        """Returns the host names for devices: the first is used in links."""
        named = self.certificate.names if self.certificate is not None else []
        return list(dict.fromkeys([*named, self.beyond]))

    def link(self, beyond: bool = True) -> str:
        """Returns the address of the pads, for a device elsewhere or for one here."""
        if not beyond or not self.beyond:
            return f"http://{HERE}:{self.port}/"
        return f"{'https' if self.certificate is not None else 'http'}://{self.names()[0]}:{self.port}/"

    async def listen_beyond(self, address: str) -> None:
        """Lets others connect on an address of this computer, or on none. Raises CannotWrite."""
        row = {"key": self.key, "value": address}
        query = insert(MetaRow).values(row).on_conflict_do_update(index_elements=["key"], set_=row)
        await self._studio.writer.do(lambda connection: connection.execute(query))
        if address != self.beyond:
            self.beyond = address
            self._again.set()

    async def _keep_beyond(self) -> None:
        while True:
            self._again.clear()
            self._troubles.gone(f"{self.name}-beyond")
            if self.beyond:
                serving = asyncio.create_task(self._keep(self.beyond, self.names(), self.certificate))
                again = asyncio.create_task(self._again.wait())
                try:
                    await asyncio.wait([serving, again], return_when=asyncio.FIRST_COMPLETED)
                    if serving.done():
                        await serving  # It failed: the watch reports it, and restarts it after a pause.
                finally:
                    again.cancel()
                    serving.cancel()
                    await asyncio.gather(serving, return_exceptions=True)
            else:
                await self._again.wait()

    async def _keep(self, where: str, names: list[str], certificate: Certificate | None) -> None:
        """Serves on one address; retries while it is unavailable."""
        trouble = f"{self.name}-here" if where == HERE and certificate is None else f"{self.name}-beyond"
        while True:
            try:
                bound = _bound(where, self.port)
            except OSError as error:
                self._troubles.has(trouble, self._why(where, error), self.mend)
                await asyncio.sleep(AGAIN_S)
                continue
            self._troubles.gone(trouble)
            try:
                await self._serve(bound, where, names, certificate)
            finally:
                self.listens.pop(where, None)
                bound.close()

    def _why(self, address: str, error: OSError) -> str:
        if error.errno == errno.EADDRNOTAVAIL:
            return f"{address} is no longer an address of this computer."
        if error.errno == errno.EADDRINUSE:
            return f"Port {self.port} for the {self.name} is used by another program."
        return f"{self.title} can’t listen on {address}:{self.port} ({error.strerror or error})."

    async def _serve(self, bound: socket, where: str, names: list[str], certificate: Certificate | None) -> None:
        scheme = "https" if certificate is not None else "http"
        server = _Server(
            uvicorn.Config(
                self.app(names, scheme, WEB),
                log_level="warning",
                access_log=False,
                lifespan="off",
                ws_max_size=self.most_message,
                ws_ping_interval=10,
                ws_ping_timeout=10,
                ws_per_message_deflate=False,
                timeout_graceful_shutdown=STOP_S,
                ssl_certfile=certificate.cert if certificate is not None else None,
                ssl_keyfile=certificate.key if certificate is not None else None,
            ),
            lambda: self.listens.update({where: certificate is not None}),
            self.known,
        )
        serving = asyncio.create_task(server.serve([bound]))
        try:
            await asyncio.shield(serving)
        finally:
            server.should_exit = server.force_exit = True
            with contextlib.suppress(TimeoutError):
                async with asyncio.timeout(STOP_S):
                    await asyncio.gather(serving, return_exceptions=True)


def _bound(address: str, port: int) -> socket:
    made = socket(AF_INET, SOCK_STREAM)
    try:
        made.setsockopt(SOL_SOCKET, SO_REUSEADDR, 1)
        made.bind((address, port))
    except OSError:
        made.close()
        raise
    return made
