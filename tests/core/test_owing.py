"""What awaits an answer, what asks, and what promises."""

from __future__ import annotations

import random
import unittest

from hieranome.core.facts import Correspondent, MessageFacts, Owner
from hieranome.core.features import Vector, extract
from hieranome.core.groups import Context
from hieranome.core.owing import BOUND, Awaiting, Example, declines, open_question, promise, questions
from hieranome.core.relations import Relations

WHO = Context(Owner.of("maren@quillmark.example"), Relations())


def vector(text: str, subject: str = "Word", sender: str = "maren@quillmark.example") -> Vector:
    """The features of a message that says something."""
    return extract(MessageFacts(sender=Correspondent(sender), subject=subject, text=text), WHO)


ASKS = "Could you send me the list by Monday?", "Which gate shall we use?", "Please confirm the hotel."
TELLS = "The contract is signed.", "Thank you for the evening.", "The coach leaves at nine, as agreed."


class AwaitingTest(unittest.TestCase):
    def test_cues_stand_in_until_there_is_history(self) -> None:
        """A question awaits an answer, what tells does not."""
        likely = Awaiting().likely([vector(ASKS[0]), vector(TELLS[0])])
        self.assertGreater(likely[0], BOUND)
        self.assertLess(likely[1], BOUND)
        self.assertEqual(len(Awaiting().likely([])), 0)

    def test_answers_teach_what_no_cue_says(self) -> None:
        """Mail of a kind that gets answers awaits one, although it asks nothing by any cue."""
        kind = [vector(f"The roster for week {n} stands open, tenors missing.") for n in range(30)]
        other = [vector(f"The coach leaves at nine from gate {n}.") for n in range(30)]
        examples = [Example(one, n % 4 != 0, False) for n, one in enumerate(kind)]
        examples += [Example(one, False, False) for one in other]
        model = Awaiting.learned(examples)
        self.assertGreater(model.likely([vector("The roster for week 99 stands open, tenors missing.")])[0], BOUND)
        self.assertLess(model.likely([other[0]])[0], 0.2)

    def test_what_was_let_go_asks_nothing(self) -> None:
        """Two of a kind let go, the next like it awaits nothing; another question still does."""
        gone = [vector(f"Shall we not praise the stewards of evening {n}?") for n in range(2)]
        answered = [vector(f"{ASKS[n % 3]} It is about hall {n}.", f"Hall {n}") for n in range(3)]
        examples = [*(Example(one, True, False) for one in answered), *(Example(one, False, True) for one in gone)]
        model = Awaiting.learned(examples)
        likely = model.likely([vector("Shall we not praise the stewards of evening 9?"), vector(ASKS[1], "Gates")])
        self.assertLess(likely[0], BOUND)
        self.assertGreater(likely[1], BOUND)

    def test_silence_of_few_says_nothing(self) -> None:
        """With one answer ever, questions without one await theirs all the same."""
        examples = [Example(vector(ASKS[2]), True, False), *(Example(vector(ASKS[0]), False, False) for _ in range(5))]
        self.assertGreater(Awaiting.learned(examples).likely([vector(ASKS[0])])[0], BOUND)

    def test_the_same_examples_give_the_same(self) -> None:
        """In whichever order those of one time come."""
        rng = random.Random(3)
        examples = [Example(vector(f"{ASKS[n % 3]} {n}"), n % 2 == 0, n % 7 == 0) for n in range(40)]
        first = Awaiting.learned(examples).likely([vector(one) for one in (*ASKS, *TELLS)])
        rng.shuffle(examples)
        second = Awaiting.learned(examples).likely([vector(one) for one in (*ASKS, *TELLS)])
        self.assertLess(float(abs(first - second).max()), 1e-6)


class SentencesTest(unittest.TestCase):
    def test_an_answer_that_is_declined(self) -> None:
        """In each language; nothing else is."""
        for text in ("All is well. No need to answer.", "You don't have to reply to this.", "Keine Antwort nötig.",
                     "Du musst nicht antworten.", "Inutile de répondre.", "No hace falta que respondas."):  # fmt: skip
            self.assertTrue(declines(text), text)
        for text in (
            "I need your answer.",
            "Nobody answered yet.",
            "Keine Antwort bisher.",
            "Pourquoi ne pas répondre ?",
        ):
            self.assertFalse(declines(text), text)

    def test_all_that_asks(self) -> None:
        """Every sentence with a question mark; one of a few words with what stands before it; else the last request."""
        text = "May the risers stay? Your contract says tuning at 16:30. Which holds? Thank you."
        asked = ["May the risers stay?", "Your contract says tuning at 16:30. Which holds?"]
        self.assertEqual(questions(text), asked)
        self.assertEqual(open_question(text), asked[-1])
        self.assertEqual(questions("Please send the list. Please sign it. Bye."), ["Please sign it."])
        self.assertEqual(questions("All is well."), [])

    def test_the_open_question_is_the_last_that_asks(self) -> None:
        """The last question; without one, the last sentence with a word of asking; else nothing."""
        for text, found in {
            "Is it late?\n\nWe load at nine. Which gate\nshall we use?\nMaren": "Which gate shall we use?",
            "Please send it. Thank you.": "Please send it.",
            "All is well.": "",
            "": "",
            "?" * 50_000: "",
        }.items():
            self.assertEqual(open_question(text), found, text[:40])

    def test_promises_are_found(self) -> None:
        """What the writer says they will do, in four languages; not what they will not do, nor a question."""
        for text in (
            "Thank you. I will send it on Friday. Best",
            "I'll call you at nine",
            "We’ll let you know.",
            "You will have my answer by Monday.",
            "Let me check the list.",
            "Ich melde mich am Montag.",
            "Ich werde das klären.",
            "Je vous enverrai le contrat.",
            "Te enviaré la lista.",
        ):
            self.assertTrue(promise(text), text)
        for text in ("I will not come.", "I will never know.", "Will you send it?", "Shall I? I will be there.", "So."):
            self.assertFalse(promise(text), text)
        self.assertEqual(promise("Thank you. I will send it on Friday. Best"), "I will send it on Friday.")
