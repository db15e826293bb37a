"""Kinds of mail the grammar writes: who sends them, how often, in what words, and where they belong.

It is long because it is a table of texts.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from hieranome.core.buckets import DESK, DIGEST, DRAIN, SHELF

Letters = tuple[tuple[str, str], ...]
"""Subjects and texts that belong together, as rules of :mod:`hieranome.demo.grammar`."""


@dataclass(frozen=True, slots=True)
class Kind:
    """One kind of mail.

    ``senders`` are keys of the world or ``*pool`` for a made-up correspondent of that pool; ``weight`` is how much of a
    hundred messages are of this kind; ``read`` and ``answered`` are shares. ``letters`` are those of each matter
    (see :data:`MATTERS`); "" is what all its senders write.
    """

    name: str
    senders: str
    weight: float
    belongs: str
    read: float
    answered: float
    letters: Mapping[str, Letters]
    hours: tuple[int, int] = (8, 18)
    attachment: str = ""


MATTERS: dict[str, tuple[str, ...]] = {
    "tollgate": ("freight",), "carnet": ("carnet",), "visa": ("visa",), "hotel": ("hotel",), "coach": ("coach",),
    "rail": ("rail",), "insurer": ("insurer",), "*travel": ("hotel", "coach", "rail"),
    "donor": ("donor",), "donor2": ("donor",), "board": ("board",), "treasurer": ("money",), "agent": ("artist",),
    "soloist": ("artist",), "composer": ("score",), "press": ("press",), "publisher": ("score",), "radio": ("press",),
    "phish": ("freight",), "phish2": ("bank",), "*crooks": ("freight", "bank"), "student": ("lessons",), "school": ("class",), "*friends": ("friend", "donor", "lessons", "friend"),
}  # fmt: skip
"""What a correspondent writes about; those of a pool (``*name``) take turns."""

_HALLS = "salt ropewalk granary glass cloister harbour *halls"
_TEAM = "hedda ruben ines tomas lio petra *players"
_TRAVEL = "tollgate carnet visa hotel coach rail insurer *travel"

_HALL_ASKS: Letters = (
    (
        "<house>: <paper:a> <lost:a>|Your concert on the <nth:n>: a question about <paper:a>",
        "<greet>\n\n[I went through|My colleague checked|We looked at] the papers for the <nth:n>, and <paper:a> <lost:a>. [<press> "
        "<ask>|Can you send it again?|<ask>]\n\n[The stage manager needs it before the get-in.|It is the last thing that is missing.|]\n\n"
        "<bye>\n<me>",
    ),
    (
        "<house>, <nth:n>: when do you arrive?|Get-in on the <nth:n>",
        "<greet>\n\nThe house has another event on the day before you, so the get-in can begin at <hour:a> or at <hour:b>. Which of the two "
        "suits you? [<press>|The lift takes 900 kg, as you know.]\n\n<bye>\n<me>",
    ),
    (
        "<few:n> open points for <house>|<house>: <few:n> questions before we print",
        "<greet>\n\n<few:n> things are still open on our side: <paper:a>, the number of risers and who signs for the piano. <press> [Can we "
        "talk on <day> at <hour>?|<ask>]\n\n<bye>\n<me>",
    ),
    (
        "May we sell the gallery too?|<house>: the gallery on the <nth:n>",
        "<greet>\n\nThe floor is nearly sold for the <nth:n>. We would open the gallery, at <price> a seat, and need your word for it. "
        "<ask> [<press>|]\n\n<bye>\n<me>",
    ),
)  # fmt: skip
_HALL_TELLS: Letters = (
    (
        "The <facility:f> at <house>|News from <house>",
        "Dear partners,\n\nThe <facility:f> at <house> is [closed|open again|on the other side of the yard] from "
        "the <nth> of <month> on. <calm>\n\n<bye>\n<me>",
    ),
    (
        "Technical sheet of <house>, new edition|Changed technical sheet",
        "To all guests,\n\nThe new technical sheet is on our page; it replaces the one of last year. What changed is the [lighting bar|size of "
        "the lift|number of stands]. <calm>\n\n<bye>\n<me>",
    ),
    (
        "Thank you for the evening|Thank you for the concert at <house>",
        "Dear all,\n\nIt was a pleasure to have you at <house>. A [coat|scarf|viola mute|folder] was found in dressing room <few> and waits "
        "at the desk. <calm>\n\n<bye>\n<me>",
    ),
)
_PLAYER_ASKS: Letters = (
    (
        "Ill on <day:d>, who can step in?|I cannot play on <day:d>",
        "Maren,\n\nI have been ill since last night and cannot play on <day:d>. <first:a> knows <part>; may I ask [her|them] to step in? "
        "[<press>|The others do not know yet.]\n\n<me>",
    ),
    (
        "Stuck in <town:t>, what now?|Train to <town:t> cancelled",
        "Maren,\n\nThe train is cancelled and I am stuck in <town:t>. There is a coach at <hour:h>, or I take a taxi for <sum>. Which one "
        "shall I take?\n\nI have my phone with me.\n\n<me>",
    ),
    (
        "<piece:p>: <part:q> is missing|No <part:q> for <piece:p>",
        "Maren,\n\nThe folder for <piece:p> came without <part:q>. Do you have the file, or shall I ask the library? [<press>|I can come by "
        "at <hour>.]\n\n<me>",
    ),
    (
        "May I leave early on <day:d>?|<day:d>'s rehearsal: a question",
        "Maren,\n\nMy [son|sister|mother] needs me on <day:d>. May I leave the rehearsal at <hour:h>? <first> would play on from there. "
        "[I need a yes by tomorrow.|<ask>]\n\n<me>",
    ),
    (
        "My <own> is at the workshop|I need a <own> for the tour",
        "Maren,\n\nMy <own> cannot be repaired before the tour. The workshop lends me one for <sum> a week. <ask>\n\n<me>",
    ),
)  # fmt: skip
_PLAYER_TELLS: Letters = (
    (
        "Photos from <town:t>|Pictures of the tour",
        "Hello all,\n\nI put the pictures from [<town:t>|the tour] on the drive. <calm>\n\n<me>",
    ),
    (
        "Cake in the green room|Cake for <first:a>",
        "Dear all,\n\nIt is <first:a>'s birthday, and there is cake in the green room after the rehearsal.\n\n<me>",
    ),
    (
        "Recording of <piece:p>|<piece:p>: the recording",
        "Everybody,\n\nThe recording of <piece:p> is on the drive. The <adj> ending came out well. <calm>\n\n<me>",
    ),
    (
        "Lost: one [umbrella|mute|scarf]|Found after the rehearsal",
        "Hello all,\n\nSomebody left a [mute|pencil case|scarf] under the stand of <first>. I put it on the piano. <calm>\n\n<me>",
    ),
    (
        "Minutes of the players' meeting|Minutes of <day>",
        "Dear all,\n\nThe minutes are on the drive. Next time we meet on <day> at <hour>. <calm>\n\n<me>",
    ),
)
_TRAVEL_ASKS: dict[str, Letters] = {
    "freight": (
        (
            "Shipment <ref:r>: one crate is too heavy|Shipment <ref:r>: answer needed by <day>",
            "Good morning,\n\nOne crate of shipment <ref:r> is <digit>0 kg heavier than on your list. We can repack it here, or it goes on the "
            "next truck for <sum> more. <ask> The counter is open until <hour>.\n\n<bye>\n<me>",
        ),
        (
            "Pick-up on <day:d>: which door?|Shipment <ref:r>, pick-up",
            "Dear Ms Aldous,\n\nThe truck for shipment <ref:r> comes on <day:d> at <hour>. Which door shall it take, and who signs? <press>"
            "\n\n<bye>\n<me>",
        ),
    ),
    "carnet": (
        (
            "Carnet <ref:r>: one signature is missing|Carnet <ref:r> came back",
            "Good morning,\n\nThe list of carnet <ref:r> came back because the <instrument> has no serial number on it. Please send it, "
            "signed, before <day>. <press>\n\n<bye>\n<me>",
        ),
        (
            "Carnet <ref:r> ends this month|Shall we extend carnet <ref:r>?",
            "Dear Ms Aldous,\n\nCarnet <ref:r> ends on the <nth>. Shall we extend it by a month, for <sum>? <ask>\n\n<bye>\n<me>",
        ),
    ),
    "visa": (
        (
            "Visa <ref:r>: one document is missing|File <ref:r>, please complete it",
            "Dear Ms Aldous,\n\nFile <ref:r> (<first> <last>) has no [letter of invitation|copy of the passport|proof of insurance]. Please "
            "send it by <day>, or the date at the counter is lost. [<ask>|]\n\n<bye>\n<me>",
        ),
        (
            "Permit for <few:n> players: which dates?|Visa appointment on <day:d>",
            "Good morning,\n\nWe can see <few:n> of your players on <day:d> at <hour:a>, or all of them a week later. Which do you want? "
            "<press>\n\n<bye>\n<me>",
        ),
    ),
    "hotel": (
        (
            "Group of <num:n>: please confirm the rooms|Your rooms in <home>: option ends <day:d>",
            "Dear Ms Aldous,\n\nThe option on <num:n> single and <few> double rooms in <home> ends on <day:d> at <hour>. Shall we book them? "
            "After that the rate is <price> higher a night.\n\n<bye>\n<me>",
        ),
        (
            "Rooming list: <few:n> names are missing|Arrival of your group",
            "Good morning,\n\nWe have rooms for <num> and a list of <few:n> fewer. Who else comes, and how late do you arrive? <press>\n\n"
            "<bye>\n<me>",
        ),
    ),
    "coach": (
        (
            "Coach on <day:d>: the driver's hours|<day:d>: two drivers or one?",
            "Good morning,\n\nWith the return after midnight on <day:d> one driver is not enough. A second one is <sum>, or you leave by "
            "<hour>. Which one shall we take?\n\n<bye>\n<me>",
        ),
        (
            "Coach for <num:n>: is there room for the basses?|Coach on the <nth:m>: a question",
            "Dear Ms Aldous,\n\nThe coach for <num:n> on the <nth:m> takes two basses below, not three. Shall we send a trailer, for <sum>? "
            "<ask>\n\n<bye>\n<me>",
        ),
    ),
    "rail": (
        (
            "Group <ref:r>: seats not yet paid|Your seats to <town:t>",
            "Good morning,\n\nThe seats of group <ref:r> to <town:t> are held until <day> at <hour>. Do you still want them? The total is "
            "<sum>.\n\n<bye>\n<me>",
        ),
        (
            "The <hour:h> train does not run on <day:d>|Group <ref:r>: another train",
            "Dear Ms Aldous,\n\nOn <day:d> the train at <hour:h> does not run. We can put group <ref:r> on the one before or the one after. "
            "<ask>\n\n<bye>\n<me>",
        ),
    ),
    "insurer": (
        (
            "Claim <ref:r>: we need the workshop's letter|Claim for the <instrument:i>",
            "Dear Ms Aldous,\n\nFor claim <ref:r>, the <instrument:i>, we still need what the workshop wrote about the damage. Can you send "
            "it by <day>? [<press>|]\n\n<bye>\n<me>",
        ),
        (
            "Cover for the tour: what is the <instrument:i> worth?|A question about the <instrument:i>",
            "Dear Ms Aldous,\n\nYour list gives the <instrument:i> at <digit>5,000. Is that still right? Without an answer it is covered at the "
            "old value from the <nth> on.\n\n<bye>\n<me>",
        ),
    ),
}  # fmt: skip
_TRAVEL_TELLS: dict[str, Letters] = {
    "freight": (
        (
            "Delivered: crates 1 to <num:n>|Shipment <ref:r> delivered",
            "Dear customer,\n\nCrates 1 to <num:n> of shipment <ref:r> were delivered this morning and signed for by <first>. <calm>\n\n"
            "<bye>\n<me>",
        ),
        ("Invoice <ref:r>", "Dear customer,\n\nInvoice <ref:r> for the last transport is attached, <sum> in all. <calm>\n\n<bye>\n<me>"),
    ),
    "carnet": (
        (
            "Carnet <ref:r> is closed|Carnet <ref:r>: all stamps are there",
            "Good morning,\n\nCarnet <ref:r> came back with all its stamps and is closed. <calm>\n\n<bye>\n<me>",
        ),
        (
            "Our fees from <month> on|Counter closed on the <nth:n>",
            "Dear customer,\n\nThe counter is closed on the <nth:n>. The fees stay as they are. <calm>\n\n<bye>\n<me>",
        ),
    ),
    "visa": (
        (
            "Visa <ref:r> is granted|File <ref:r>: ready",
            "Good morning,\n\nThe visa in file <ref:r> is granted; the passport comes by post. <calm>\n\n<bye>\n<me>",
        ),
        (
            "Opening hours over the holiday|Visa desk: new address",
            "Dear customer,\n\nThe desk is closed from the <nth> of <month> on for a week. <calm>\n\n<bye>\n<me>",
        ),
    ),
    "hotel": (
        ("Booking <ref:r> confirmed", "Dear guest,\n\nBooking <ref:r> stands: <num> rooms in <home>, breakfast from seven on. <calm>\n\n<bye>\n<me>"),
        ("Invoice <ref:r> for your stay", "Dear guest,\n\nInvoice <ref:r> for your group is attached, <sum> in all. <calm>\n\n<bye>\n<me>"),
    ),
    "coach": (
        (
            "Confirmation <ref:r>: coach on the <nth:n>",
            "Dear customer,\n\nThe coach for the <nth:n> is booked under <ref:r>. It waits at the stage door from <hour> on. <calm>\n\n<bye>\n<me>",
        ),
        ("Invoice <ref:r>", "Dear customer,\n\nInvoice <ref:r> for the coach is attached, <sum> in all. <calm>\n\n<bye>\n<me>"),
    ),
    "rail": (
        (
            "Seats of group <ref:r> assigned",
            "Dear customer,\n\nGroup <ref:r> sits in coach <digit>, seats <num> and following. <calm>\n\n<bye>\n<me>",
        ),
        ("Timetable change in <month:m>", "Dear customer,\n\nSome trains leave <few> minutes earlier from <month:m> on. <calm>\n\n<bye>\n<me>"),
    ),
    "insurer": (
        (
            "Claim <ref:r> is paid|Claim <ref:r> is closed",
            "Dear Ms Aldous,\n\nWe paid <sum> on claim <ref:r> today. The policy stays as it is. <calm>\n\n<bye>\n<me>",
        ),
        ("Our office moves in <month:m>", "Dear customer,\n\nIn <month:m> we move to the next street. <calm>\n\n<bye>\n<me>"),
    ),
}  # fmt: skip
_AROUND_ASKS: dict[str, Letters] = {
    "donor": (
        (
            "Two tickets for <day:d>?|May I bring guests on <day:d>?",
            "<greet>\n\nIs there a way to two tickets for <day:d>? I would bring a friend who could help with the [cello|youth|travel] fund. "
            "[<ask>|]\n\n<bye>\n<me>",
        ),
        (
            "What would <few:n> scholarships cost?|Before I decide about <sum:s>",
            "<greet>\n\nI have been thinking about giving <sum:s>. What would it pay for, and by when do you need my word? [<press>|]\n\n"
            "<bye>\n<me>",
        ),
    ),
    "board": (
        (
            "Board on <day:d>: your report|One thing before <day:d>",
            "Dear Maren,\n\nThe board meets on <day:d> at <hour>. May I have the touring numbers before that? [The budget is the only hard "
            "point.|<ask>]\n\n<bye>\n<me>",
        ),
        (
            "A question about <town:t>|<town:t>: do we go or not?",
            "Dear Maren,\n\nThe offer from <town:t> is <sum> below what we agreed. Do we go all the same? <press>\n\n<bye>\n<me>",
        ),
    ),
    "money": (
        (
            "Payment of <sum:s>: please approve|Who signs for <sum:s>?",
            "Maren,\n\nThe bank holds <sum:s> for the hall in <town>. I need your approval too, before <hour>. <ask>\n\n<me>",
        ),
        (
            "Tour budget: one line does not add up|Budget, line <num:n>",
            "Maren,\n\nLine <num:n> of the tour budget is <sum> over. Is that the second coach? <ask>\n\n<me>",
        ),
    ),
    "artist": (
        (
            "The <nth:n>: one thing before we sign|Rehearsal on the <nth:n>",
            "<greet>\n\nWe would sign today if the second rehearsal on the <nth:n> could begin at <hour>. Can it? [<press>|]\n\n<bye>\n<me>",
        ),
        (
            "Which encore on <day:d>?|Travel on <day:d>",
            "<greet>\n\nThe flight on <day:d> lands at <hour:h>. Will somebody be there, or do I take a taxi to the hall? [<ask>|]\n\n"
            "<bye>\n<me>",
        ),
    ),
    "score": (
        (
            "<piece:p>: which edition do you play?|Parts of <piece:p>",
            "<greet>\n\nThere are two editions of <piece:p>, and the parts must match. Which one do you have? <press>\n\n<bye>\n<me>",
        ),
        (
            "Hire <ref:r>: how many desks?|The material goes out on <day:d>",
            "<greet>\n\nThe material for hire <ref:r> goes out on <day:d>. How many desks of first violins do you need? [<ask>|]\n\n"
            "<bye>\n<me>",
        ),
    ),
    "press": (
        (
            "May I quote you on <piece:p>?|The paper goes out on <day:d>",
            "<greet>\n\nThe paper goes out on <day:d>. May I write that <piece:p> was your idea, and do you have a picture of it?\n\n"
            "<bye>\n<me>",
        ),
        (
            "Interview before the concert in <town:t>?|<town:t>: ten minutes on air",
            "<greet>\n\nWould you or the conductor have ten minutes on <day> at <hour> for the concert in <town:t>? <press>\n\n<bye>\n<me>",
        ),
    ),
    "lessons": (
        (
            "May I watch a rehearsal?|A lesson during the tour?",
            "<greet>\n\nMay I sit in on the rehearsal on <day>? I would be quiet, at the back. [<ask>|]\n\n<bye>\n<me>",
        ),
        (
            "<num:n> children on <day:d>?|A class visit",
            "<greet>\n\nCan we come to the open rehearsal on <day:d> with <num:n> children? We have to write to the parents by <day>.\n\n"
            "<bye>\n<me>",
        ),
    ),
    "friend": (
        (
            "Are you free on <day:d>?|<day:d> at my place?",
            "Hi,\n\nWe are cooking on <day:d> at <hour>, just the <few> of us. Are you coming? I have to tell the others.\n\n<me>",
        ),
        (
            "Can I sleep at yours on the <nth:n>?|A favour",
            "Hi Maren,\n\nI am in town on the <nth:n> and the hotels are full. May I sleep on your sofa? Tell me by <day> if you can."
            "\n\n<me>",
        ),
    ),
}  # fmt: skip
_AROUND_TELLS: dict[str, Letters] = {
    "donor": (
        (
            "Our annual report|Season's news",
            "Dear friends,\n\nOur <adj> report is out, with a page about the concert in <town>. <calm>\n\n<bye>\n<me>",
        ),
    ),
    "artist": (
        (
            "Reviews from <town:t>|Photos from <town:t>",
            "Dear friends,\n\nThe reviews of the evening in <town:t> are in, and they are kind. <calm>\n\n<bye>\n<me>",
        ),
        ("We have moved", "Dear friends,\n\nFrom <month> on you find our office upstairs in the same house. <calm>\n\n<bye>\n<me>"),
    ),
    "score": (
        ("New catalogue|Catalogue for the season", "Dear friends,\n\nThe new catalogue is out, with <few> pages on <piece>. <calm>\n\n<bye>\n<me>"),
        ("Material <ref:r> came back", "Good morning,\n\nAll parts of hire <ref:r> came back complete. Thank you. <calm>\n\n<bye>\n<me>"),
    ),
    "press": (
        (
            "Article about <piece:p>|Clipping from <day:d>",
            "Dear Maren,\n\nThe article about <piece:p> came out on <day:d>. I put a copy in the post. <calm>\n\n<bye>\n<me>",
        ),
        ("On air on <day:d>", "Dear all,\n\nThe concert from <town> is on air on <day:d> at <hour>. <calm>\n\n<bye>\n<me>"),
    ),
    "lessons": (
        (
            "Thank you for the lesson|What you told me about <piece:p>",
            "Dear Maren,\n\nI practised what you said, and <piece:p> goes better now. <calm>\n\n<bye>\n<me>",
        ),
    ),
    "class": (
        (
            "Thank you from the class|Pictures of the <instrument:i>",
            "Dear Maren,\n\nThe children still talk about the <instrument:i>. They drew pictures of it, which come by post. <calm>\n\n"
            "<bye>\n<me>",
        ),
        ("Our concert on <day:d>", "Dear friends,\n\nThe classes play on <day:d> at <hour>, parents are welcome. <calm>\n\n<bye>\n<me>"),
    ),
    "friend": (
        ("Photos from <town:t>|Greetings from <town:t>", "Hi,\n\nHere are the pictures from <town:t>. It rained, as you can see.\n\n<me>"),
        ("Back home", "Hi all,\n\nWe are home again. Thank you for <day>, it was good to see you.\n\n<me>"),
    ),
}  # fmt: skip

KINDS: tuple[Kind, ...] = (
    Kind("hall asks", _HALLS, 2.6, DESK, 0.96, 0.7, {"": _HALL_ASKS}),
    Kind("hall tells", _HALLS, 2.4, SHELF, 0.7, 0.02, {"": _HALL_TELLS}),
    Kind("player asks", _TEAM, 3.4, DESK, 0.97, 0.65, {"": _PLAYER_ASKS}, hours=(6, 22)),
    Kind("player chats", _TEAM, 3.2, SHELF, 0.75, 0.05, {"": _PLAYER_TELLS}, hours=(9, 22)),
    Kind("travel asks", _TRAVEL, 2.0, DESK, 0.96, 0.6, _TRAVEL_ASKS),
    Kind("travel tells", _TRAVEL, 2.6, SHELF, 0.6, 0.01, _TRAVEL_TELLS, attachment="invoice.txt"),
    Kind(
        "around", "donor donor2 board treasurer agent soloist composer press *friends", 2.4, DESK, 0.97, 0.6, _AROUND_ASKS,
        hours=(7, 22),
    ),
    Kind(
        "around tells", "donor2 agent publisher radio student school *friends", 1.8, SHELF, 0.65, 0.05, _AROUND_TELLS,
        hours=(8, 21),
    ),
    Kind(
        "ticketing", "ticketing", 22.0, SHELF, 0.35, 0.0,
        {"": (
            (
                "Hourly report <stamp>, <hall>",
                "Sold since the last report: <num>. [First|Second] evening <num:s> of 640. [Gallery closed.|Gallery open.|Returns: "
                "<num>.]\nThis message was made by a machine.",
            ),
            (
                "Hourly report <stamp>, <hall>",
                "Sold since the last report: <num>. Held for the house: <num>. [Gallery closed.|Gallery open.]\nThis message was made by a "
                "machine.",
            ),
            ("Daily sales, <hall>", "Sold today: <num>. Sold in all: <num>0 of 640.\nThis message was made by a machine."),
        )},
        hours=(0, 23),
    ),
    Kind(
        "show cancelled", "ticketing", 0.12, DESK, 1.0, 0.3,
        {"": ((
            "Report <stamp>, <hall:h>: show CANCELLED by the house",
            "The [first|second] evening at <hall:h> was set to CANCELLED at <stamp> by the house. Tickets sold: <num>0. Refunds begin "
            "tomorrow unless you object.",
        ),)},
        hours=(7, 22),
    ),
    Kind(
        "sensor", "sensors", 4.0, DRAIN, 0.05, 0.0,
        {"": (
            (
                "Daily report room 2: humidity 4<digit:l> to 5<digit:h> percent",
                "Lowest value 4<digit:l> percent, highest 5<digit:h>. No event. This message was made by a machine.",
            ),
            (
                "Weekly report room 2",
                "Lowest value of the week 38 percent, highest 5<digit>. Events: none. This message was made by a machine.",
            ),
        )},
        hours=(4, 6),
    ),
    Kind(
        "sensor alarm", "sensors", 0.1, DESK, 1.0, 0.1,
        {"": ((
            "ALARM room 2: humidity 1<digit:h> percent, instruments at risk",
            "Humidity in room 2 has been 1<digit:h> percent for <few> hours. The humidifier does not answer. <num> cases are registered "
            "in this room.",
        ),)},
        hours=(0, 23),
    ),
    Kind(
        "promotions", "kestrel amberbow *shops", 9.0, DIGEST, 0.12, 0.0,
        {"": (
            (
                "<digit:n>0 percent off <ware> until <day:d>|Last days: <ware> for less",
                "Save <digit:n>0 percent on all <ware> until <day:d>. A <adj> offer for friends of the house.",
            ),
            (
                "New <ware>: see what is new|[Autumn|Spring] <ware>: members first",
                "The new <ware> have been played in and are here from <price> on. [Take two, pay one until <day>.|Members save <digit> "
                "percent.]",
            ),
            (
                "Free shipping until <day:d>|Bonus for members until <day:d>",
                "Until <day:d> we send all <ware> free of charge from <price> on. [Only while stocks last.|Members get double points.]",
            ),
        )},
        hours=(4, 9),
    ),
    Kind(
        "newsletters", "lockweir tidemark venues karrasnews *papers", 8.0, DIGEST, 0.25, 0.0,
        {"": (
            (
                "Letter <num>: <event:e> in <town:t>|The week in <home>: <event:e>",
                "In this number: <event:e> in <town:t>, a <adj> conversation about <piece>, <num> reviews, and where to sit in <hall>.",
            ),
            (
                "Bulletin <num>: who pays for <piece:p>?|No. <num>: a <adj:a> hall",
                "Who pays for <piece:p>, and what a <adj:a> hall does to it. Also: <num> jobs, letters from readers, and what <home> plans "
                "for <month>.",
            ),
        )},
        hours=(5, 9),
    ),
    Kind(
        "union", "union", 4.0, SHELF, 0.4, 0.01,
        {"": (
            (
                "Section 9: [Re: |]<topic:t>, a question|Section 9: <topic:t>, what counts",
                "<first:a> and <first:b> asked about <topic:t>. [The short answer is yes.|It depends on the contract.|We put it on the list "
                "for <day>.] <calm>",
            ),
            ("Section 9: minutes of <month:m>", "The minutes of <month:m> are on the members' page. Next meeting on <day> at <hour>. <calm>"),
        )},
        hours=(9, 22),
    ),
    Kind(
        "union vote", "union", 0.25, DESK, 1.0, 0.3,
        {"": ((
            "Section 9: VOTE closes <day:d>, touring agreement",
            "Colleagues, the vote closes on <day:d> at <hour>. Managers confirm their number of players before that. How many are you? Please "
            "answer this message.",
        ),)},
    ),
    Kind(
        "alumni", "alumni", 6.0, DRAIN, 0.08, 0.0,
        {"": (
            (
                "[Re: |Re: Re: |]alumni: who remembers the [porter's parrot|canteen|old organ]?",
                "[I do!|Me too.|It was <adj>.] [Hands up who was there.|My <instrument> teacher told that story every week.]",
            ),
            (
                "[Re: |]alumni: selling a <instrument:i>|[Re: |]alumni: looking for a <instrument:i>",
                "[Found one in <town>.|Make me an offer.|Mine is <adj>, but it plays.] I can bring the <instrument:i> on <day>.",
            ),
            ("[Re: |]alumni: reunion in <town:t>", "[I am coming.|Is it <town:t> again?] Last time <few> of us found the way."),
        )},
        hours=(9, 23),
    ),
    Kind(
        "parcels", "parcel", 3.0, SHELF, 0.5, 0.0,
        {"": (
            ("Your parcel comes on <day:d>", "Parcel SW <ref> <ref> comes on <day:d> between <clock> and the evening."),
            ("Your parcel was left with a neighbour", "Parcel SW <ref> <ref> was left with: <last>."),
            ("Your parcel waits at the shop", "Parcel SW <ref> <ref> waits at the shop; please collect it within <few> days."),
            ("Your parcel is on its way", "Parcel SW <ref> <ref> is on its way to you."),
        )},
        hours=(6, 18),
    ),
    Kind(
        "receipts", "receipt *shops_o", 3.0, SHELF, 0.4, 0.0,
        {"": (
            ("Your receipt: <ware> and <few:n> more", "Thank you. <few:n> more items, total <price>. Keep this receipt for exchange within 30 days."),
            ("Order <ref:r>: [thank you|received]", "Thank you for order <ref:r>. Total <price>. You can exchange it within 30 days."),
            ("Order <ref:r>: shipped", "Order <ref:r>, <ware>, left our house today. Total <price>."),
        )},
        hours=(8, 22),
    ),
    Kind(
        "carrier status", "tollgate_n", 3.0, SHELF, 0.3, 0.0,
        {"": ((
            "Shipment QM-<ref:r>: status changed to [IN TRANSIT|ARRIVED|LOADED|CLEARED]",
            "Shipment QM-<ref:r> (<num> cases) changed status at <stamp>. This message was made by a machine.",
        ),)},
        hours=(0, 23),
    ),
    Kind(
        "carrier trouble", "tollgate_n", 0.3, DESK, 0.98, 0.3,
        {"": (
            (
                "Shipment QM-<ref:r>: status changed to [HELD AT CUSTOMS|REFUSED AT BORDER]",
                "Shipment QM-<ref:r> (<num> cases) changed status at <stamp>. Reason given: [seal broken|list not stamped]. Contact your counter.",
            ),
            (
                "Shipment QM-<ref:r>: status changed to DAMAGED",
                "Shipment QM-<ref:r> (<num> cases) changed status at <stamp>. Reason given: wet on arrival. Contact your counter.",
            ),
        )},
        hours=(0, 23),
    ),
    Kind(
        "bank", "bank", 1.0, SHELF, 0.4, 0.0,
        {"": (
            ("Your statement for [last month|the quarter] is ready", "Your statement is in your mailbox at the bank. No action is needed."),
            ("New terms from <month:m> on", "The price list that holds from <month:m> on is in your mailbox at the bank. No action is needed."),
        )},
        hours=(5, 7),
    ),
    Kind(
        "bank refuses", "bank", 0.15, DESK, 1.0, 0.1,
        {"": ((
            "A payment was refused: [standing order|transfer] to <hall:h>",
            "Your payment of <sum> to <hall:h> was refused because [the daily limit was reached|the account number is wrong]. It will not be "
            "tried again.",
        ),)},
        hours=(5, 9),
    ),
    Kind(
        "invitations", "calendar", 1.5, DESK, 0.95, 0.5,
        {"": (
            ("Invitation: meeting at <hall:h>", "You are invited to a meeting at <hall:h>. Organiser: <first> <last>."),
            ("Invitation: call about <paper:p>", "You are invited to a call about <paper:p>. Organiser: <first> <last>."),
        )},
        hours=(8, 17),
    ),
    Kind(
        "software", "software *papers", 2.0, DIGEST, 0.1, 0.0,
        {"": (
            ("What is new: colours for each ensemble", "Plans can now have colours. You receive this because you have an account."),
            ("What is new: faster printing", "Plans can now be printed by week. You receive this because you have an account."),
            ("What is new: shared plans", "Plans can now be shared with halls. You receive this because you have an account."),
            ("Join our webinar on <day:d>|A film for planners", "On <day:d> at <hour> we show in <num> minutes how to plan <event>. Seats are free."),
        )},
        hours=(8, 11),
    ),
    Kind(
        "agencies pitch", "*agents", 3.0, DIGEST, 0.2, 0.01,
        {"": (
            (
                "Our <own> player: prize in <town:t>|Prize in <town:t>",
                "Dear programmer, our young <own> player <first> <last> won in <town:t>. Listen to the recording and book while dates last.",
            ),
            (
                "Dates free in <month:m>|New quartet: dates free",
                "Dear programmer, our <adj> quartet is free in <month:m>. Read the reviews and book today.",
            ),
            ("Artist roster, [spring|autumn]", "Dear programmer, our new roster is out, with <num> artists and <few> new recordings."),
        )},
    ),
    Kind(
        "cold sales", "*sellers", 3.0, DRAIN, 0.03, 0.0,
        {"": (
            (
                "[Quick question|Following up|Re: our call]: [grow|double] your [audience|reach|sales]",
                "Hi there, I saw your [website|season] and can [double|grow] your [audience|sales] by <digit>0 percent. Are you free for a "
                "call on <day>?",
            ),
            (
                "[Cheap|Best] <sold:s> for orchestras",
                "Hi there, we sell <sold:s> for orchestras, at half of what you pay. Free offer, no risk. When can we talk?",
            ),
        )},
    ),
    Kind(
        "phishing", "phish phish2 *crooks", 3.0, DRAIN, 0.02, 0.0,
        {"freight": (
            (
                "[Carnet|Shipment|Parcel] <ref:r> held: pay [release fee|customs] [today|now]!!",
                "Dear customer, your shipment <ref:r> is hold. You must to pay the fee of <sum> within <num> hours. Click here: your goods will "
                "be destroy.",
            ),
        ), "bank": (
            (
                "Your account has been LIMITED!! Confirm now|URGENT: mailbox will be [closed|deleted]",
                "Dear customer, your account is limited. You must to confirm within <num> hours. Click here or it will be delete.",
            ),
        )},
        hours=(0, 23),
    ),
    Kind(
        "spam", "spam spam2 *crooks", 5.0, DRAIN, 0.01, 0.0,
        {"": (
            (
                "$$$ [Working capital|Instant loan]!!|[Cheap pills|Hot stocks|Gold]: act NOW!!!     <num>",
                "Congratulation! Approved already. Send the [fee|details] first, you have until midnight!!",
            ),
            (
                "You WIN!!|YOU ARE THE WINNER     <ref>",
                "Congratulation! You were drawn among <num>,000. Send the details first and WIN a bonus of <sum>,000 before midnight!!",
            ),
        )},
        hours=(0, 23),
    ),
)  # fmt: skip
