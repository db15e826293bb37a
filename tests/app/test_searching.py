"""The search line at work: understood, completed, kept by name."""

from contextlib import suppress
from itertools import product

from hieranome.app import filing, searching
from hieranome.core.errors import CallerError, NotFound
from hieranome.core.query import QueryError
from hieranome.store import searches
from tests.support import NOON, RoomCase, letter, offer


class SearchingTest(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        self.rider = self.take(letter("Rider for the 19th", body="Risers and a harp stool, please."))
        self.offers = [self.take(offer(n)) for n in range(5)]

    def found(self, line: str, order: str = "relevance") -> list[int]:
        return [one.id for one in searching.find(self.room, line, order, "", 50).page.messages]  # type: ignore[arg-type]

    def test_words_people_lists_and_places(self) -> None:
        """The first things anybody looks for."""
        self.assertEqual(self.found("harp stool"), [self.rider])
        self.assertEqual(self.found("from:brandel"), [self.rider])
        self.assertEqual(set(self.found("list:birchbow")), set(self.offers))
        place = self.row(self.rider).place
        self.assertIn(self.rider, self.found(f"bucket:{place}"))

    def test_a_words_beginning_finds_it(self) -> None:
        """From three letters on; quotation marks mean the whole word, and so does an operator."""
        self.assertEqual(self.found("rise har"), [self.rider])
        for line in ('"rise"', "ri", "subject:ride", "-rider rise"):
            self.assertEqual(self.found(line), [], line)
        self.assertEqual(self.found("subject:ride*"), [self.rider])

    def test_where_nothing_is_found_there_is_something_instead(self) -> None:
        """Another spelling, or a condition fewer, each with what it finds; nothing where nothing would."""
        self.take(letter("Another rider"))
        found = searching.instead(self.room, "ridr stool from:brandel")
        self.assertEqual((found[0].line, found[0].total, found[0].beyond), ("rider stool from:brandel", 1, False))
        self.assertIn(("stool from:brandel", 1), [(one.line, one.total) for one in found])
        for one in found:
            self.assertEqual(len(self.found(one.line)), one.total)
        self.assertEqual(searching.instead(self.room, "ridr stol")[0].line, "rider stool")
        self.take(letter("Nothing of it", body="This is not what was meant."))
        self.assertEqual(searching.instead(self.room, "nott")[0].line, '"not"')
        many = searching.instead(self.room, " ".join(f"qqq{n}" for n in range(50)) + " rider")
        self.assertEqual(many, [])
        self.assertEqual(searching.instead(self.room, "xylophonist"), [])
        self.assertEqual(searching.instead(self.room, "a or b"), [])
        self.assertEqual(searching.instead(self.room, '"ridr"'), [])

    def test_filed_mail_is_found_again(self) -> None:
        """What was archived is found by its words and by its place."""
        filing.file_away(self.room, [self.rider], "archive")
        self.assertEqual(self.found("bucket:archive"), [self.rider])
        self.assertEqual(self.found("risers"), [self.rider])

    def test_the_count_is_of_all_pages(self) -> None:
        """A first page says how many there are."""
        found = searching.find(self.room, "offer", "time", "", 2)
        self.assertEqual((len(found.page.messages), found.total, found.beyond), (2, 5, False))
        following = searching.find(self.room, "offer", "time", found.page.next, 2)
        self.assertEqual(len(following.page.messages), 2)

    def test_dates_are_the_owners(self) -> None:
        """Relative dates count from the room's clock."""
        self.clock.now = NOON + 20 * 86_400
        late = self.take(letter("Late", at=NOON + 19 * 86_400))
        self.assertEqual(self.found("since:3d"), [late])
        self.assertNotIn(late, self.found("before:3d"))

    def test_suggestions_complete_what_is_written(self) -> None:
        """Operators by their beginning, then their values; people by any word of their name."""
        shown = [one.shown for one in searching.suggest(self.room, "harp la")]
        self.assertIn("larger:", shown)
        self.assertEqual(searching.suggest(self.room, "harp mark:unr")[0].line, "harp mark:unread ")
        self.assertEqual(searching.suggest(self.room, "-bucket:you")[0].line, '-bucket:"Your call" ')
        self.assertEqual(searching.suggest(self.room, "from:osk")[0].line, "from:brandel@salthall.example ")
        self.assertIn("from:brandel@salthall.example", [one.shown for one in searching.suggest(self.room, "brand")])
        self.assertEqual(searching.suggest(self.room, "list:birch")[0].line, "list:news.birchbow.example ")
        self.assertEqual(searching.suggest(self.room, "since:y")[0].line, "since:yesterday ")
        for line in ("", "harp ", "nothing:x", '"', "from:"):
            self.assertEqual(searching.suggest(self.room, line), [], line)

    def test_every_suggestion_can_be_understood(self) -> None:
        """Nothing is offered that would be refused."""
        for begun in ("m", "mark:", "file:", "bucket:", "since:", "score:", "larger:", "list:n", "from:o"):
            for one in searching.suggest(self.room, begun):
                if not one.line.endswith(":"):
                    self.assertTrue(searching.understand(self.room, one.line).sentence)

    def test_no_line_breaks_the_search(self) -> None:
        """Quotes, stars, dashes, nothing at all: whatever is written is searched for or refused."""
        pieces = [
            '"',
            "*",
            "-",
            "(",
            ")",
            "^",
            ":",
            "{subject}",
            "NEAR",
            "a\x00b",
            "\x00",
            "AND",
            "'",
            ";",
            "%",
            "é*",
            "会*",
        ]
        for first, second in product(pieces, pieces):
            for line in (f"{first}{second}", f"{first} x {second}", f"subject:{first}{second}", f'"{first}" {second}'):
                for order in ("relevance", "time", "importance"):
                    with self.subTest(line=line), suppress(QueryError):
                        self.assertLessEqual(set(self.found(line, order)), {self.rider, *self.offers})

    def test_searches_are_kept_by_name(self) -> None:
        """Saved, replaced under the same name, forgotten; what cannot be understood is not kept."""
        first = searching.save(self.room, " Open  riders ", "subject:rider")
        self.assertEqual(first.name, "Open riders")
        again = searching.save(self.room, "Open riders", "subject:rider mark:unread")
        self.assertEqual((again.id, again.line), (first.id, "subject:rider mark:unread"))
        with self.assertRaises(QueryError):
            searching.save(self.room, "Broken", "bucket:nowhere")
        for name, line in (("", "a"), ("x" * 61, "a"), ("a", "  ")):
            with self.assertRaises(CallerError):
                searching.save(self.room, name, line)
        self.assertEqual(len(searches.every(self.room.reader())), 1)
        searching.forget(self.room, first.id)
        with self.assertRaises(NotFound):
            searching.forget(self.room, first.id)
