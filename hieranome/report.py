"""A backtest on the terminal: figures, calibration and the learning curve."""

from __future__ import annotations

from rich.console import Console
from rich.table import Table

from hieranome.app.trial.backtest import Result
from hieranome.core.figures import Bin, Share

_LEVELS = "▁▂▃▄▅▆▇█"


def show(console: Console, result: Result) -> None:
    """Print what a backtest found."""
    found = result.figures
    table = Table("figure", "value", "counts", title=f"{found.messages:,} messages, {result.lessons:,} lessons")
    table.add_row("regret, after the first quarter", f"{found.regret:.1f}", "")
    table.add_row("early regret, within it", f"{found.early_regret:.1f}", "")
    for name, share in (
        ("buried", found.buried),
        ("noise on the Desk", found.noise),
        ("asked", found.asked),
        ("corrected or answered", found.corrections),
    ):
        table.add_row(name, f"{share.value:.1%}", _counts(share))
    table.add_row("put in the wrong low bucket", "", str(found.wrong_low))
    table.add_row("good mail in the Drain", "", str(found.drained_good))
    table.add_row("ranking (area under the curve)", f"{found.auc:.4f}", "")
    table.add_row("calibration error", f"{found.calibration_error:.3f}", "")
    table.add_row("Brier score, share of a constant's", f"{found.brier_share:.2f}", "")
    table.add_row("scored a second", f"{result.scoring_rate:,.0f}", "")
    table.add_row("lessons a second", f"{result.learning_rate:,.0f}", "")
    console.print(table)
    console.print(_recall(found.recall))
    console.print(_reliability(found.reliability))
    console.print(f"Regret along the stream  {curve(found.curve)}  ({found.curve[0]:.0f} to {found.curve[-1]:.0f})")


def _counts(share: Share) -> str:
    return f"{share.part:,} of {share.whole:,}"


def _recall(recall: dict[str, Share]) -> Table:
    table = Table("bucket", "found there", "counts", title="Of what belongs in each")
    for name, share in recall.items():
        table.add_row(name, f"{share.value:.1%}", _counts(share))
    return table


def _reliability(bins: list[Bin]) -> Table:
    table = Table("messages", "mean score", "were important", title="Does a score mean what it says")
    for one in bins:
        table.add_row(str(one.count), f"{one.score:.1%}", f"{one.important:.1%}")
    return table


def curve(values: list[float]) -> str:
    """Numbers as a line of bars, the highest the tallest."""
    top = max(values, default=0.0) or 1.0
    return "".join(_LEVELS[min(len(_LEVELS) - 1, int(value / top * len(_LEVELS)))] for value in values)
