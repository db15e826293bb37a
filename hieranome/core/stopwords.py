"""Words too common to tell one message from another, in the languages that ship. Data, to be added to."""

from __future__ import annotations

BY_LANGUAGE: dict[str, str] = {
    "en": "a about after all also am an and any are as at be because been before but by can could did do does for from get "
    "had has have he her here him his how i if in into is it its just like me more my no not now of on one only or our out "
    "over she so some than that the their them then there these they this to up us was we were what when where which who "
    "will with would you your yours",
    "de": "aber als am an auch auf aus bei bin bis da das dass dem den der des die dies diese du ein eine einem einen einer er "
    "es für haben hat ich ihm ihr im in ist ja kein man mich mir mit nach nicht noch nur oder sein sich sie sind so über um "
    "und uns unser vom von vor war was wenn wer wie wir wird zu zum zur",
    "fr": "à au aux avec ce ces cet cette dans de des du elle elles en est et être il ils je la le les leur lui ma mais me mes "
    "mon ne nos notre nous on ou par pas plus pour qu que qui sa sans se ses si son sont sur ta te tes toi ton tu un une vos "
    "votre vous y",
    "es": "a al algo con como de del desde el ella ellos en entre era es esta este esto la las le les lo los me mi mis muy más "
    "no nos nuestra nuestro o para pero por que se ser si sin sobre son su sus también te tu un una uno y ya yo",
}

WORDS: frozenset[str] = frozenset(word for words in BY_LANGUAGE.values() for word in words.split())
"""All of them, whatever the language."""

AUXILIARY: frozenset[str] = frozenset(
    (
        "may might should shall must need let got "
        "kann kannst können könnt könnte könnten soll sollen sollte sollten muss musst müssen müsst darf dürfen dürfte "
        "werden würde würden hatte hatten möchte möchten "
        "peut peux peuvent pouvez pouvons pourrait pourriez doit dois doivent devez devons devrait faut sera serait avoir "
        "puede pueden puedes podría podrían debe deben debes debería hay será sería tiene tienen tengo"
    ).split()
)
"""Verbs that say of another what can, must or may be. A text tells something by them, a word of a subject does not."""
