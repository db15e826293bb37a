"""Kinds of mail the grammar writes: who sends them, how often, in what words, and where they belong.

It is long because it is a table of texts.
"""

from __future__ import annotations

from dataclasses import dataclass

from hieranome.core.buckets import DESK, DIGEST, DRAIN, SHELF


@dataclass(frozen=True, slots=True)
class Kind:
    """One kind of mail.

    ``senders`` are keys of the world or ``*pool`` for a made-up correspondent of that pool; ``weight``
    is how much of a hundred messages are of this kind; ``read`` and ``answered`` are shares.
    """

    name: str
    senders: str
    weight: float
    belongs: str
    read: float
    answered: float
    subjects: str
    bodies: str
    hours: tuple[int, int] = (8, 18)
    attachment: str = ""


_HALLS = "salt ropewalk granary glass cloister harbour *halls"
_TEAM = "hedda ruben ines tomas lio petra *players"
_TRAVEL = "tollgate carnet visa hotel coach rail insurer *travel"

KINDS: tuple[Kind, ...] = (
    Kind(
        "hall asks",
        _HALLS,
        2.6,
        DESK,
        0.96,
        0.7,
        "[<hall>|Your date in <town>|The <num>th]: <thing> <trouble>|Question about <thing>|<thing>: [two|three] open points",
        "<greet>\n\n[We looked at|I went through|My colleague checked] <thing>, and <thing> <trouble>. [<press> <ask>|<ask> <press>]"
        "\n\n[It concerns the <num>th.|The house is <adj>, as you know.|Our lift takes 900 kg.] <ask>\n\n<bye>",
    ),
    Kind(
        "hall tells",
        _HALLS,
        2.4,
        SHELF,
        0.7,
        0.02,
        "[New|Changed] [door code|car park|technical sheet|opening hours|house rules] at <hall>|News from <hall>|"
        "Thank you for the evening at <hall>",
        "[Dear partners|Hello everybody|To all guests],\n\n[the <adj> entrance|the car park|the stage door|the canteen] is [closed|open "
        "again|at the back] from the <num>th. <calm>\n\n[A coat was found in room <num>.|The new sheet replaces the old one.|We wish you a "
        "<adj> season.]\n\n<bye>",
    ),
    Kind(
        "player asks",
        _TEAM,
        3.4,
        DESK,
        0.97,
        0.65,
        "[<part>|My <instrument>|<day>'s rehearsal|The coach]: [can you decide|I need a yes|quick question|problem]|"
        "[Ill|Late|Stuck] on <day>, [what now|who can step in]?|<piece>: <part> <trouble>",
        "Maren,\n\n[I am|<first> is] [ill since last night|stuck in <town>|short of <part>|without a <instrument>]. [<ask> <press>|<ask>]"
        "\n\n[I can come by at <hour>.|I have my phone with me.|The others do not know yet.|It is about <piece>.]\n\n<first>",
        hours=(6, 22),
    ),
    Kind(
        "player chats",
        _TEAM,
        3.2,
        SHELF,
        0.75,
        0.05,
        "[Photos|Recording|Minutes|Cake|Lost umbrella|Birthday card] [from|of|for] [<day>|the tour|<town>]|[Thank you|Well played], all",
        "[Hello all|Dear all|Everybody],\n\n[the recording is on the drive|there is cake in the green room|I put the pictures up|the minutes "
        "are attached|somebody left a <instrument> mute]. <calm>\n\n<first>",
        hours=(9, 22),
    ),
    Kind(
        "travel asks",
        _TRAVEL,
        2.0,
        DESK,
        0.96,
        0.6,
        "[Reference|Group|Case|Shipment] <num><num>: [<trouble>|answer needed by <day>|one document missing]|<thing> <trouble>",
        "[Good morning|Dear Ms Aldous],\n\n[case <num>|your group of <num>|file <num>|the <instrument>] <trouble>. <press>\n\n"
        "[Please quote the reference.|The counter is open until <hour>.|The next departure is on <day>.] <ask>\n\n<bye>",
    ),
    Kind(
        "travel tells",
        _TRAVEL,
        2.6,
        SHELF,
        0.6,
        0.01,
        "[Invoice|Confirmation|Receipt] <num><num>|[Opening hours|Fees|Seats] [assigned|next month|over the holiday]|Delivered: cases 1 to <num>",
        "Dear customer,\n\n[cases 1 to <num> were delivered|invoice <num><num> is attached, <sum>|your seats are <num> to <num>|we are closed on "
        "<day>]. <calm>\n\n<bye>",
        attachment="invoice.txt",
    ),
    Kind(
        "around",
        "donor donor2 board treasurer agent soloist composer press *friends",
        2.4,
        DESK,
        0.97,
        0.6,
        "[<day>|A question|<piece>|The <num>th]: [one thing|before you decide|may I ask]|[Two tickets|A word] [before|for] <day>?",
        "<greet>\n\n[I have been thinking about <piece>.|The paper goes out on <day>.|Somebody asked me about <thing>.|It concerns <sum>.] <ask> "
        "[<press>|]\n\n<bye>\n<first>",
        hours=(7, 22),
    ),
    Kind(
        "around tells",
        "donor2 agent publisher radio student school *friends",
        1.8,
        SHELF,
        0.65,
        0.05,
        "[Annual report|Season's news|New catalogue|Programme note|Thank you from <town>]|[Photos|Article|Clipping] [about|of] [<piece>|<town>]",
        "Dear friends,\n\n[our <adj> report is out|here is the note|the article came out on <day>|we have moved upstairs]. <calm>\n\n<bye>\n<first>",
        hours=(8, 21),
    ),
    Kind(
        "ticketing",
        "ticketing",
        22.0,
        SHELF,
        0.35,
        0.0,
        "Hourly report <num>:00, <hall>|Hourly report <num>:00, <hall>|Daily sales, <hall>",
        "Sold since last report: <num>. [First|Second] evening <num><num> of 640. [Gallery closed.|Gallery open.|Returns: <num>.]\nThis message "
        "was made by a machine.",
        hours=(0, 23),
    ),
    Kind(
        "show cancelled",
        "ticketing",
        0.12,
        DESK,
        1.0,
        0.3,
        "Report <num>:00, <hall>: show CANCELLED by the house",
        "The [first|second] evening at <hall> was set to CANCELLED at <num>:10 by the house. Tickets sold: <num><num>. Refunds begin tomorrow "
        "unless you object.",
        hours=(7, 22),
    ),
    Kind(
        "sensor",
        "sensors",
        4.0,
        DRAIN,
        0.05,
        0.0,
        "Daily report room <num>: humidity <num> to <num> percent|Weekly report room <num>",
        "Lowest <num>, highest <num>. No event. This message was made by a machine.",
        hours=(4, 6),
    ),
    Kind(
        "sensor alarm",
        "sensors",
        0.1,
        DESK,
        1.0,
        0.1,
        "ALARM room <num>: humidity <num> percent, instruments at risk",
        "Humidity <num> percent since <num>:40. The humidifier does not answer. <num> cases are registered in this room.",
        hours=(0, 23),
    ),
    Kind(
        "promotions",
        "kestrel amberbow *shops",
        9.0,
        DIGEST,
        0.12,
        0.0,
        "[<num> percent|Free shipping|Bonus] on <good> until <day>|[New|Autumn|Spring] <good>: [members first|see what is new]|"
        "[Last|Only] [day|hours]: <good> for <sum>",
        "[Our|The new] <good> [have been played in|are here|are cheaper] until <day>. [Save <num> percent|Take two, pay one] on [all <good>|the "
        "whole range]. A <adj> offer for [members|friends of the house].",
        hours=(4, 9),
    ),
    Kind(
        "newsletters",
        "lockweir tidemark venues karrasnews *papers",
        8.0,
        DIGEST,
        0.25,
        0.0,
        "[Bulletin|No.|Letter] <num>: [a <adj> hall|<event>|<town> again|who pays for <piece>]|The week in [<town>|the arts]: <event> and <event>",
        "In this number: <event> in <town>, a <adj> conversation about <piece>, [<num> jobs|<num> reviews|letters from readers], and where to "
        "sit in <hall>.",
        hours=(5, 9),
    ),
    Kind(
        "union",
        "union",
        4.0,
        SHELF,
        0.4,
        0.01,
        "[section9] [Travel time|Coach hours|Pension|Biscuits|Stand lights]: [what counts|a question|an answer]|Re: [section9] [Travel "
        "time|Coach hours|Pension]",
        "[Several of you|<first> and <first>] asked about [travel time|the pension|rest hours]. [Short answer: yes.|It depends on <thing>.] <calm>",
        hours=(9, 22),
    ),
    Kind(
        "union vote",
        "union",
        0.25,
        DESK,
        1.0,
        0.3,
        "[section9] VOTE closes <day>: touring agreement",
        "Colleagues, the vote closes <day> at <hour>. Managers confirm their headcount before that. <ask>",
    ),
    Kind(
        "alumni",
        "alumni",
        6.0,
        DRAIN,
        0.08,
        0.0,
        "[Re: |Re: Re: |][alumni] [Who remembers|Selling|Looking for|Reunion in] [the porter's parrot|a <instrument>|<town>|the canteen]",
        "[I do!|Me too.|It was <adj>.|Found one in <town>.] [Hands up who was there.|Make me an offer.|My <instrument> teacher said the same.]",
        hours=(9, 23),
    ),
    Kind(
        "parcels",
        "parcel",
        3.0,
        SHELF,
        0.5,
        0.0,
        "Your parcel [comes <day>|was left with a neighbour|is on its way|waits at the shop]",
        "Parcel SW <num><num> <num><num> [comes <day> between <num>:10 and <num>:40|was left with: <last>|waits until <day>].",
        hours=(6, 18),
    ),
    Kind(
        "receipts",
        "receipt *shops_o",
        3.0,
        SHELF,
        0.4,
        0.0,
        "Your receipt: [plums|flour|lamp|leeks|paper] and <num> more|Order <num><num>: [thank you|received|shipped]",
        "Thank you. Total <sum>. Keep this receipt for exchange within 30 days.",
        hours=(8, 22),
    ),
    Kind(
        "carrier status",
        "tollgate_n",
        3.0,
        SHELF,
        0.3,
        0.0,
        "Shipment QM-<num><num>: status changed to [IN TRANSIT|ARRIVED|LOADED|CLEARED]",
        "Shipment QM-<num><num> (<num> cases) changed status at <num>:48. This message was made by a machine.",
        hours=(0, 23),
    ),
    Kind(
        "carrier trouble",
        "tollgate_n",
        0.3,
        DESK,
        0.98,
        0.3,
        "Shipment QM-<num><num>: status changed to [HELD AT CUSTOMS|REFUSED AT BORDER|DAMAGED]",
        "Shipment QM-<num><num> (<num> cases) changed status at <num>:48. Reason given: [seal broken|sheet not stamped|weight]. Contact your counter.",
        hours=(0, 23),
    ),
    Kind(
        "bank",
        "bank",
        1.0,
        SHELF,
        0.4,
        0.0,
        "Your statement for [last month|the quarter] is ready|New terms from next [quarter|year]",
        "[Your statement|The price list] is in your mailbox at the bank. No action is needed.",
        hours=(5, 7),
    ),
    Kind(
        "bank refuses",
        "bank",
        0.15,
        DESK,
        1.0,
        0.1,
        "A payment was refused: [standing order|transfer] to <hall>",
        "Your payment of <sum> to <hall> was refused because [the daily limit was reached|the account number is wrong]. It will not be tried again.",
        hours=(5, 9),
    ),
    Kind(
        "invitations",
        "calendar",
        1.5,
        DESK,
        0.95,
        0.5,
        "Invitation: [call with|visit to|meeting at] <hall>[ about <thing>|]",
        "You are invited. <day>, <hour> o'clock. Organiser: <first> <last>.",
        hours=(8, 17),
    ),
    Kind(
        "software",
        "software *papers",
        2.0,
        DIGEST,
        0.1,
        0.0,
        "What is new: [colour per ensemble|faster printing|shared plans]|[Join our webinar|A film]: <event> in <num> minutes",
        "Plans can now [carry colours|be printed by week|be shared with halls]. You receive this because you have an account.",
        hours=(8, 11),
    ),
    Kind(
        "agencies pitch",
        "*agents",
        3.0,
        DIGEST,
        0.2,
        0.01,
        "[Our|New] [<instrument> player|quartet|conductor]: [prize in <town>|dates free|recording]|Artist roster [spring|autumn]",
        "Dear programmer, [our <adj> quartet|the young <instrument> player <first> <last>] [won in <town>|is free in <num> weeks]. [Listen to the "
        "recording|Read the reviews] and book [today|while dates last].",
    ),
    Kind(
        "cold sales",
        "*sellers",
        3.0,
        DRAIN,
        0.03,
        0.0,
        "[Quick question|Following up|Re: our call], [grow|double] your [audience|reach|sales]|[Cheap|Best] [print|lights|leads] for orchestras",
        "Hi there, I [noticed|saw] your [website|season] and [can double|will grow] your [audience|sales] by <num>0 percent. [Free|No risk] "
        "offer. Are you free for a call on <day>?",
    ),
    Kind(
        "phishing",
        "phish phish2 *crooks",
        3.0,
        DRAIN,
        0.02,
        0.0,
        "[Carnet|Shipment|Parcel] <num>-<num><num> held: pay [release fee|customs] [today|now]!!|Your account has been LIMITED!! Confirm now|"
        "URGENT: [invoice|mailbox] will be [closed|deleted]",
        "Dear customer, your [shipment is hold|account is limited]. You must to pay the fee of <sum> within <num> hours. Click here: your goods "
        "will be destroy.",
        hours=(0, 23),
    ),
    Kind(
        "spam",
        "spam spam2 *crooks",
        5.0,
        DRAIN,
        0.01,
        0.0,
        "$$$ [Working capital|Instant loan|You WIN]!!|YOU ARE THE WINNER     <num><num>|[Cheap pills|Hot stocks|Gold]: act NOW!!!     <num>",
        "Congratulation! [Approved already|You were drawn among <num>,000]. Send the [fee|details] first and WIN a bonus of <sum>,000 before "
        "midnight!!",
        hours=(0, 23),
    ),
)
