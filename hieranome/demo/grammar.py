"""A small grammar: ``[this|that]`` picks one, ``<name>`` expands a named list, ``<name:key>`` picks once and says the
same again wherever the key stands, and brackets nest."""

from __future__ import annotations

import random
import re

_INNERMOST = re.compile(r"\[([^\[\]]*)\]|<([a-z_]+)(:[a-z]+)?>")
_BEGINNING = re.compile(r"(\A|[.?!] |\n)([a-z])")
_ARTICLE = re.compile(r"\b([Aa]) (?=[aeio])")
_EMPTY = re.compile(r" +(?=\n)|(?<=\n\n)\n+")

LISTS: dict[str, str] = {
    "first": "Adela|Anselm|Bram|Brita|Caspar|Corwin|Dagny|Edda|Elio|Famke|Gerrit|Halva|Imre|Isolde|Jorun|Kaspar|Lenz|"
    "Lida|Maurits|Milo|Nanne|Odile|Orla|Pelle|Quirin|Runa|Sander|Sunniva|Tarik|Tilda|Ulla|Vigo|Wendel|Yara|Zeno|Zita",
    "last": "Abelard|Amsel|Arends|Bexley|Brandvold|Cray|Dunmore|Ekholm|Fennick|Garrow|Halloran|Ibsing|Jarrow|Kestner|"
    "Lauritz|Marlow|Nyholt|Oxley|Penderick|Quist|Roggemann|Skarvik|Tarrant|Ulmer|Vann|Wieck|Yarrow|Zeller",
    "hall": "Salt Hall|Ropewalk Hall|the Granary|Cloister Hall|the Glasshouse|Harbour Rooms|Tannery Hall|Old Mint|"
    "Lantern Hall|the Exchange|Weir House|Saint Orell's|the Cooperage",
    "town": "Arlenau|Pellworth|Dunmarrow|Vilanette|Marrenfeld|Ketterholm|Tormund|Vessla|Brisk Haven|Sant Orell|Cendral",
    "part": "viola 2|the horn part|the bass part|bassoon 1|the oboe part|violin 1, desk 3|the harp part|the celesta part",
    "instrument": "viola|cello|double bass|harpsichord|celesta|bassoon|horn|oboe|harp|set of timpani|violin",
    "day": "Monday|Tuesday|Wednesday|Thursday|Friday|Saturday",
    "hour": "nine|ten|half past ten|noon|one|two|half past three|four|five|six",
    "clock": "8:10|8:40|9:15|9:50|10:30|11:20|12:45|13:15|14:05|15:30|16:20|17:40|18:10|19:25|21:05",
    "num": "3|4|5|7|8|11|12|14|16|17|19|21|23|26|28|31|34|38|41|44|52|63|71|85|96",
    "few": "two|three|four|five|six",
    "digit": "2|3|4|5|6",
    "nth": "3rd|4th|5th|7th|8th|11th|12th|14th|16th|17th|19th|21st|23rd|26th|28th",
    "month": "January|February|March|April|May|June|September|October|November",
    "ref": "2118|2207|2394|3015|3371|3620|4108|4452|4777|5036|5389|6240|6611|7185|7402|7934|8063|8517|9020|9348",
    "sum": "95|110|140|230|310|395|450|640|700|880|1,150|2,400|4,200",
    "price": "9.90|12.50|18|24|32.40|48.20|56|75|110|140",
    "paper": "the technical rider|the contract|the rooming list|the seating plan|the programme|the settlement|the cover note|"
    "the parking permit|the hire agreement|the list of players|the invoice",
    "lost": "came back unsigned|did not reach us|arrived with the wrong date|arrived without its second page|shows the old "
    "fee|names the wrong hall|went to the wrong address",
    "piece": "the Brandvold|the slow movement|the overture|the serenade|the suite|the octet|the symphony|the encore",
    "good": "strings|rosin|music stands|black folders|bow hair|stand lights|cases|reeds|mutes|shoulder rests",
    "topic": "travel time|coach hours|the pension|rest hours|stand lights|the new agreement",
    "sold": "print|stage lights|sales leads",
    "facility": "car park|stage door|canteen|goods lift|cloakroom",
    "larder": "plums|flour|leeks|coffee|olives|candles|honey",
    "ask": "Can you decide by <day>, <hour>?|Is that all right with you?|May I go ahead?|"
    "Could you confirm today?|What shall I tell them?|Do you agree?|Can you let me know before <hour>?|Shall I say yes?",
    "press": "We have to print on <day>.|The plan closes on <day> at <hour>.|They need an answer by <hour>.|"
    "After that it costs <sum> more.|I need to know before I leave at <hour>.|The roster closes on <day>.",
    "calm": "Nothing for you to do.|For your information only.|No hurry.|Read it when you have time.|"
    "No answer needed.|This is just so that you know.|Please keep this message.|All as agreed.",
    "greet": "Dear Maren,|Hello Maren,|Maren,|Good morning,|Dear Ms Aldous,|Hi Maren,",
    "bye": "Best,|With kind regards|Yours|Thank you|Until soon|All the best",
    "event": "the summer course|the open day|the night concert|the talk|the open rehearsal|the sale|the walk",
    "adj": "quiet|long|early|small|unexpected|northern|second|open|late|old|new",
}


def expand(rule: str, rng: random.Random, said: dict[str, str] | None = None) -> str:
    """A sentence of the grammar. ``said`` is what named places say already, and gets what they say from now on: the
    subject and the text of one letter share it. The same state of ``rng`` gives the same sentence."""
    said = {} if said is None else said
    for _ in range(400):
        match = _INNERMOST.search(rule)
        if match is None:
            return rule
        choices, name, key = match.groups()
        place = f"{name}{key or ''}"
        if choices is None and (key or name not in LISTS):
            if place not in said:
                said[place] = rng.choice(LISTS[name].split("|"))
            picked = said[place]
        else:
            picked = rng.choice((LISTS[name] if choices is None else choices).split("|"))
        rule = rule[: match.start()] + picked + rule[match.end() :]
    return rule


def sentences(text: str) -> str:
    """The text with a capital where a sentence or a line begins, *an* before a vowel, and no room where nothing was
    picked."""
    text = _ARTICLE.sub(r"\1n ", _EMPTY.sub("", text))
    return _BEGINNING.sub(lambda found: found[1] + found[2].upper(), text)
