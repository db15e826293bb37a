"""Kinds of mail the grammar writes: who sends them, how often, in what words, and where they belong.

It is long because it is a table of texts.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from hieranome.core.buckets import DESK, DIGEST, DRAIN, SHELF
from hieranome.demo.matters import (
    AROUND_ASKS,
    AROUND_TELLS,
    HALL_ASKS,
    HALL_TELLS,
    PLAYER_ASKS,
    PLAYER_TELLS,
    TRAVEL_ASKS,
    TRAVEL_TELLS,
    Letters,
)


@dataclass(frozen=True, slots=True)
class Kind:
    """One kind of mail.

    ``senders`` are keys of the world or ``*pool`` for a made-up correspondent of that pool; ``weight`` is how much of a
    hundred messages are of this kind; ``read`` and ``answered`` are shares. ``letters`` are those of each matter
    (see :data:`hieranome.demo.matters.MATTERS`); "" is what all its senders write.
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


_HALLS = "salt ropewalk granary glass cloister harbour *halls"
_TEAM = "hedda ruben ines tomas lio petra *players"
_TRAVEL = "tollgate carnet visa hotel coach rail insurer *travel"

KINDS: tuple[Kind, ...] = (
    Kind("hall asks", _HALLS, 2.6, DESK, 0.96, 0.7, {"": HALL_ASKS}),
    Kind("hall tells", _HALLS, 2.4, SHELF, 0.7, 0.02, {"": HALL_TELLS}),
    Kind("player asks", _TEAM, 3.4, DESK, 0.97, 0.65, {"": PLAYER_ASKS}, hours=(6, 22)),
    Kind("player chats", _TEAM, 3.2, SHELF, 0.75, 0.05, {"": PLAYER_TELLS}, hours=(9, 22)),
    Kind("travel asks", _TRAVEL, 2.0, DESK, 0.96, 0.6, TRAVEL_ASKS),
    Kind("travel tells", _TRAVEL, 2.6, SHELF, 0.6, 0.01, TRAVEL_TELLS, attachment="invoice.txt"),
    Kind(
        "around", "donor donor2 board treasurer agent soloist composer press *friends", 2.4, DESK, 0.97, 0.6, AROUND_ASKS,
        hours=(7, 22),
    ),
    Kind(
        "around tells", "donor2 agent publisher radio student school *friends", 1.8, SHELF, 0.65, 0.05, AROUND_TELLS,
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
