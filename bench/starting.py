"""How long the program takes to begin: its commands from their start to their end, and of what that consists.

    .venv/bin/python -m bench.starting [--beside CHECKOUT] [--times 7]

Times ``version``, an import of three letters and a refused ``serve``, each as a whole process; with --beside also those of
another checkout, with its own .venv, by turns in the same run. Then the packages whose import takes longest when three letters are
imported, in milliseconds, each with what it imports.
"""

from __future__ import annotations

import argparse
import platform
import re
import statistics
import subprocess
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path

HERE = Path(__file__).resolve().parent.parent
LETTERS = 3
HEAVY = 12
_IMPORT = re.compile(r"import time:\s+\d+ \|\s+(\d+) \|( +)([\w.]+)$")


def letters(folder: Path) -> Path:
    """A folder with three letters."""
    box = folder / "letters"
    box.mkdir()
    for number in range(LETTERS):
        text = f"From: a{number}@hall.example\r\nSubject: Letter {number}\r\n\r\nShall we?\r\n"
        (box / f"{number}.eml").write_bytes(text.encode())
    return box


def once(checkout: Path, words: Sequence[str]) -> float:
    """Seconds of one command as a whole."""
    began = time.perf_counter()
    command = [str(checkout / ".venv" / "bin" / "python"), "-m", "hieranome.cli", *words]
    subprocess.run(command, cwd=checkout, check=False, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    return time.perf_counter() - began


def commands(folder: Path, box: Path, number: int) -> dict[str, list[str]]:
    """What is timed, in data folders of its own."""
    data = str(folder / f"data{number}")
    return {
        "version": ["version"],
        "import of three letters": ["import", str(box), "--data", data, "--not-mine"],
        "serve, refused": ["serve", "--data", data, "--host", "0.0.0.0"],
    }


def heavy(folder: Path, box: Path) -> list[tuple[int, str]]:
    """What takes longest to import for three letters: microseconds, and of which module."""
    command = [str(HERE / ".venv" / "bin" / "python"), "-X", "importtime", "-m", "hieranome.cli"]
    words = commands(folder, box, -1)["import of three letters"]
    told = subprocess.run([*command, *words], cwd=HERE, check=True, capture_output=True, text=True).stderr
    found = [match for line in told.splitlines() if (match := _IMPORT.match(line))]
    return sorted(((int(one[1]), one[3]) for one in found), reverse=True)[:HEAVY]


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--beside", type=Path, help="another checkout, set up by 'make setup'")
    parser.add_argument("--times", type=int, default=7)
    arguments = parser.parse_args()
    checkouts = [HERE, *([arguments.beside.resolve()] if arguments.beside else [])]
    print(f"{platform.machine()}, Python {platform.python_version()}; seconds: median, least, most")
    taken: dict[tuple[str, Path], list[float]] = {}
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        box = letters(folder)
        for number in range(arguments.times):
            for at, checkout in enumerate(checkouts):
                for name, words in commands(folder, box, number * len(checkouts) + at).items():
                    taken.setdefault((name, checkout), []).append(once(checkout, words))
        for (name, checkout), seconds in taken.items():
            figures = f"{statistics.median(seconds):8.2f}{min(seconds):8.2f}{max(seconds):8.2f}"
            print(f"{name:<26}{'here' if checkout == HERE else checkout.name:<12}{figures}")
        for micros, module in heavy(folder, box):
            print(f"{micros / 1000:8.0f} ms  {module}")


if __name__ == "__main__":
    main()
