"""Bytes into text: the one door by which text comes out of mail.

Only charsets that mail is written in are taken, by list. What comes out is always valid Unicode: no lone surrogate
leaves this module, whatever a message declares.
"""

from __future__ import annotations

import codecs
import re
from encodings.aliases import aliases

_FOR_MAIL = frozenset(
    """
    ascii utf_8 utf_16 utf_16_be utf_16_le utf_32 utf_32_be utf_32_le
    latin_1 iso8859_2 iso8859_3 iso8859_4 iso8859_5 iso8859_6 iso8859_7 iso8859_8 iso8859_9 iso8859_10 iso8859_11
    iso8859_13 iso8859_14 iso8859_15 iso8859_16
    cp037 cp437 cp500 cp737 cp775 cp850 cp852 cp855 cp857 cp858 cp860 cp861 cp862 cp863 cp864 cp865 cp866 cp869 cp874
    cp932 cp949 cp950 cp1250 cp1251 cp1252 cp1253 cp1254 cp1255 cp1256 cp1257 cp1258
    koi8_r koi8_t koi8_u kz1048 ptcp154 tis_620 hp_roman8
    mac_cyrillic mac_greek mac_iceland mac_latin2 mac_roman mac_turkish
    big5 big5hkscs gb2312 gbk gb18030 hz shift_jis shift_jis_2004 shift_jisx0213 euc_jp euc_jis_2004 euc_jisx0213
    euc_kr johab iso2022_jp iso2022_jp_1 iso2022_jp_2 iso2022_jp_2004 iso2022_jp_3 iso2022_jp_ext iso2022_kr
    """.split()
)
"""Python's codecs for the charsets of mail. Left out are those that are none (utf_7, punycode, idna, unicode_escape,
and all that turn bytes into bytes): they take quadratic time, or yield what is no text."""

_ALSO = {
    "latin_1": "cp1252",
    "utf8": "utf_8",
    "iso_8859_1": "cp1252",
    "iso_8859_8_i": "iso8859_8",
    "windows_874": "cp874",
    "x_sjis": "shift_jis",
    "x_euc_jp": "euc_jp",
    "x_gbk": "gbk",
    "gb_2312_80": "gb2312",
    "x_mac_roman": "mac_roman",
    "x_mac_cyrillic": "mac_cyrillic",
    "unicode_1_1_utf_8": "utf_8",
    "ansi_x3.4_1968": "ascii",
}
"""Names by which real mail calls them. What calls itself Latin 1 is Windows 1252 where the two differ: it has
quotation marks where Latin 1 has controls that nobody writes."""

_NAME = re.compile(r"[^a-z0-9.]+")


def _names() -> dict[str, str]:
    found = {name: name for name in _FOR_MAIL}
    found |= {alias: name for alias, name in aliases.items() if name in _FOR_MAIL}
    found |= {alias: "cp1252" for alias, name in found.items() if name == "latin_1"}
    return found | _ALSO


_CODECS = _names()


def valid(text: str) -> str:
    """Text from elsewhere (a server's names and sentences, a path) as valid Unicode: lone surrogates become ``?``."""
    return text.encode("utf-8", "replace").decode()


MAX_NAME = 60
"""Characters of a charset's name."""


def codec_of(charset: str) -> str:
    """Python's codec for a charset of mail, or an empty string for what is none; the name may be quoted and may carry
    a language (RFC 2231, section 5)."""
    name = charset.strip("\"' ").partition("*")[0][:MAX_NAME]
    return _CODECS.get(_NAME.sub("_", name.lower()).strip("_"), "")


def decode_bytes(raw: bytes, charset: str = "", limit: int | None = None) -> str:
    """Text of ``raw`` in ``charset`` when that is a charset of mail and fits, else UTF-8, else Windows 1252.

    With ``limit`` at most so many characters, and no more bytes than they can take are decoded. The result is valid
    Unicode in any case.
    """
    cut = limit is not None and len(raw) > 4 * limit
    part = raw[: 4 * limit] if cut and limit is not None else raw
    for codec in (codec_of(charset) if charset else "", "utf_8"):
        if codec:
            try:
                if not cut:
                    return raw.decode(codec)[:limit]
                return codecs.getincrementaldecoder(codec)("strict").decode(part, final=False)[:limit]
            except (UnicodeError, ValueError):
                continue
    return part.decode("cp1252", "replace")[:limit]
