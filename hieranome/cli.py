"""The command line. Each command imports what it needs when it is given, so that none waits for what others need."""

from __future__ import annotations

import json
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer
from platformdirs import user_data_path

from hieranome import __version__
from hieranome.core.errors import HieranomeError

if TYPE_CHECKING:
    from hieranome.app.room.mailroom import Mailroom
    from hieranome.store.imports import ImportJob

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
    from rich.console import Console
    from rich.progress import BarColumn, DownloadColumn, Progress, TextColumn, TimeRemainingColumn

    from hieranome.app.arrival import importing
    from hieranome.app.mailbox.first_round import ANSWERS
    from hieranome.app.room.mailroom import Mailroom
    from hieranome.store import imports

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
        if job.added and len(room.engine) < ANSWERS:
            asks = (
                "Next: start it with “hieranome serve” and open Import under Settings, which asks up to ten questions."
            )
            typer.echo(asks)
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
    from hieranome.app.room.mailroom import Mailroom
    from hieranome.app.service import Service
    from hieranome.serving import Reach, serve_until_stopped, trusted

    reach = Reach.checked(host, port, name or [], tls_cert, tls_key, behind_proxy=behind_proxy)
    trust = trusted(ca)
    room = Mailroom(data)
    if owner:
        room.set_owner([*room.owner.addresses, *owner])
    serve_until_stopped(Service.of(room, trust=trust), reach)


@app.command("password")
def set_password(data: Data = DEFAULT_DATA) -> None:
    """Set the sign-in password anew, when it was forgotten. Secrets sealed with the old one must be entered again."""
    from hieranome.app.access.entry import Entry
    from hieranome.app.access.vault import Vault
    from hieranome.app.room.mailroom import Mailroom

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
    from hieranome.app import exporting
    from hieranome.app.room.mailroom import Mailroom

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
    from hieranome.app import exporting
    from hieranome.app.room.mailroom import Mailroom

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
    """Serve the demo: three years of a made-up mailbox, and a day that goes on arriving."""
    from hieranome.demo import house
    from hieranome.serving import Reach, serve_until_stopped

    service = house.open_demo(data, interval=interval, say=typer.echo)
    assert service.delivery is not None
    service.delivery.start(running=not paused)
    serve_until_stopped(service, Reach(port))


@app.command("mailgen")
def generate(
    count: Annotated[int, typer.Option("--count", min=1, help="How many messages.")],
    out: Annotated[Path, typer.Option("--out", help="The mbox to write.")],
    seed: Annotated[int, typer.Option("--seed", help="The same seed writes the same mail.")] = 1,
    truth: Annotated[Path | None, typer.Option("--truth", help="A CSV of where each message belongs.")] = None,
    exchanges: Annotated[
        bool, typer.Option("--exchanges", help="Also threads the owner begins, and promises, beyond that number.")
    ] = False,
) -> None:
    """Write any amount of the demo's world as an mbox, for measurements."""
    from hieranome.demo import mailgen

    written = mailgen.write(count, seed, out, truth, exchanges=exchanges)
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
    from rich.console import Console
    from rich.progress import BarColumn, DownloadColumn, Progress, TextColumn, TimeRemainingColumn

    from hieranome import report
    from hieranome.app.trial import backtest
    from hieranome.core.facts import Owner

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
        typer.secho(str(exc), fg=typer.colors.RED, err=True)
        sys.exit(exc.exit_code)


if __name__ == "__main__":
    main()
