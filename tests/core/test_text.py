"""Words, quotations, threads."""

import unittest

from hieranome.core.text import own_words, words
from hieranome.core.threads import bare_subject, is_reply_subject


class WordsTest(unittest.TestCase):
    def test_digits_lose_their_value(self) -> None:
        """Invoice 1741 and invoice 1742 are the same words."""
        self.assertEqual(words("Invoice 1741", 10), words("invoice 1742", 10))

    def test_scripts_without_spaces_become_pairs(self) -> None:
        """A Japanese phrase is cut in overlapping pairs of characters."""
        self.assertEqual(words("会議資料", 10), ["会議", "議資", "資料"])

    def test_limit_holds_for_any_script(self) -> None:
        """A message of a million characters costs no more than the limit."""
        self.assertEqual(len(words("議" * 100_000, 50)), 50)
        self.assertEqual(len(words("word " * 100_000, 50)), 50)


class OwnWordsTest(unittest.TestCase):
    def test_quotation_and_signature_are_set_aside(self) -> None:
        """Only what the writer wrote now remains."""
        text = "Yes, please.\n\nOn Monday Jess wrote:\n> shall I?\n> really?\n-- \nMaren\nQuillmark"
        own, aside = own_words(text)
        self.assertEqual(own, "Yes, please.")
        self.assertEqual(aside, 6)

    def test_a_message_of_quotation_only_is_kept_whole(self) -> None:
        """A message is never judged as empty because of how it quotes."""
        self.assertEqual(own_words("> all of it\n> is quoted"), ("> all of it\n> is quoted", 0))

    def test_forwarded_text_behind_a_mark_is_set_aside(self) -> None:
        """What follows the mark of an original message is not the writer's."""
        own, aside = own_words("See below.\n-----Original Message-----\nFrom: somebody\nlong text")
        self.assertEqual(own, "See below.")
        self.assertGreaterEqual(aside, 3)


class SubjectTest(unittest.TestCase):
    def test_reply_marks_of_many_languages_come_off(self) -> None:
        """Re, AW, SV, Fwd, numbered and stacked marks leave the same bare subject."""
        for subject in ("Re: Rider", "AW: Rider", "SV: Re: Rider", "Fwd: [halls] Rider", "RE[2]: Rider", "rider"):
            self.assertEqual(bare_subject(subject), "rider", subject)

    def test_a_list_label_alone_is_no_reply(self) -> None:
        """Only a reply mark makes a reply."""
        self.assertFalse(is_reply_subject("[halls] Rider"))
        self.assertFalse(is_reply_subject("Rider: two questions"))
        self.assertTrue(is_reply_subject("Re: Rider"))
