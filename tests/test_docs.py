"""What exists is documented."""

import re
import unittest
from pathlib import Path

import typer.main

from hieranome.cli import app
from hieranome.core.operators import OPERATORS
from hieranome.core.sure import Reach
from hieranome.web.application import build

ROOT = Path(__file__).parent.parent
GUIDE = (ROOT / "docs" / "guide.md").read_text(encoding="utf-8")


class DocumentedTest(unittest.TestCase):
    def test_every_command_and_option(self) -> None:
        """The guide names each command and each of its options."""
        group = typer.main.get_command(app)
        for name, command in group.commands.items():  # type: ignore[attr-defined]
            self.assertIn(f"`hieranome {name}", GUIDE)
            for parameter in command.params:
                for option in parameter.opts:
                    if option.startswith("--") and option != "--help":
                        self.assertIn(f"`{option}`", GUIDE, name)

    def test_every_key(self) -> None:
        """The guide's table holds every key of the interface with its words."""
        source = (ROOT / "frontend" / "src" / "lib" / "actions.ts").read_text(encoding="utf-8")
        bindings = re.findall(r"\{ name: '[^']+', keys: \[((?:'[^']+'(?:, )?)*)\], title: '([^']+)'", source)
        self.assertEqual(len(bindings), source.count("{ name: '"))
        names = {" ": "Space", "ArrowDown": "↓", "ArrowUp": "↑", "ArrowLeft": "←", "ArrowRight": "→", "Escape": "Esc"}
        for keys, title in bindings:
            self.assertIn(title, GUIDE)
            for key in re.findall(r"'([^']+)'", keys):
                held, plain = re.fullmatch(r"((?:Ctrl|Shift)\+)?(.+)", key).groups(default="")  # type: ignore[union-attr]
                self.assertIn(f"`{held}{names.get(plain, plain)}`", GUIDE, title)

    def test_every_setting(self) -> None:
        """Each label, named field and box to tick of the settings stands in the guide."""
        source = ROOT / "frontend" / "src"
        page = (source / "views" / "SettingsView.vue").read_text("utf-8")
        page += "".join(path.read_text("utf-8") for path in (source / "components").glob("*Settings.vue"))
        found = re.findall(r"<label [^>]+>([^<]+)</label>|>(\w[^<]+)</BFormCheckbox", page)
        found += [(name, "") for name in re.findall(r'<BFormInput[^>]* aria-label="([^"]+)"', page)]
        self.assertGreater(len(found), 20)
        for label in ("".join(names) for names in found):
            self.assertIn(re.split(r",| \(", label)[0].lower(), GUIDE.lower())

    def test_the_parts_of_the_settings(self) -> None:
        """The guide names the parts the settings have, in their order, and no part that stands elsewhere."""
        page = (ROOT / "frontend" / "src" / "views" / "SettingsView.vue").read_text("utf-8")
        parts = re.findall(r"{ name: '\w+', title: '([^']+)' }", page)
        told = GUIDE.split("\n## Settings\n")[1].split("\n|")[0].split("on *Senders*")[0]
        self.assertEqual(re.findall(r"\*([^*]+)\*", told), parts)

    def test_every_page(self) -> None:
        """The guide's table of places names every tab of each, and no other; a page apart has its own heading."""
        source = (ROOT / "frontend" / "src" / "pages.ts").read_text("utf-8")
        places = dict(re.findall(r"\{ name: '([^']+)', title: '([^']+)', to:", source))
        rows = dict(
            re.findall(r"(?m)^\| \*\*([\w -]+)\*\* \|([^|]*)\| ", GUIDE.split("eight places")[1].split("\n\nBelow")[0])
        )
        self.assertEqual(set(rows), set(places.values()))
        tabs: dict[str, set[str]] = {name: set() for name in places}
        for page in re.split(r"(?m)^  \{", source.split("PAGES: ")[1]):
            title, place = re.search(r"title: '([^']+)'", page), re.search(r"place: '([^']+)'", page)
            if not title or not place:
                continue
            if "apart: true" in page:
                self.assertRegex(GUIDE, rf"\n## {title[1]}(ing)?\n")
            else:
                tabs[place[1]].add(title[1])
        for name, title in places.items():
            told = {one.strip() for one in rows[title].split(",")} - {""}
            self.assertEqual(told, tabs[name] if len(tabs[name]) > 1 else set(), title)

    def test_every_operator(self) -> None:
        """The guide's table holds every operator of the search line with its words and an example."""
        for one in OPERATORS:
            self.assertIn(f"| `{one.name}:` | {one.title} | `{one.example}` |", GUIDE)

    def test_what_the_field_of_the_subscriptions_compares(self) -> None:
        """The guide names each, and no other."""
        source = (ROOT / "frontend" / "src" / "lib" / "subscriptions.ts").read_text("utf-8")
        names = re.findall(
            r"^  (\w+): \{ of:", source.partition("COMPARED = {")[2].partition("} as const")[0], re.MULTILINE
        )
        told = GUIDE.partition("and compares")[2].partition("each with")[0]
        self.assertEqual(re.findall(r"`(\w+)`", told), names)
        self.assertGreater(len(names), 5)

    def test_no_dead_words(self) -> None:
        """Operators, keys, commands, settings and labels the guide names are there: nothing is told that went away."""
        source = ROOT / "frontend" / "src"
        page = " ".join(
            path.read_text("utf-8")
            for kind in ("*.vue", "*.ts")
            for path in source.rglob(kind)
            if path.name != "schema.ts"
        )
        flat = re.sub(r"\s+", " ", page).lower()
        self.assertEqual(set(re.findall(r"^\| `(\w+):` \|", GUIDE, re.MULTILINE)), {one.name for one in OPERATORS})
        keys = GUIDE.partition("## Keys")[2].partition("## ")[0]
        titles = set(re.findall(r"title: '([^']+)'", (source / "lib" / "actions.ts").read_text("utf-8")))
        for title in re.findall(r"^\| `[^|]+ \| ([^|]+) \|$", keys, re.MULTILINE):
            self.assertIn(title, titles)
        commands = typer.main.get_command(app).commands  # type: ignore[attr-defined]
        for name in re.findall(r"`hieranome (\w+)", GUIDE):
            self.assertIn(name, commands)
        for label in re.findall(r"(?<![*\w])\*([A-Z][^*\n]{2,60})\*(?!\*)", GUIDE):
            self.assertIn(label.lower(), flat, f"*{label}* stands in the guide and nowhere on the page")

    def test_every_request(self) -> None:
        """The API's pages name each path."""
        text = (ROOT / "docs" / "api.md").read_text(encoding="utf-8")
        for path in build(None).openapi()["paths"]:
            tail = path.removeprefix("/api").replace("{number}", "{id}").replace("{step}", "{id}")
            part = "/" + tail.rpartition("/")[2] if tail.count("/") > 2 else tail
            self.assertIn(part, text, path)

    def test_every_reach(self) -> None:
        """The guide explains each reach."""
        for reach in Reach:
            self.assertIn(
                {"learn": "learn from it", "address": "always this sender"}.get(reach.value, reach.value), GUIDE
            )

    def test_screenshots_are_linked(self) -> None:
        """Every picture is linked from the README, and every link leads to a picture."""
        readme = (ROOT / "README.md").read_text(encoding="utf-8")
        linked = set(re.findall(r"docs/screenshots/([\w-]+\.png)", readme))
        self.assertEqual(linked, {path.name for path in (ROOT / "docs" / "screenshots").glob("*.png")})
        self.assertLess(len(linked), 20)

    def test_links_lead_somewhere(self) -> None:
        """Relative links of all documents exist."""
        for document in (*ROOT.glob("*.md"), *ROOT.glob("docs/**/*.md")):
            for link in re.findall(r"\]\((?!https?:)([^)#]+)\)", document.read_text(encoding="utf-8")):
                self.assertTrue((document.parent / link).exists(), f"{document.name}: {link}")
