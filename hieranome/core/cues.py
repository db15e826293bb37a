"""Cue words: what a message asks for, in the languages that ship. Data, to be added to."""

from __future__ import annotations

CUES: dict[str, dict[str, str]] = {
    "request": {
        "en": "please could would need require required confirm approve sign urgent question",
        "de": "bitte brauche brauchen dringend bestätigen unterschreiben könnten frage",
        "fr": "veuillez besoin urgent urgence confirmer signer pourriez question",
        "es": "favor necesito necesitamos urgente confirmar firmar podría pregunta",
    },
    "deadline": {
        "en": "today tomorrow tonight deadline until asap noon",
        "de": "heute morgen frist bis spätestens mittag",
        "fr": "aujourd'hui demain délai avant midi",
        "es": "hoy mañana plazo antes mediodía",
    },
    "trouble": {
        "en": "cancelled canceled ill sick missing held failed delayed broken refused lost",
        "de": "abgesagt krank fehlt verloren verspätet kaputt",
        "fr": "annulé malade manque perdu retard cassé",
        "es": "cancelado enfermo falta perdido retraso roto",
    },
    "offer": {
        "en": "offer discount sale free deal save percent bonus win winner subscribe webinar newsletter",
        "de": "rabatt angebot gratis sparen gewinnen rabattcode",
        "fr": "promo soldes offre gratuit remise gagnez",
        "es": "oferta descuento gratis ahorra rebajas gana",
    },
}

WORDS: dict[str, frozenset[str]] = {
    cue: frozenset(word for words in by_language.values() for word in words.split())
    for cue, by_language in CUES.items()
}
"""All words of a cue, whatever the language."""

PROMISES: dict[str, str] = {
    "en": (
        r"\b(?:I|we)(?:['’]ll| will| shall)(?! (?:never|not|be|have|miss|see|remember|need|always)\b)"
        r"|\byou(?:['’]ll| will) (?:have|get|hear|receive)\b|\blet me (?:check|ask|find|look|see)\b"
    ),
    "de": (
        r"\b(?:ich|wir) (?:schicken?|sende|senden|melden? (?:mich|uns)|rufen?|gebe|frage|prüfe|kläre|bestätige)\b"
        r"|\b(?:ich|wir) (?:werde|werden)(?! nicht\b)"
    ),
    "fr": r"\b(?:je|nous) (?:vous |t['’]|te |l['’])?(?:enverr|rappeller|confirmer|demander|vérifier|reviendr|ferai)\w*",
    "es": r"\b(?:te|le|os|les|lo)? ?(?:enviaré|enviaremos|llamaré|confirmaré|preguntaré|mandaré|diré)\b",
}
"""By what writers promise something, as patterns."""

DECLINES: dict[str, str] = {
    "en": (
        r"\bno need (?:for you )?to (?:answer|reply|respond)"
        r"|\bdo(?:n['’]t| not) (?:have|need) to (?:answer|reply|respond)"
        r"|\bno (?:answer|reply) (?:is )?(?:needed|necessary|required)"
    ),
    "de": (
        r"\bkeine antwort (?:ist )?(?:nötig|notwendig|erforderlich)"
        r"|\b(?:musst|müssen sie|müsst|brauchst|brauchen sie) (?:mir )?nicht (?:zu )?antworten"
    ),
    "fr": r"\b(?:inutile|pas besoin|pas la peine) de (?:me )?répondre|\baucune réponse n['’]est (?:nécessaire|requise)",
    "es": r"\bno (?:hace falta|es necesario) (?:que )?respond\w+|\bno necesita\w* responder",
}
"""How the writer of a text says that no answer is wanted."""
