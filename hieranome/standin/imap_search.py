"""SEARCH over a postbox (RFC 9051, section 6.4.4)."""

from __future__ import annotations

from collections.abc import Callable
from email import message_from_bytes

from hieranome.standin.imap_parts import split
from hieranome.standin.imap_words import Unparsable, Word, numbers, parse_day
from hieranome.standin.postbox import Postbox, Stored

Test = Callable[[Stored], bool]

_FLAGS = {
    b"ANSWERED": "\\Answered",
    b"DELETED": "\\Deleted",
    b"DRAFT": "\\Draft",
    b"FLAGGED": "\\Flagged",
    b"SEEN": "\\Seen",
}
_HEADERS = (b"FROM", b"TO", b"CC", b"BCC", b"SUBJECT")
_DAYS = (b"SINCE", b"BEFORE", b"ON", b"SENTSINCE", b"SENTBEFORE", b"SENTON")
_DAY = 86_400


class Search:
    """One SEARCH in a folder: which messages meet all its keys."""

    def __init__(self, box: Postbox, folder: str, shown: list[int]) -> None:
        self._box, self._folder, self._shown = box, folder, shown

    def run(self, keys: list[Word]) -> list[Stored]:
        """The messages found, by UID."""
        rest = list(keys)
        tests = []
        while rest:
            tests.append(self._test(rest))
        shown = set(self._shown)
        return [one for one in self._box.mail(self._folder) if one.uid in shown and all(t(one) for t in tests)]

    def _test(self, rest: list[Word]) -> Test:
        word = rest.pop(0)
        if isinstance(word, list):
            inner = list(word)
            tests = []
            while inner:
                tests.append(self._test(inner))
            return lambda one: all(test(one) for test in tests)
        key = word.upper()
        if key == b"NOT":
            test = self._test(rest)
            return lambda one: not test(one)
        if key == b"OR":
            first, second = self._test(rest), self._test(rest)
            return lambda one: first(one) or second(one)
        if key in (b"ALL", b"CHARSET"):
            if key == b"CHARSET":
                rest.pop(0)
            return lambda _: True
        return self._of_flags(key, rest) or self._of_content(key, rest) or self._of_numbers(key, word, rest)

    def _of_flags(self, key: bytes, rest: list[Word]) -> Test | None:
        if key in _FLAGS:
            flag = _FLAGS[key]
            return lambda one: flag in one.flags
        if key.startswith(b"UN") and key[2:] in _FLAGS:
            flag = _FLAGS[key[2:]]
            return lambda one: flag not in one.flags
        if key in (b"KEYWORD", b"UNKEYWORD"):
            wanted = _bytes(rest).decode("ascii", "replace")
            return lambda one: (wanted in one.flags) == (key == b"KEYWORD")
        if key in (b"NEW", b"RECENT", b"OLD"):
            return lambda _: key == b"OLD"
        return None

    def _of_content(self, key: bytes, rest: list[Word]) -> Test | None:
        if key == b"HEADER":
            return self._header(_bytes(rest), _bytes(rest))
        if key in _HEADERS:
            return self._header(key, _bytes(rest))
        if key in (b"BODY", b"TEXT"):
            wanted = _bytes(rest).lower()
            return lambda one: wanted in self._box.raw(self._folder, one.uid).lower()
        return None

    def _header(self, name: bytes, wanted: bytes) -> Test:
        def test(one: Stored) -> bool:
            message = message_from_bytes(split(self._box.raw(self._folder, one.uid))[0])
            values = [str(value) for value in message.get_all(name.decode("ascii", "replace"), [])]
            return any(wanted.decode("utf-8", "replace").lower() in value.lower() for value in values)

        return test

    def _of_numbers(self, key: bytes, word: bytes, rest: list[Word]) -> Test:
        if key in _DAYS:
            day = parse_day(_bytes(rest)).timestamp()
            if key.endswith(b"SINCE"):
                return lambda one: one.at >= day
            if key.endswith(b"BEFORE"):
                return lambda one: one.at < day
            return lambda one: day <= one.at < day + _DAY
        if key in (b"LARGER", b"SMALLER", b"MODSEQ"):
            size = int(_bytes(rest))
            return {
                b"LARGER": lambda one: one.size > size,
                b"SMALLER": lambda one: one.size < size,
                b"MODSEQ": lambda one: one.modseq >= size,
            }[key]
        if key == b"EMAILID":
            wanted = _bytes(rest).decode("ascii", "replace")
            return lambda one: one.email_id == wanted
        if key == b"UID":
            uids = set(numbers(_bytes(rest), self._shown))
            return lambda one: one.uid in uids
        found = numbers(word, list(range(1, len(self._shown) + 1)))
        by_number = {self._shown[n - 1] for n in found}
        return lambda one: one.uid in by_number


def _bytes(rest: list[Word]) -> bytes:
    word = rest.pop(0) if rest else b""
    if isinstance(word, list):
        raise Unparsable("a list stands where a word should")
    return word
