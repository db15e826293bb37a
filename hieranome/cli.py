"""The command line."""

from __future__ import annotations

import json
import signal
import sys
import threading
from pathlib import Path
from typing import Annotated

import typer
import uvicorn
from platformdirs import user_data_path
from rich.console import Console
from rich.progress import BarColumn, DownloadColumn, Progress, TextColumn, TimeRemainingColumn

from hieranome import __version__, report
from hieranome.app import backtest, importing
from hieranome.app.mailroom import Mailroom
from hieranome.core.errors import HieranomeError
from hieranome.core.facts import Owner
from hieranome.demo import house, mailgen
from hieranome.store.imports import ImportJob
from hieranome.web.application import build
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
) -> None:
    """Read mail from disk into the data folder. Safe to repeat; goes on where it was cut off."""
    room = Mailroom(data)
    try:
        if owner:
            room.set_owner([*room.owner.addresses, *owner])
        job = importing.begin(room, path)
        columns = (TextColumn("{task.description}"), BarColumn(), DownloadColumn(), TimeRemainingColumn())
        with Progress(*columns, console=Console(stderr=True)) as bar:
            task = bar.add_task("Reading", total=max(job.bytes_total, 1), completed=job.bytes_done)

            def show(now: ImportJob) -> None:
                bar.update(task, completed=now.bytes_done, description=f"{now.state.capitalize()} {now.added:,}")

            job = importing.run(room, job, show)
        typer.echo(f"{job.added:,} messages imported, {job.known:,} were here already.")
    finally:
        room.close()


@app.command()
def serve(data: Data = DEFAULT_DATA, port: Port = 8025, owner: Owners = None) -> None:
    """Serve the page on this machine."""
    room = Mailroom(data)
    if owner:
        room.set_owner([*room.owner.addresses, *owner])
    _serve(Served.of(room), port)


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
    _serve(served, port)


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


def _serve(served: Served, port: int) -> None:
    config = uvicorn.Config(
        build(served), host="127.0.0.1", port=port, log_level="warning", timeout_graceful_shutdown=2
    )
    server = _AnnouncingServer(config)
    try:
        server.run()
    finally:
        served.room.close()


class _AnnouncingServer(uvicorn.Server):
    """Prints the address once it is served."""

    async def startup(self, sockets: list[object] | None = None) -> None:  # type: ignore[override]
        await super().startup(sockets)  # type: ignore[arg-type]
        if self.started:
            port = self.servers[0].sockets[0].getsockname()[1]
            typer.echo(f"Hieranome is at http://127.0.0.1:{port}/  (Ctrl+C ends it)")
            sys.stdout.flush()


def main() -> None:
    """Run the command line; errors of ours become one clear sentence and an exit code."""
    if threading.current_thread() is threading.main_thread() and hasattr(signal, "SIGPIPE"):
        signal.signal(signal.SIGPIPE, signal.SIG_DFL)
    try:
        app()
    except HieranomeError as exc:
        Console(stderr=True).print(str(exc), style="red", markup=False, highlight=False)
        sys.exit(exc.exit_code)


if __name__ == "__main__":
    main()
