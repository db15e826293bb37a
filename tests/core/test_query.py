"""The search line: what it means, how it says so, what it refuses."""

import unittest
from datetime import UTC, datetime, timedelta, timezone

from hieranome.core.conditions import EVERYWHERE, All, Any, Not, Stands, Tagged, Test, Words
from hieranome.core.operators import OPERATORS
from hieranome.core.query import Query, Term, read_query, written
from hieranome.core.text import phrase, spaced
from hieranome.core.times import read_span
from hieranome.core.values import Names, QueryError
from tests.generated import given, st

NOW = datetime(2026, 3, 11, 15, 30, tzinfo=UTC)
PLACES = {"desk": "Desk", "undecided": "Your call", "shelf": "Shelf", "folder-1": "Spring tour"}
TAGS = {"Visas": frozenset({3, 5}), "Été": frozenset({7})}


def understood(line: str) -> Query:
    return read_query(line, Names(PLACES, NOW, TAGS))


class MeaningTest(unittest.TestCase):
    def test_words_side_by_side_must_all_hold(self) -> None:
        """Bare words and phrases look everywhere, each on its own."""
        self.assertEqual(
            understood('freight "carnet sheet" "harp" timp* at').node,
            All(
                (
                    Words(EVERYWHERE, "freight", True),
                    Words(EVERYWHERE, "carnet sheet"),
                    Words(EVERYWHERE, "harp"),
                    Words(EVERYWHERE, "timp", True),
                    Words(EVERYWHERE, "at"),
                )
            ),
        )
        self.assertEqual(understood('timpan "harp" at').sentence, "Mail with “timpan…”, with “harp”, with “at”.")

    def test_conditions_make_their_line_again(self) -> None:
        """Whatever the form shows is understood as it was."""
        for line in ('freight "carnet sheet" timp* at', 'from:"a (b)" bucket:"your call" since:2026-03 harp'):
            query = understood(line)
            self.assertEqual(understood(written(query.terms)), query)
        self.assertEqual(understood(written([Term("", "not"), Term("", "Or")])).node, understood('"not" "Or"').node)

    @given(st.text(max_size=60))
    def test_any_line_of_conditions_is_written_again(self, line: str) -> None:
        """What a line means is what its conditions mean, written anew."""
        try:
            query = understood(line)
        except QueryError:
            return
        if query.terms:
            self.assertEqual(understood(written(query.terms)).node, query.node)

    def test_not_or_and_groups(self) -> None:
        """``or`` binds weaker than standing side by side; a dash and ``not`` mean the same."""
        a, b, c = (Words(EVERYWHERE, word) for word in "abc")
        self.assertEqual(understood("a b or c").node, Any((All((a, b)), c)))
        self.assertEqual(understood("a (b or c)").node, All((a, Any((b, c)))))
        self.assertEqual(understood("-a").node, understood("NOT a").node)
        self.assertEqual(understood("a and not (b or c)").node, All((a, Not(Any((b, c))))))

    def test_every_operator_reads_its_example(self) -> None:
        """Each example of the table is understood, and says so in a sentence of its own."""
        sentences = {understood(one.example).sentence for one in OPERATORS}
        self.assertEqual(len(sentences), len(OPERATORS))
        for one in OPERATORS:
            self.assertEqual([term.operator for term in understood(one.example).terms], [one.name])

    def test_columns_places_flags_and_sizes(self) -> None:
        """Operators look at what their table says."""
        self.assertEqual(understood("FROM:ilse").node, Words(("sender",), "ilse"))
        self.assertEqual(understood('bucket:"your call"').node, Stands("undecided"))
        self.assertEqual(understood('bucket:"spring tour"').node, Stands("folder-1"))
        self.assertEqual(understood("tag:visas -tag:été").node, All((Tagged(TAGS["Visas"]), Not(Tagged(TAGS["Été"])))))
        self.assertEqual(understood("mark:unread").node, Test("seen", "=", 0))
        self.assertEqual(understood("larger:2.5MB").node, Test("size", ">", 2_500_000))
        self.assertEqual(understood("file:any").node, Test("attachments", ">=", 1))
        self.assertEqual(understood("file:pdf").node, Words(("files",), "pdf"))
        self.assertEqual(understood("cc:board").node, Words(("cc",), "board"))
        self.assertEqual(understood("smaller:900").node, Test("size", "<", 900))

    def test_ranges_are_of_the_numbers_shown(self) -> None:
        """A score of 40 to 70 takes in all that is shown as 40 or 70."""
        self.assertEqual(understood("score:40..70").node, All((Test("score", ">=", 0.395), Test("score", "<", 0.705))))
        self.assertEqual(understood("score:>50").node, Test("score", ">=", 0.495))
        self.assertEqual(understood("certainty:..20").node, Test("certainty", "<", 0.205))

    def test_the_sentence_says_the_whole_line(self) -> None:
        """What was understood can be read."""
        self.assertEqual(
            understood('from:ilse mark:unread -subject:offer since:2026-03 "two harps"').sentence,
            "Mail from “ilse”, unread, not “offer” in the subject, since March 2026, with “two harps”.",
        )
        self.assertEqual(understood("a (b or c)").sentence, "Mail with “a”, (with “b” or with “c”).")
        self.assertEqual(understood(" ").sentence, "All mail.")

    def test_what_may_have_been_meant_is_hinted(self) -> None:
        """An operator that does not exist is looked for as words, and said; a left-open parenthesis is closed."""
        self.assertIn("“sender:” is no operator", understood("sender:ilse").hints[0])
        self.assertIn("left open", understood("(a b").hints[0])
        self.assertEqual(understood("https://x.example 10:30").hints, ())

    def test_terms_are_told_only_where_all_simply_hold(self) -> None:
        """The form can show a plain line, not one with choices."""
        self.assertEqual([one.value for one in understood('from:"a b" x').terms], ["a b", "x"])
        self.assertEqual(understood("a or b").terms, ())
        self.assertEqual(understood("-a").terms, ())

    def test_what_cannot_be_understood_is_refused_with_the_cure(self) -> None:
        """Each refusal says what is wrong and shows how to write it."""
        for line, cure in {
            "from:": "as in from:ilse",
            "!!!": "neither letters nor digits",
            "bucket:cellar": "There are: Desk, Your call, Shelf, Spring tour",
            "mark:blue": "knows unread, read",
            "larger:much": "as in larger:2MB",
            "score:..": "two numbers from 0 to 100",
            "score:a": "two numbers from 0 to 100",
            "since:someday": "how long ago",
            "a or": "Write a word",
            "()": "Write a word",
            "a)": "opening one",
            "not": "Nothing stands behind",
            "x" * 2_001: "at most 2000",
            "x " * 61: "takes up to 60",
        }.items():
            with self.subTest(line=line[:20]), self.assertRaisesRegex(QueryError, cure.replace("(", r"\(")):
                understood(line)

    @given(st.text(max_size=60))
    def test_any_line_is_understood_or_refused(self, line: str) -> None:
        """No line makes the reader stumble."""
        try:
            self.assertTrue(understood(line).sentence.endswith("."))
        except QueryError as refused:
            self.assertGreater(len(str(refused)), 20)


class SpanTest(unittest.TestCase):
    def day(self, said: str) -> str:
        span = read_span(said, NOW)
        assert span is not None, said
        self.assertGreater(span.end, span.start)
        return datetime.fromtimestamp(span.start, UTC).isoformat(" ")

    def test_days_in_words_and_digits(self) -> None:
        """A Wednesday in March, seen from its afternoon."""
        for said, start in {
            "today": "2026-03-11",
            "yesterday": "2026-03-10",
            "wednesday": "2026-03-11",
            "thu": "2026-03-05",
            "3d": "2026-03-08",
            "2w": "2026-02-25",
            "1m": "2026-02-11",
            "1y": "2025-03-11",
            "2026-02": "2026-02-01",
            "2025": "2025-01-01",
            "2026-2-3": "2026-02-03",
        }.items():
            self.assertEqual(self.day(said), f"{start} 00:00:00+00:00", said)

    def test_months_of_other_lengths(self) -> None:
        """A month before the last day of May is the last of April; February ends where it ends."""
        span = read_span("1m", datetime(2026, 5, 31, tzinfo=UTC))
        assert span is not None
        self.assertEqual(span.title, "30 April 2026")
        month = read_span("2028-02", NOW)
        assert month is not None
        self.assertEqual(month.end - month.start, 29 * 86_400)

    def test_days_begin_by_the_owners_clock(self) -> None:
        """Midnight is that of the zone the clock is in."""
        span = read_span("today", datetime(2026, 3, 11, 1, tzinfo=timezone(timedelta(hours=9))))
        assert span is not None
        self.assertEqual(datetime.fromtimestamp(span.start, UTC).hour, 15)

    def test_no_dates(self) -> None:
        """What is none is none, however odd."""
        for said in ("", "2026-13", "2026-02-30", "9999y", "0000", "soon", "12/3", "-1d", "9999"):
            self.assertIsNone(read_span(said, NOW), said)


class SpacedTest(unittest.TestCase):
    def test_runs_become_pairs(self) -> None:
        """A run of a script without spaces is its pairs and its last character; other text stays."""
        self.assertEqual(spaced("abc def"), "abc def")
        self.assertEqual(spaced("会議室 B").split(), ["会議", "議室", "室", "B"])
        self.assertEqual(phrase("会議室"), ("会議 議室", False))
        self.assertEqual(phrase("会"), ("会", True))
        self.assertEqual(phrase("harp"), ("harp", False))
