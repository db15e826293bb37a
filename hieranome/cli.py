"""The command line."""

from __future__ import annotations

import json
import os
import ssl
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

import typer
import uvicorn
from platformdirs import user_data_path
from rich.console import Console
from rich.progress import BarColumn, DownloadColumn, Progress, TextColumn, TimeRemainingColumn

from hieranome import __version__, report
from hieranome.app import backtest, exporting, importing
from hieranome.app.entry import Entry
from hieranome.app.mailroom import Mailroom
from hieranome.app.vault import Vault
from hieranome.core.errors import CallerError, HieranomeError
from hieranome.core.facts import Owner
from hieranome.demo import house, mailgen
from hieranome.store import imports
from hieranome.store.imports import ImportJob
from hieranome.web.application import build
from hieranome.web.guard import LOOPBACK
from hieranome.web.state import Served

app = typer.Typer(
    name="hieranome",
    help="Mail weighed and ordered by what matters to you.",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
)

Data = Annotated[Path, typer.Option("--data", help="Folder that holds everything Hieranome knows.")]
Owners = Annotated[
    list[str] | None, typer.Option("--owner", help="An address you receive mail at; may be given several times.")
]
Port = Annotated[int, typer.Option("--port", min=0, max=65535, help="Port to serve the page on.")]
DEFAULT_DATA = user_data_path("hieranome")


@app.command("import")
def import_mail(
    path: Annotated[Path, typer.Argument(help="An mbox, a message, a Maildir, or a folder of these.")],
    data: Data = DEFAULT_DATA,
    owner: Owners = None,
    mine: Annotated[
        bool | None, typer.Option("--mine/--not-mine", help="Whether mail in it from your own addresses is yours.")
    ] = None,
) -> None:
    """Read mail from disk into the data folder. Safe to repeat; goes on where it was cut off."""
    room = Mailroom(data)
    try:
        if owner:
            room.set_owner([*room.owner.addresses, *owner])
        if mine is None:
            mine = _ask_whether_mine(room)
        job = importing.begin(room, path, mine=mine)
        for skipped, why in imports.skipped(room.reader(), job.id):
            typer.echo(f"Passed over {skipped}: {why}", err=True)
        columns = (TextColumn("{task.description}"), BarColumn(), DownloadColumn(), TimeRemainingColumn())
        with Progress(*columns, console=Console(stderr=True)) as bar:
            task = bar.add_task("Reading", total=max(job.bytes_total, 1), completed=job.bytes_done)

            def show(now: ImportJob) -> None:
                bar.update(task, completed=now.bytes_done, description=f"{now.state.capitalize()} {now.added:,}")

            job = importing.run(room, job, show)
        typer.echo(f"{job.added:,} messages imported, {job.known:,} were here already.")
    finally:
        room.close()


def _ask_whether_mine(room: Mailroom) -> bool:
    """The owner's word on mail that bears their own address: anybody can write it, so it is asked for."""
    if not room.owner.addresses:
        return False
    if not sys.stdin.isatty():
        typer.echo("Mail from your own addresses is taken for others'; if it is yours, add --mine.", err=True)
        return False
    return typer.confirm(f"Is mail from {', '.join(sorted(room.owner.addresses))} in it yours?", default=True)


@app.command()
def serve(
    data: Data = DEFAULT_DATA,
    port: Port = 8025,
    owner: Owners = None,
    host: Annotated[str, typer.Option("--host", help="Address to listen on; beyond this machine it needs TLS.")] = "",
    name: Annotated[
        list[str] | None, typer.Option("--name", help="A host name the page is reached under; may be given again.")
    ] = None,
    tls_cert: Annotated[Path | None, typer.Option("--tls-cert", help="Certificate chain (PEM).")] = None,
    tls_key: Annotated[Path | None, typer.Option("--tls-key", help="The certificate's key (PEM).")] = None,
    behind_proxy: Annotated[
        bool, typer.Option("--behind-proxy", help="A proxy that speaks TLS stands before it.")
    ] = False,
    ca: Annotated[
        Path | None, typer.Option("--ca", help="Certificates (PEM) to trust for mail servers, besides the system's.")
    ] = None,
) -> None:
    """Serve the page: on this machine, or with TLS on others too."""
    reach = Reach.checked(host, port, name or [], tls_cert, tls_key, behind_proxy=behind_proxy)
    trust = _trust(ca)
    room = Mailroom(data)
    if owner:
        room.set_owner([*room.owner.addresses, *owner])
    _serve(Served.of(room, trust=trust), reach)


@app.command("password")
def set_password(data: Data = DEFAULT_DATA) -> None:
    """Set the sign-in password anew, when it was forgotten. Secrets sealed with the old one must be entered again."""
    room = Mailroom(data)
    try:
        vault = Vault(data)
        given = typer.prompt("New password", hide_input=True, confirmation_prompt=True)
        vault.drop_sealed()
        Entry(data, vault, room.clock).set_password(given)
        typer.echo("The password is set.")
    finally:
        room.close()


@app.command("export")
def export_mail(out: Annotated[Path, typer.Argument(help="The zip to write.")], data: Data = DEFAULT_DATA) -> None:
    """Write everything into a zip: mail as mbox files, lessons, states and settings as JSON Lines."""
    room = Mailroom(data)
    try:
        typer.echo(f"{exporting.export(room, out):,} messages written to {out}.")
    finally:
        room.close()


@app.command("restore")
def restore_mail(
    source: Annotated[Path, typer.Argument(help="A zip that 'export' wrote.")], data: Data = DEFAULT_DATA
) -> None:
    """Bring an export into a new data folder: the same mail, lessons and scores."""
    room = Mailroom(data)
    try:
        typer.echo(f"{exporting.restore(room, source):,} messages brought in.")
    finally:
        room.close()


@app.command()
def demo(
    data: Annotated[Path, typer.Option("--data", help="Folder for the demo's data, made anew when older than a day.")],
    port: Port = 8025,
    interval: Annotated[float, typer.Option("--interval", min=0.2, help="Seconds between arriving messages.")] = 6.0,
    paused: Annotated[bool, typer.Option("--paused", help="Begin with the arriving day paused.")] = False,
) -> None:
    """Serve the demo: sixty days of a made-up mailbox, and a day that goes on arriving."""
    served = house.open_demo(data, interval=interval, say=typer.echo)
    assert served.delivery is not None
    served.delivery.start(running=not paused)
    _serve(served, Reach(port))


@app.command("mailgen")
def generate(
    count: Annotated[int, typer.Option("--count", min=1, help="How many messages.")],
    out: Annotated[Path, typer.Option("--out", help="The mbox to write.")],
    seed: Annotated[int, typer.Option("--seed", help="The same seed writes the same mail.")] = 1,
    truth: Annotated[Path | None, typer.Option("--truth", help="A CSV of where each message belongs.")] = None,
) -> None:
    """Write any amount of the demo's world as an mbox, for measurements."""
    written = mailgen.write(count, seed, out, truth)
    typer.echo(f"{written:,} messages written to {out}.")


@app.command("backtest")
def backtest_mail(
    mail: Annotated[Path, typer.Option("--mail", help="An mbox, a Maildir or a folder of mail.")],
    truth: Annotated[Path, typer.Option("--truth", help="A CSV with message_id and bucket.")],
    correct: Annotated[
        float, typer.Option("--correct", min=0.0, max=1.0, help="The share of mistakes the reader corrects.")
    ] = 1.0,
    seed: Annotated[int, typer.Option("--seed", help="Draws which mistakes are corrected.")] = 1,
    owner: Owners = None,
    desk_like: Annotated[
        list[str] | None, typer.Option("--desk-like", help="An own bucket of the truth that is for important mail.")
    ] = None,
    out: Annotated[Path | None, typer.Option("--out", help="A CSV to write the predictions to.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print the figures as JSON.")] = False,
) -> None:
    """Replay a mailbox whose truths are known, and say how good the engine would have been."""
    plan = backtest.Plan(correct, seed, Owner.of(*(owner or ())), tuple(desk_like or ()))
    columns = (TextColumn("{task.description}"), BarColumn(), DownloadColumn(), TimeRemainingColumn())
    with Progress(*columns, console=Console(stderr=True), transient=True) as bar:
        task = bar.add_task("Replaying", total=None)
        result = backtest.run_files(mail, truth, plan, lambda done, of: bar.update(task, completed=done, total=of))
    if out is not None:
        backtest.write_predictions(out, result)
    if as_json:
        typer.echo(json.dumps(backtest.as_data(result), indent=2))
    else:
        report.show(Console(), result)


@app.command()
def version() -> None:
    """Print the version."""
    typer.echo(__version__)


@dataclass(frozen=True, slots=True)
class Reach:
    """How the page is reached."""

    port: int
    host: str = "127.0.0.1"
    names: tuple[str, ...] = LOOPBACK
    cert: Path | None = None
    key: Path | None = None
    secure: bool = False
    behind_proxy: bool = False

    @classmethod
    def checked(
        cls, host: str, port: int, names: list[str], cert: Path | None, key: Path | None, *, behind_proxy: bool
    ) -> Reach:
        """Raises :class:`CallerError` for what would let a password go over a network in clear."""
        if (cert is None) != (key is None):
            raise CallerError("Give both --tls-cert and --tls-key, or neither.")
        for file in (cert, key):
            if file is not None and not file.is_file():
                raise CallerError(f"{file} is no file. Name the PEM file with --tls-cert or --tls-key.")
        if host in ("", *LOOPBACK):
            secure = cert is not None or behind_proxy
            return cls(port, host or "127.0.0.1", (*LOOPBACK, *names), cert, key, secure, behind_proxy)
        if cert is None and not behind_proxy:
            raise CallerError(
                f"On {host} other machines could read along. Give --tls-cert and --tls-key, or --behind-proxy when a "
                "proxy that speaks TLS stands before it."
            )
        if not names:
            raise CallerError("Name the host it is reached under with --name, so that other names can be refused.")
        return cls(port, host, (*LOOPBACK, *names), cert, key, True, behind_proxy)


def _trust(ca: Path | None) -> ssl.SSLContext | None:
    if ca is None:
        return None
    context = ssl.create_default_context()
    try:
        context.load_verify_locations(ca)
    except (OSError, ssl.SSLError) as exc:
        raise CallerError(f"{ca} holds no certificates that can be read ({exc}). Name a PEM file.") from exc
    return context


def _serve(served: Served, reach: Reach) -> None:
    config = uvicorn.Config(
        build(served, reach.names, port=reach.port, secure=reach.secure),
        host=reach.host,
        port=reach.port,
        log_level="warning",
        timeout_graceful_shutdown=2,
        ssl_certfile=reach.cert,
        ssl_keyfile=reach.key,
        proxy_headers=reach.behind_proxy,
        forwarded_allow_ips="127.0.0.1",
    )
    server = _AnnouncingServer(config)
    server.code = served.entry.code
    server.name = reach.names[len(LOOPBACK)] if len(reach.names) > len(LOOPBACK) else "127.0.0.1"
    try:
        server.run()
    finally:
        served.close()


class _AnnouncingServer(uvicorn.Server):
    """Prints the address once it is served, and the code that sets the first password."""

    code = ""
    name = "127.0.0.1"

    async def startup(self, sockets: list[object] | None = None) -> None:  # type: ignore[override]
        await super().startup(sockets)  # type: ignore[arg-type]
        if self.started:
            port = self.servers[0].sockets[0].getsockname()[1]
            scheme = "https" if self.config.is_ssl else "http"
            typer.echo(f"Hieranome is at {scheme}://{self.name}:{port}/  (Ctrl+C ends it)")
            if self.code:
                typer.echo(f"Choose a password there with this code: {self.code}")
            sys.stdout.flush()


def main() -> None:
    """Run the command line; errors of ours become one clear sentence and an exit code."""
    os.umask(0o077)  # what it writes is its owner's alone
    try:
        app()
    except BrokenPipeError:
        # Whoever read what was printed has read enough. The signal for it stays ignored: it would end a server at the
        # first write to a connection that broke.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        sys.exit(1)
    except HieranomeError as exc:
        Console(stderr=True).print(str(exc), style="red", markup=False, highlight=False)
        sys.exit(exc.exit_code)


if __name__ == "__main__":
    main()
