"""Who writes in the demo's world. Everybody and every domain is made up."""

from __future__ import annotations

from dataclasses import dataclass

from hieranome.standin.unsubscribing import Manner

OWNER_NAME = "Maren Aldous"
OWNER = "maren@quillmark.example"
TOURS = "tours@quillmark.example"
OLD = "m.aldous@oldharbour.example"
OWNER_ADDRESSES = (OWNER, TOURS, OLD)
TAGGED = "maren+lockweir-7c20@quillmark.example"
TAGGED_FOR = "Lock & Weir, lockweir.example"
"""An address she gave to one festival alone, which somebody passed on."""
TAGS = (
    ("Spring tour", "", ""),
    ("Visas", "Spring tour", "subject:visa* or subject:permit*"),
    ("Carnets", "Spring tour", "subject:carnet* from:tollgatefreight.example"),
    ("Hotels", "Spring tour", 'subject:hotel* or from:hotel or subject:"double rooms"'),
    ("Instruments", "", "subject:strings or subject:timpani or subject:harp"),
)
"""Her tags: each below which, and the search line that finds what she tagged."""
SERVER = "mx.quillmark.example"
SHARED = ("freemail.example", "postbox.example", "webmail.example")
"""Public mail domains of the demo's world."""
VOUCHED = (
    ("domain", "quillmark-board.example", ""),
    ("address", "ysolde@karrasmusic.example", "Ysolde Karras"),
    ("address", "counter4@tollgatefreight.example", "Tollgate Freight, counter 4"),
)
"""Whom Maren vouches for: kind, key, name."""


LEAVING: dict[str, Manner] = {
    "amberbow.example": "fails", "lockweir.example": "page", "tidemarkarts.example": "lies"
}  # fmt: skip
"""How those of the demo's world who do not simply obey answer when they are asked to write no more."""
BULK = (
    "ticketing", "sensors", "kestrel", "amberbow", "lockweir", "tidemark", "union", "alumni", "parcel", "receipt", "bank",
    "tollgate_n", "venues", "software", "karrasnews",
)  # fmt: skip
"""Who of :data:`SENDERS` is meant to write to many, the same for all: lists, newsletters, offers, machines."""


@dataclass(frozen=True, slots=True)
class Sender:
    """A correspondent: name, address, and how their mail is marked."""

    name: str
    address: str
    sign: str = ""
    list_id: str = ""
    unsubscribe: bool = False
    automatic: bool = False
    html: bool = False
    to: str = OWNER


SENDERS: dict[str, Sender] = {
    # the orchestra
    "hedda": Sender("Hedda Lauritz", "hedda@quillmark.example", "Hedda"),
    "ruben": Sender("Ruben Achterberg", "ruben@quillmark.example", "R."),
    "ines": Sender("Ines Obafe", "ines.obafe@quillmark.example", "Ines"),
    "tomas": Sender("Tomas Wieck", "tomas@quillmark.example", "Tomas"),
    "lio": Sender("Lio Marchetto", "lio@quillmark.example", "Lio"),
    "petra": Sender("Petra Sollund", "petra@quillmark.example", "Petra"),
    "board": Sender("Corwin Haythe", "haythe@quillmark-board.example", "Corwin Haythe, chair"),
    "treasurer": Sender("Adela Brookmyre", "brookmyre@quillmark-board.example", "Adela"),
    "conductor": Sender("Ysolde Karras", "ysolde@karrasmusic.example", "Y."),
    "agent": Sender("Bastian Freyling", "bastian@freyling-artists.example", "Bastian Freyling"),
    "soloist": Sender("Noor Vandaele", "noor@vandaele-piano.example", "Noor"),
    # halls
    "salt": Sender("Oskar Brandel, Salt Hall", "brandel@salthall.example", "Oskar Brandel"),
    "saltbox": Sender("Salt Hall Box Office", "boxoffice@salthall.example", "Box office", to=TOURS),
    "ropewalk": Sender("Jess Tarrant, Ropewalk Hall", "jess@ropewalkhall.example", "Jess", to=TOURS),
    "granary": Sender("Milo Penderick", "technical@thegranary.example", "Milo, technical manager", to=TOURS),
    "cloister": Sender("Aurélie Montfaucon", "a.montfaucon@salleducloitre.example", "Aurélie Montfaucon"),
    "glass": Sender("Dietlind Roggemann", "roggemann@glashaus-marrenfeld.example", "Dietlind Roggemann", to=TOURS),
    "harbour": Sender("Elin Skarvik", "elin@harbourrooms.example", "Elin"),
    # freight, customs, travel
    "tollgate": Sender("Tollgate Freight, counter 4", "counter4@tollgatefreight.example", "Counter 4"),
    "tollgate_n": Sender("Tollgate Freight", "notices@tollgatefreight.example", "", automatic=True),
    "carnet": Sender("Wendeline Storck", "storck@carnet-office.example", "W. Storck"),
    "visa": Sender("Visa desk, Ketterholm", "visadesk@ketterholm-consulate.example", "Visa desk"),
    "hotel": Sender("Hotel Zur Waage, groups", "groups@zurwaage.example", "Group reservations", to=TOURS),
    "coach": Sender("Fenwick Coaches", "dispatch@fenwickcoaches.example", "Dispatch", to=TOURS),
    "rail": Sender("Ostmark Rail Groups", "groups@ostmarkrail.example", "Group desk", to=TOURS),
    "insurer": Sender("Gideon Plaskett", "plaskett@anchorlight-insurance.example", "Gideon Plaskett"),
    "luthier": Sender("Maurits Vann", "workshop@vann-luthier.example", "Maurits"),
    # people around it
    "donor": Sender("Eleanor Dray", "eleanor.dray@postbox.example", "Eleanor Dray"),
    "donor2": Sender("Hector Amsel", "h.amsel@amselworks.example", "H. Amsel"),
    "mother": Sender("Greta Aldous", "greta.aldous@freemail.example", "Mum"),
    "friend": Sender("Jonna Peake", "jonna.peake@freemail.example", "J."),
    "deputy": Sender("Silke Arends", "silke.arends@freemail.example", "Silke"),
    "deputy2": Sender("Caspar Nyholt", "caspar.nyholt@postbox.example", "Caspar"),
    "press": Sender("Teodor Lisk", "lisk@morningbell.example", "Teodor Lisk, arts desk"),
    "radio": Sender("Marguerite Faure", "mfaure@ondeclaire.example", "Marguerite Faure"),
    "student": Sender("Abel Otieku", "abel.otieku@freemail.example", "Abel"),
    "school": Sender("Brook Lane School, music", "music@brooklane.example", "Ms Ferrow"),
    "composer": Sender("Ottilie Brandvold", "ottilie@brandvold.example", "Ottilie"),
    "publisher": Sender("Hire library, Kestrel Editions", "hire@kestreleditions.example", "Hire library"),
    # machines and bulk
    "ticketing": Sender("Turnstile Reports", "reports@turnstile.example", "", automatic=True, to=TOURS),
    "sensors": Sender("Rehearsal room 2", "sensor-r2@roomwatch.example", "", automatic=True, to=TOURS),
    "kestrel": Sender(
        "Kestrel Strings",
        "news@kestrelstrings.example",
        "",
        list_id="offers.kestrelstrings.example",
        unsubscribe=True,
        html=True,
        to=OLD,
    ),
    "kestrel_o": Sender("Kestrel Strings, orders", "orders@kestrelstrings.example", "Order desk", to=OLD),
    "amberbow": Sender(
        "Amberbow Rosin",
        "hello@amberbow.example",
        "",
        list_id="club.amberbow.example",
        unsubscribe=True,
        html=True,
        to=OLD,
    ),
    "lockweir": Sender(
        "Lock & Weir Festival",
        "bulletin@lockweir.example",
        "",
        list_id="bulletin.lockweir.example",
        unsubscribe=True,
        html=True,
        to=TAGGED,
    ),
    "lockweir_p": Sender("Lock & Weir Festival, artists", "artists@lockweir.example", "Artist liaison"),
    "tidemark": Sender(
        "Tidemark Arts Weekly",
        "weekly@tidemarkarts.example",
        "",
        list_id="weekly.tidemarkarts.example",
        unsubscribe=True,
        html=True,
    ),
    "union": Sender(
        "Players' Union, section 9",
        "section9@playersunion.example",
        "",
        list_id="section9.playersunion.example",
        to="section9@playersunion.example",
    ),
    "alumni": Sender(
        "Conservatoire alumni",
        "alumni@northgate-conservatoire.example",
        "",
        list_id="alumni.northgate-conservatoire.example",
        to="alumni@northgate-conservatoire.example",
    ),
    "parcel": Sender("Swallow Parcels", "track@swallowparcels.example", "", automatic=True, to=OLD),
    "receipt": Sender("Larder & Loft", "receipts@larderloft.example", "", automatic=True, html=True, to=OLD),
    "bank": Sender("Copperfield Bank", "service@copperfieldbank.example", "", automatic=True),
    "calendar": Sender("Quillmark calendar", "calendar@quillmark.example", "", automatic=True),
    "venues": Sender(
        "Hall Managers' Exchange",
        "digest@hallmanagers.example",
        "",
        list_id="exchange.hallmanagers.example",
        unsubscribe=True,
    ),
    "software": Sender(
        "Planwell", "updates@planwell.example", "", list_id="updates.planwell.example", unsubscribe=True, html=True
    ),
    "karrasnews": Sender(
        "Karras Letter",
        "letter@karrasmusic.example",
        "",
        list_id="letter.karrasmusic.example",
        unsubscribe=True,
        html=True,
    ),
    # hostile
    "phish": Sender("Tollgate Freight", "counter4@tollgate-freight-release.example", "Release desk", html=True),
    "phish2": Sender("Copperfield Bank Security", "alert@copperfie1dbank.example", "", html=True, to=OLD),
    "spam": Sender("Fast Funding", "offer@cashquick-now.example", "", html=True, to=TAGGED),
    "spam2": Sender("GOLDEN TICKET", "win@lotto-world.example", "", html=True, to=OLD),
}
