"""A small grammar: ``[this|that]`` picks one, ``<name>`` expands a named list, both nest."""

from __future__ import annotations

import random
import re

_INNERMOST = re.compile(r"\[([^\[\]]*)\]|<([a-z_]+)>")

LISTS: dict[str, str] = {
    "first": "Adela|Anselm|Bram|Brita|Caspar|Corwin|Dagny|Edda|Elio|Famke|Gerrit|Halva|Imre|Isolde|Jorun|Kaspar|Lenz|"
    "Lida|Maurits|Milo|Nanne|Odile|Orla|Pelle|Quirin|Runa|Sander|Sunniva|Tarik|Tilda|Ulla|Vigo|Wendel|Yara|Zeno|Zita",
    "last": "Abelard|Amsel|Arends|Bexley|Brandvold|Cray|Dunmore|Ekholm|Fennick|Garrow|Halloran|Ibsing|Jarrow|Kestner|"
    "Lauritz|Marlow|Nyholt|Oxley|Penderick|Quist|Roggemann|Skarvik|Tarrant|Ulmer|Vann|Wieck|Yarrow|Zeller",
    "hall": "Salt Hall|Ropewalk Hall|the Granary|Cloister Hall|the Glasshouse|Harbour Rooms|Tannery Hall|Old Mint|"
    "Lantern Hall|the Exchange|Weir House|Saint Orell's|the Cooperage",
    "town": "Arlenau|Pellworth|Dunmarrow|Vilanette|Marrenfeld|Ketterholm|Tormund|Vessla|Brisk Haven|Sant Orell|Cendral",
    "part": "viola 2|the horn part|the bass part|bassoon 1|the oboe part|violin 1, desk 3|the harp|the celesta part",
    "instrument": "viola|cello|double bass|harpsichord|celesta|bassoon|horn|oboe|harp|set of timpani|violin",
    "day": "Monday|Tuesday|Wednesday|Thursday|Friday|Saturday|tomorrow|the day after tomorrow",
    "hour": "nine|ten|half past ten|noon|one|two|half past three|four|five|six",
    "num": "3|4|5|7|8|11|12|14|16|17|19|21|23|26|28|31|34|38|41|44|52|63|71|85|96",
    "sum": "48.20|95|110|140|230|310|395|450|640|700|880|1,150|2,400|4,200",
    "thing": "the rider|the contract|the rooming list|the seating plan|the carnet list|the programme|the get-in times|"
    "the settlement|the cover note|the parking passes|the hire set|the visa file|the tuning|the risers",
    "piece": "the Brandvold|the slow movement|the overture|the serenade|the suite|the octet|the symphony|the encore",
    "good": "strings|rosin|music stands|black folders|bow hair|stand lights|cases|reeds|mutes|shoulder rests",
    "ask": "Can you decide by <day>, <hour>?|Is that all right with you?|Which one shall we take?|May I go ahead?|"
    "Could you confirm today?|What shall I tell them?|Do you agree?|Can you send it before <hour>?|Who signs?",
    "press": "We have to print on <day>.|The plan closes <day> at <hour>.|They need an answer by <hour>.|"
    "After that it costs <sum> more.|I need to know before I leave at <hour>.|The roster closes <day>.",
    "calm": "Nothing for you to do.|For your information only.|No hurry.|Read it when you have time.|"
    "No answer needed.|This is just so that you know.|Please keep this message.|All as agreed.",
    "trouble": "does not fit|is missing|came back unsigned|is late|was double booked|is too heavy|has the wrong date|"
    "was refused|is broken|does not match your list|has been moved",
    "greet": "Dear Maren,|Hello Maren,|Maren,|Good morning,|Dear Ms Aldous,|Hi,",
    "bye": "Best,|With kind regards|Yours|Thank you|Until soon|All the best",
    "event": "the summer course|the open day|the night concert|the talk|the rehearsal for everybody|the sale|the walk",
    "adj": "quiet|long|early|small|unexpected|northern|second|open|late|old|new",
}


def expand(rule: str, rng: random.Random) -> str:
    """One sentence of the grammar. The same state of ``rng`` gives the same sentence."""
    for _ in range(200):
        match = _INNERMOST.search(rule)
        if match is None:
            return rule
        choices = match.group(1) if match.group(1) is not None else LISTS[match.group(2)]
        picked = rng.choice(choices.split("|"))
        rule = rule[: match.start()] + picked + rule[match.end() :]
    return rule
