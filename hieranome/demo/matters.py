"""What correspondents write about: which matters are whose, and the letters of each, as rules of the grammar.

It is long because it is a table of texts.
"""

from __future__ import annotations

Letters = tuple[tuple[str, str], ...]
"""Subjects and texts that belong together, as rules of :mod:`hieranome.demo.grammar`."""


MATTERS: dict[str, tuple[str, ...]] = {
    "tollgate": ("freight",), "carnet": ("carnet",), "visa": ("visa",), "hotel": ("hotel",), "coach": ("coach",),
    "rail": ("rail",), "insurer": ("insurer",), "*travel": ("hotel", "coach", "rail"),
    "donor": ("donor",), "donor2": ("donor",), "board": ("board",), "treasurer": ("money",), "agent": ("artist",),
    "soloist": ("artist",), "composer": ("score",), "press": ("press",), "publisher": ("score",), "radio": ("press",),
    "phish": ("freight",), "phish2": ("bank",), "*crooks": ("freight", "bank"), "student": ("lessons",), "school": ("class",), "*friends": ("friend", "donor", "lessons", "friend"),
}  # fmt: skip
"""What a correspondent writes about; those of a pool (``*name``) take turns."""
OWN: dict[str, dict[str, str]] = {
    "salt": {"house": "Salt Hall"}, "ropewalk": {"house": "Ropewalk Hall"}, "granary": {"house": "the Granary"},
    "glass": {"house": "the Glasshouse"}, "cloister": {"house": "Cloister Hall"}, "harbour": {"house": "Harbour Rooms"},
    "kestrel": {"ware": "strings"}, "amberbow": {"ware": "rosin"}, "receipt": {"ware": "<larder>"},
}  # fmt: skip
"""What the mail of those in :data:`~hieranome.demo.world.SENDERS` always says."""

HALL_ASKS: Letters = (
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
HALL_TELLS: Letters = (
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
PLAYER_ASKS: Letters = (
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
PLAYER_TELLS: Letters = (
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
TRAVEL_ASKS: dict[str, Letters] = {
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
TRAVEL_TELLS: dict[str, Letters] = {
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
AROUND_ASKS: dict[str, Letters] = {
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
AROUND_TELLS: dict[str, Letters] = {
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
